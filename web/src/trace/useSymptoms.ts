import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";

/** What a customer can say. */
export const useSymptoms = () =>
  useQuery({
    queryKey: ["symptoms"],
    queryFn: () => answer(api.GET("/api/symptoms")),
    staleTime: Number.POSITIVE_INFINITY,
  });
