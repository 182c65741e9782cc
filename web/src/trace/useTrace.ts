/** What tracing answers of what is known of one vehicle. */
import { useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../api/client";
import { queryClient, type Traced } from "../api/queries";

/**
 * What is wrong, from what was said, the readings of the log that count, and what was mended. Until there is an answer,
 * and without network, the last one of this stage stands.
 */
export function useTrace(jobId: string, body: Schemas["TraceIn"], enabled = true) {
  const ofStage = { queryKey: ["trace", jobId, body.stage] };
  return useQuery({
    queryKey: [...ofStage.queryKey, body],
    enabled,
    queryFn: async () => {
      const params = { path: { job_id: jobId } };
      const traced = await answer(api.POST("/api/jobs/{job_id}/trace", { params, body }));
      queryClient.removeQueries({ ...ofStage, type: "inactive" });
      return traced;
    },
    placeholderData: (previous) =>
      previous ?? queryClient.getQueriesData<Traced>(ofStage).findLast(([, traced]) => traced)?.[1],
  });
}
