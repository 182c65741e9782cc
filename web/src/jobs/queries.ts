/** What the list of jobs reads from the server. */
import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";

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
