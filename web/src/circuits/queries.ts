/** What the Circuit room reads from the server: a circuit, what can be done to it, its sizes and its coldest start. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { type Offer, type Stage, type Trial, useReadings, useStage } from "../api/queries";
import { asQuery, useViewing, type Viewing } from "../app/viewing";

export type Series = "awg" | "metric";

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

/** The readings of a circuit that have a value. */
export const useReadingsOf = (jobId: string, circuitId: string) =>
  (useReadings(jobId).data ?? []).filter(({ circuit_id, net }) => circuit_id === circuitId && net !== null);

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

export const useStarters = () =>
  useQuery({
    queryKey: ["starters"],
    queryFn: () => answer(api.GET("/api/starters")),
    staleTime: Number.POSITIVE_INFINITY,
  });
