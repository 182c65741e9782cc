/** What the house rules read from the server. */
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";

export const useHouseRules = () =>
  useQuery({
    queryKey: ["house rules"],
    queryFn: () => answer(api.GET("/api/house-rules")),
    refetchOnMount: "always", // what is kept on this machine may not be true any more
  });

/** What the core asks of a shop's rules. */
export const useRuleFields = () =>
  useQuery({
    queryKey: ["rule fields"],
    queryFn: () => answer(api.GET("/api/house-rules/fields")),
    staleTime: Number.POSITIVE_INFINITY,
  });
