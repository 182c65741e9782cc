/** What the list of jobs reads from the server. */
import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../api/client";

export type JobsAsked = { archived: boolean; search: string; nominal_v?: number };

const PAGE = 50; // jobs at a time, as the server has them

/** The jobs that are asked for, a page at a time; what was found before stands until the next is there. */
export const useJobs = (asked: JobsAsked) =>
  useInfiniteQuery({
    queryKey: ["jobs", asked],
    queryFn: ({ pageParam }) =>
      answer(api.GET("/api/jobs", { params: { query: { ...asked, page: pageParam } } })),
    initialPageParam: 1,
    getNextPageParam: (last, pages) => (last.length < PAGE ? undefined : pages.length + 1),
    placeholderData: keepPreviousData,
  });

/** What is asked of a vehicle that came in. */
export const useQuestions = () =>
  useQuery({
    queryKey: ["came in", "questions"],
    queryFn: () => answer(api.GET("/api/came-in/questions")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** The usual vehicle from some answers. */
export const useUsualVehicle = (answers: Answers) =>
  useQuery({
    queryKey: ["came in", answers],
    queryFn: () => answer(api.POST("/api/came-in/vehicle", { body: { answers } })),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });

export type Question = Schemas["Question"];
/** By question; what is left out is open. */
export type Answers = Record<string, string>;
