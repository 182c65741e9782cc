/** What the screens read from the server. */
import { keepPreviousData, QueryCache, QueryClient, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { asQuery, type Stage, useViewing, type Viewing } from "../app/viewing";
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

/** The tests of a job at the stage that is looked at, or of one of its circuits. */
export function useChecks(jobId: string, circuitId: string | null) {
  const query = { stage: useStage(jobId), ...(circuitId ? { circuit_id: circuitId } : {}) };
  return useQuery({
    queryKey: ["tests", jobId, query],
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

export type Series = "awg" | "metric";
/** Edits that are tried and not yet kept: what they do in a few words, and where they were asked for. */
export type Trial = Schemas["Remedy"] & { from: "ladder" | "cure" | "sizes" | "slider" };

/** Something done to the metal for a test, never part of the plan. */
export type Offer = Schemas["Offer"];

/** What is looked at with something done to the metal: then always as it runs. */
const tried = (viewing: Viewing, metal: Offer[]) => ({
  ...asQuery(viewing),
  basis: metal.length > 0 ? ("state" as const) : viewing.basis,
  preparations: metal.map((each) => each.text),
});

export function useCircuit(jobId: string, circuitId: string, series: Series | null, metal: Offer[]) {
  const viewing = useViewing(jobId);
  const query = { ...tried(viewing, metal), ...(series ? { series } : {}) };
  return useQuery({
    queryKey: ["circuit", circuitId, query],
    queryFn: () =>
      answer(api.GET("/api/circuits/{circuit_id}", { params: { path: { circuit_id: circuitId }, query } })),
    placeholderData: (previous) => (previous?.circuit.id === circuitId ? previous : undefined),
  });
}

/** What can be done to the metal along a circuit. */
export function useOffers(jobId: string, circuitId: string) {
  const stage = useStage(jobId);
  return useQuery({
    queryKey: ["offers", circuitId, stage],
    queryFn: () =>
      answer(
        api.GET("/api/circuits/{circuit_id}/preparations", {
          params: { path: { circuit_id: circuitId }, query: { stage } },
        }),
      ),
  });
}

export function useWhatIf(
  jobId: string,
  circuitId: string,
  trial: Trial | null,
  series: Series | null,
  metal: Offer[],
) {
  const { basis, ...view } = tried(useViewing(jobId), metal);
  const [edit] = trial?.edits ?? [];
  const stepped = trial?.from === "ladder" && edit?.do === "change segment" ? edit.segment_id : null;
  const looked = { view, basis, series, ladder_of: stepped };
  return useQuery({
    queryKey: ["what-if", circuitId, trial, looked],
    enabled: trial !== null,
    queryFn: () =>
      answer(
        api.POST("/api/circuits/{circuit_id}/what-if", {
          params: { path: { circuit_id: circuitId } },
          body: { edits: trial?.edits ?? [], ...looked },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** Segments a route could lead on over. */
export const useExtensions = (circuitId: string) =>
  useQuery({
    queryKey: ["extensions", circuitId],
    queryFn: () =>
      answer(
        api.GET("/api/circuits/{circuit_id}/extensions", { params: { path: { circuit_id: circuitId } } }),
      ),
  });

/** How cold it may be for a circuit's starter still to crank. */
export function useCold(circuitId: string, stage: Stage) {
  return useQuery({
    queryKey: ["cold", circuitId, stage],
    queryFn: () =>
      answer(
        api.GET("/api/circuits/{circuit_id}/cold", {
          params: { path: { circuit_id: circuitId }, query: { stage } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

export function useSizes(circuitId: string, series: Series | null, newOnly: boolean) {
  const query = { new_only: newOnly, ...(series ? { series } : {}) };
  return useQuery({
    queryKey: ["sizes", circuitId, query],
    queryFn: () =>
      answer(
        api.GET("/api/circuits/{circuit_id}/sizes", { params: { path: { circuit_id: circuitId }, query } }),
      ),
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
}

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

export function useSheets(jobId: string) {
  return useQuery({
    queryKey: ["sheets", jobId],
    queryFn: ({ signal }) =>
      answer(api.GET("/api/jobs/{job_id}/sheets", { params: { path: { job_id: jobId } }, signal })),
    placeholderData: keepPreviousData,
  });
}

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

export const useHouseRules = () =>
  useQuery({
    queryKey: ["house rules"],
    queryFn: () => answer(api.GET("/api/house-rules")),
    refetchOnMount: "always", // what is kept on this machine may not be true any more
  });

/** What the core asks of a shop's rules. */
export const useRuleFields = () =>
  useQuery({
    queryKey: ["rule fields"],
    queryFn: () => answer(api.GET("/api/house-rules/fields")),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** What the core asks of each kind of part; it does not change while the page is open. */
export const useForms = () =>
  useQuery({
    queryKey: ["forms"],
    queryFn: () => answer(api.GET("/api/forms")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useStarters = () =>
  useQuery({
    queryKey: ["starters"],
    queryFn: () => answer(api.GET("/api/starters")),
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
