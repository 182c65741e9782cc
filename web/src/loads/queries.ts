/** What the Loads room reads from the server: the budget, with what is tried, and usual consumers. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { type Trial, useStage } from "../api/queries";

/** The load budget of a job at the stage that is looked at, with one of its drives. */
export function useBudget(jobId: string, drive: string | null) {
  const query = { stage: useStage(jobId), ...(drive ? { drive } : {}) };
  return useQuery({
    queryKey: ["budget", jobId, query],
    queryFn: () =>
      answer(api.GET("/api/jobs/{job_id}/budget", { params: { path: { job_id: jobId }, query } })),
    placeholderData: keepPreviousData,
  });
}

/** The same with edits that are tried; an answer that is no longer waited for is dropped. */
export function useBudgetTrial(jobId: string, drive: string | null, trial: Trial | null) {
  const body = { edits: trial?.edits ?? [], stage: useStage(jobId), drive };
  return useQuery({
    queryKey: ["budget trial", jobId, body],
    enabled: trial !== null,
    queryFn: ({ signal }) =>
      answer(
        api.POST("/api/jobs/{job_id}/budget/what-if", { params: { path: { job_id: jobId } }, body, signal }),
      ),
    placeholderData: keepPreviousData,
  });
}

export const useTypicalConsumers = (jobId: string) =>
  useQuery({
    queryKey: ["typical consumers", jobId],
    queryFn: () =>
      answer(api.GET("/api/jobs/{job_id}/typical-consumers", { params: { path: { job_id: jobId } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
