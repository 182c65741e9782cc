/** What the map reads from the server: the page in the state that is looked at, and a voltage between two points. */
import { keepPreviousData, queryOptions, replaceEqualDeep, useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { answer, api, type Schemas } from "../api/client";
import { type Offer, queryClient, type Trial } from "../api/queries";
import { asQuery, STATES, useViewing, type Viewing } from "../app/viewing";

/** What is looked at besides the state: what is tried on the metal, and which circuits are folded away. */
export type Shown = { metal: Offer[]; folded: string[]; alone: boolean };

export const mapQuery = (viewing: Viewing, { metal, folded, alone }: Shown) => ({
  ...asQuery(viewing),
  preparations: metal.map(({ text }) => text),
  folded,
  alone,
});

const optionsOf = (jobId: string, query: ReturnType<typeof mapQuery>) =>
  queryOptions({
    queryKey: ["map", jobId, query],
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/map", { params: { path: { job_id: jobId }, query } })),
  });

/** The page as it is shown, with what is tried; beforehand in the other states, so that a turned key redraws it at once. */
export function useMap(jobId: string, shown: Shown, trial: Trial | null) {
  const viewing = useViewing(jobId);
  const asked = useQuery({
    ...optionsOf(jobId, mapQuery(viewing, shown)),
    placeholderData: (previous) => previous,
  });
  const tried = useTried(jobId, trial, mapQuery(viewing, shown)).data;
  const before = useRef<Picture>(undefined);
  // What is drawn as before is the same object as before, so that only the rest is drawn anew.
  before.current = replaceEqualDeep(before.current, ((trial && tried) ?? asked.data) as Picture | undefined);
  const { dataUpdatedAt, isPlaceholderData } = asked;
  // biome-ignore lint/correctness/useExhaustiveDependencies: again with each answer, and not before it
  useEffect(() => {
    if (dataUpdatedAt === 0 || isPlaceholderData) return;
    for (const state of STATES)
      void queryClient.prefetchQuery(optionsOf(jobId, mapQuery({ ...viewing, state }, shown)));
  }, [dataUpdatedAt, isPlaceholderData]);
  return { ...asked, data: before.current };
}

/** The page with edits that are not kept yet. */
const useTried = (jobId: string, trial: Trial | null, view: ReturnType<typeof mapQuery>) =>
  useQuery({
    queryKey: ["map what-if", jobId, trial, view],
    enabled: trial !== null,
    queryFn: () =>
      answer(
        api.POST("/api/jobs/{job_id}/map/what-if", {
          params: { path: { job_id: jobId } },
          body: { edits: trial?.edits ?? [], view },
        }),
      ),
    placeholderData: keepPreviousData,
  });

/** A voltage between two points in the state that is looked at, as a test. */
export function useBetween(jobId: string, [red_point, black_point]: [string, string], metal: Offer[]) {
  const viewing = useViewing(jobId);
  const preparations = metal.map(({ text }) => text);
  const query = { ...asQuery(viewing), preparations, red_point, black_point };
  return useQuery({
    queryKey: ["tests", jobId, "between", query],
    queryFn: () =>
      answer(api.GET("/api/jobs/{job_id}/tests/between", { params: { path: { job_id: jobId }, query } })),
  });
}

/** On which sheets of paper the map is printed. */
export const useSheets = (jobId: string, paper: Paper, query: ReturnType<typeof mapQuery>) =>
  useQuery({
    queryKey: ["map sheets", jobId, paper, query],
    queryFn: () =>
      answer(
        api.GET("/api/jobs/{job_id}/map/sheets", {
          params: { path: { job_id: jobId }, query: { ...query, paper } },
        }),
      ),
    gcTime: 0,
  });

export type Picture = Schemas["Picture"];
export type Row = Schemas["DrawnRow"];
export type Piece = Schemas["DrawnSegment"];
export type Line = Schemas["Stroke"];
export type Sheets = Schemas["MapSheets"];
export type Paper = Sheets["paper"];

/** A query as an address has it. */
export const asAddress = (query: ReturnType<typeof mapQuery>) =>
  new URLSearchParams(
    Object.entries(query).flatMap(([name, values]) =>
      (Array.isArray(values) ? values : [values]).map((each) => [name, String(each)]),
    ),
  ).toString();
