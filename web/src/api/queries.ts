/** What the screens read from the server. */
import { keepPreviousData, QueryClient, useQuery } from "@tanstack/react-query";
import { ApiError, answer, api, type Schemas } from "./client";

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 2000,
      retry: (_, error) => error instanceof ApiError && error.passing,
      retryDelay: (attempt) => Math.min(500 * 2 ** attempt, 3000),
    },
  },
});

export const refreshAll = () =>
  queryClient.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== "session" });

export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: () => answer(api.GET("/api/session")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useJobs = (archived: boolean) =>
  useQuery({
    queryKey: ["jobs", archived],
    queryFn: () => answer(api.GET("/api/jobs", { params: { query: { archived } } })),
  });

export const useBoard = (jobId: string, enabled = true) =>
  useQuery({
    queryKey: ["board", jobId],
    enabled,
    queryFn: () => answer(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: jobId } } })),
  });

export const useReadings = (jobId: string) =>
  useQuery({
    queryKey: ["readings", jobId],
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/readings", { params: { path: { job_id: jobId } } })),
  });

export type Series = "awg" | "metric";
/** Unsaved changes of segment specs, by segment id. */
export type Trial = Record<string, Record<string, string | number>>;

export const useCircuit = (circuitId: string, series: Series | null) =>
  useQuery({
    queryKey: ["circuit", circuitId, series],
    queryFn: () =>
      answer(
        api.GET("/api/circuits/{circuit_id}", {
          params: { path: { circuit_id: circuitId }, query: series ? { series } : {} },
        }),
      ),
    placeholderData: (previous) => (previous?.circuit.id === circuitId ? previous : undefined),
  });

export const useWhatIf = (circuitId: string, trial: Trial | null, series: Series | null) =>
  useQuery({
    queryKey: ["what-if", circuitId, trial, series],
    enabled: trial !== null,
    queryFn: () =>
      answer(
        api.POST("/api/circuits/{circuit_id}/what-if", {
          params: { path: { circuit_id: circuitId } },
          body: { changes: trial ?? {}, series },
        }),
      ),
    placeholderData: keepPreviousData,
  });

export type QuantityKind = "length" | "current" | "voltage" | "resistance" | "share" | "size";

export const useUnderstood = (kind: QuantityKind, text: string) =>
  useQuery({
    queryKey: ["understand", kind, text],
    enabled: text.trim() !== "",
    queryFn: () => answer(api.GET("/api/understand", { params: { query: { kind, text } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });

export type Job = Schemas["JobOut"];
export type Board = Schemas["Board"];
export type BoardLine = Schemas["BoardLine"];
export type CircuitView = Schemas["CircuitView"];
export type Segment = Schemas["SegmentOut"];
export type Leg = Schemas["Leg"];
export type Ladder = Schemas["Ladder"];
export type Rung = Schemas["Rung"];
export type Finding = Schemas["Finding"];
export type Reading = Schemas["ReadingOut"];
export type VerdictWord = Schemas["Verdict"]["word"];
