/** What the States room reads from the server: what is live, why, what must never happen, what pulling does, a drive. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { type Trial, useStage } from "../api/queries";
import { asQuery, type State, useViewing } from "../app/viewing";

/** Every device in every state, with inputs as they are set. */
export function useMatrix(jobId: string) {
  const query = useLooked(jobId);
  return useQuery({
    queryKey: ["matrix", jobId, query],
    queryFn: () =>
      answer(api.GET("/api/jobs/{job_id}/states", { params: { path: { job_id: jobId }, query } })),
    placeholderData: keepPreviousData,
  });
}

/** Why a device does what it does in a state. */
export function useWhy(jobId: string, cell: { part: string; state: State } | null) {
  const query = { ...useLooked(jobId), ...(cell ? { state: cell.state } : {}) };
  return useQuery({
    queryKey: ["why", jobId, cell?.part, query],
    enabled: cell !== null,
    queryFn: () =>
      answer(
        api.GET("/api/jobs/{job_id}/states/why/{part}", {
          params: { path: { job_id: jobId, part: cell?.part ?? "" }, query },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** Everything forbidden that can be brought about at the stage looked at, or as planned with edits that are tried. */
export function useProof(jobId: string, trial: Trial | null) {
  const stage = useStage(jobId);
  return useQuery({
    queryKey: ["proof", jobId, stage, trial],
    queryFn: ({ signal }) =>
      trial
        ? answer(
            api.POST("/api/jobs/{job_id}/proof/what-if", {
              params: { path: { job_id: jobId } },
              body: { edits: trial.edits },
              signal,
            }),
          )
        : answer(
            api.GET("/api/jobs/{job_id}/proof", {
              params: { path: { job_id: jobId }, query: { stage } },
              signal,
            }),
          ),
  });
}

/** What each part does that can be taken out. */
export function usePulled(jobId: string, enabled: boolean) {
  const query = useLooked(jobId);
  return useQuery({
    queryKey: ["pulled", jobId, query],
    enabled,
    queryFn: ({ signal }) =>
      answer(api.GET("/api/jobs/{job_id}/pulled", { params: { path: { job_id: jobId }, query }, signal })),
    placeholderData: keepPreviousData,
  });
}

/** A drive step by step; an empty way is from parked to parked. */
export function useDrive(jobId: string, way: string, enabled: boolean) {
  const query = { ...useLooked(jobId), way };
  return useQuery({
    queryKey: ["drive", jobId, query],
    enabled,
    queryFn: () =>
      answer(api.GET("/api/jobs/{job_id}/drive", { params: { path: { job_id: jobId }, query } })),
    placeholderData: keepPreviousData,
  });
}

/** What is looked at, as the API takes it; where nothing is planned there is one stage. */
function useLooked(jobId: string) {
  return { ...asQuery(useViewing(jobId)), stage: useStage(jobId) };
}
