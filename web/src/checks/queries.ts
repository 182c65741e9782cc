/** What the Tests room reads from the server: tests, and the instruments there are. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { useStage } from "../api/queries";

/** The tests of a job at the stage that is looked at, or of one of its circuits. */
export function useChecks(jobId: string, circuitId: string | null, enabled = true) {
  const query = { stage: useStage(jobId), ...(circuitId ? { circuit_id: circuitId } : {}) };
  return useQuery({
    queryKey: ["tests", jobId, query],
    enabled,
    queryFn: () =>
      answer(api.GET("/api/jobs/{job_id}/tests", { params: { path: { job_id: jobId }, query } })),
    placeholderData: keepPreviousData,
  });
}

/** The instruments that the operator named. */
export const useInstruments = () =>
  useQuery({
    queryKey: ["instruments"],
    queryFn: () => answer(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
