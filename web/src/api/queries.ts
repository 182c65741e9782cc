/** What several rooms read from the server. */
import { keepPreviousData, QueryCache, QueryClient, useQuery } from "@tanstack/react-query";
import { asQuery, type Stage, useViewing } from "../app/viewing";
import { KEPT, KEPT_MS } from "../offline/kept";
import { ApiError, answer, api, type Schemas } from "./client";
import { confirmed } from "./person";
import { heard, isExpected } from "./unexpected";

const WAITED_FOR = [0, 503]; // no answer at all, or the database is away

export const queryClient = new QueryClient({
  queryCache: new QueryCache({
    onError: (error, query) => heard(query.queryHash, isExpected(error) ? null : error.message),
    onSuccess: (_, query) => heard(query.queryHash, null),
  }),
  defaultOptions: {
    queries: {
      staleTime: 2000,
      // What the server fails at it may fail at again: said after a few tries, not waited for in silence.
      retry: (count, error) =>
        error instanceof ApiError && error.passing && (WAITED_FOR.includes(error.status) || count < 2),
      retryDelay: (attempt) => Math.min(500 * 2 ** attempt, 3000),
    },
  },
});

// What is kept for the phone is not let go of while the page is open.
for (const kept of KEPT) queryClient.setQueryDefaults([kept], { gcTime: KEPT_MS });

/** Read anew what is shown. A first reading under way may be older than what was just written: it is given up. */
export async function refreshAll() {
  const shown = { predicate: ({ queryKey }: { queryKey: readonly unknown[] }) => queryKey[0] !== "session" };
  await queryClient.cancelQueries(shown);
  await queryClient.invalidateQueries(shown);
}

export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const session = await answer(api.GET("/api/session"));
      confirmed(session.person);
      return session;
    },
    staleTime: Number.POSITIVE_INFINITY,
    refetchOnMount: "always", // what is kept on this machine may not be true any more
  });

/** The board of a job in the state that is looked at. */
export function useBoard(jobId: string, enabled = true) {
  const query = asQuery(useViewing(jobId));
  return useQuery({
    queryKey: ["board", jobId, query],
    enabled,
    queryFn: () => answer(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: jobId }, query } })),
    placeholderData: (previous) => (previous?.job.id === jobId ? previous : undefined),
  });
}

/** The stage that is looked at; where nothing is planned there is but one. */
export function useStage(jobId: string): Stage {
  const { stage } = useViewing(jobId);
  return useBoard(jobId).data?.moment.changed ? stage : "planned";
}

/** Every reading of a job, with its place on the profile that is shown. */
export function useReadings(jobId: string) {
  const viewing = useViewing(jobId);
  const query = { ...asQuery(viewing), basis: viewing.basis };
  return useQuery({
    queryKey: ["readings", jobId, query],
    queryFn: () =>
      answer(api.GET("/api/jobs/{job_id}/readings", { params: { path: { job_id: jobId }, query } })),
    placeholderData: keepPreviousData,
  });
}

/** Edits that are tried and not yet kept: what they do in a few words, and where they were asked for. */
export type Trial = Schemas["Remedy"] & { from: "ladder" | "cure" | "sizes" | "slider" };

/** Something done to the metal for a test, never part of the plan. */
export type Offer = Schemas["Offer"];

/** How far what takes long is that this person waits for. */
export const useUnderWay = (jobId: string, enabled: boolean) =>
  useQuery({
    queryKey: ["under way", jobId],
    enabled,
    queryFn: ({ signal }) =>
      answer(api.GET("/api/jobs/{job_id}/under-way", { params: { path: { job_id: jobId } }, signal })),
    refetchInterval: 1000,
    gcTime: 0,
  });

/** What the core asks of each kind of part; it does not change while the page is open. */
export const useForms = () =>
  useQuery({
    queryKey: ["forms"],
    queryFn: () => answer(api.GET("/api/forms")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export type QuantityKind =
  | "length"
  | "current"
  | "voltage"
  | "resistance"
  | "power"
  | "temperature"
  | "share"
  | "size";

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
export type Forms = Schemas["Forms"];
export type FormField = Schemas["FormField"];
export type Segment = Schemas["SegmentOut"];
export type Device = Schemas["DeviceOut"];
export type Input = Schemas["InputOut"];
export type Difference = Schemas["Difference"];
export type Fork = Schemas["Fork"];
export type Leg = Schemas["Leg"];
export type Ladder = Schemas["Ladder"];
export type Rung = Schemas["Rung"];
export type RouteStarter = Schemas["StarterOut"];
export type MatrixView = Schemas["MatrixView"];
export type StateRow = Schemas["StateRow"];
export type Cell = Schemas["Cell"];
export type WhyView = Schemas["WhyView"];
export type ProofView = Schemas["ProofView"];
export type Forbidden = Schemas["ForbiddenView"];
export type Pulled = Schemas["PulledView"];
export type DriveView = Schemas["DriveView"];
export type JobSheet = Schemas["SheetOut"];
export type Sizes = Schemas["Sizes"];
export type Finding = Schemas["Finding"];
export type Budget = Schemas["BudgetOut"];
export type LedgerLoad = Schemas["LoadOut"];
export type Balance = Schemas["Balance"];
export type Driven = Schemas["Driven"];
export type Reading = Schemas["ReadingOut"];
export type AskedTest = Schemas["CheckOut"];
export type Traced = Schemas["TraceOut"];
export type Came = Schemas["Came"];
export type { Stage };
export type VerdictWord = Schemas["Verdict"]["word"];
