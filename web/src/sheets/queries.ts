/** What the Sheets room reads from the server. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";

export function useSheets(jobId: string) {
  return useQuery({
    queryKey: ["sheets", jobId],
    queryFn: ({ signal }) =>
      answer(api.GET("/api/jobs/{job_id}/sheets", { params: { path: { job_id: jobId } }, signal })),
    placeholderData: keepPreviousData,
  });
}
