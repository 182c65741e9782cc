/** What the overview reads from the server besides the board itself. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { useStage } from "../api/queries";

/** What the rules notice of the plan, for the board. */
export function usePlanFindings(jobId: string) {
  const stage = useStage(jobId);
  return useQuery({
    queryKey: ["plan findings", jobId, stage],
    queryFn: () =>
      answer(
        api.GET("/api/jobs/{job_id}/plan-findings", {
          params: { path: { job_id: jobId }, query: { stage } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}
