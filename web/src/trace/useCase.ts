/**
 * What is known of one vehicle that is traced: what was said, read in the log and mended since; the shop's own. It
 * changes by steps, which wait in the one queue with everything else; what is shown is the case as the server last had
 * it, with the steps that wait on top.
 */
import { useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../api/client";
import { queryClient, type Stage } from "../api/queries";
import { add, hear } from "../saving/saving";
import { useQueued } from "../saving/store";

export type LeftOut = Schemas["LeftOutIn"];
export type Said = Schemas["Said"];
export type Case = Schemas["CaseOut"];
type Step =
  | Schemas["OfSaid"]
  | Schemas["OfReading"]
  | Schemas["OfPart"]
  | Schemas["OfCheck"]
  | Schemas["Begin"];
const NOTHING: Case = {
  version: 0,
  said: [],
  readings: [],
  doubted: [],
  mended: [],
  suspected: [],
  left_out: [],
};
const STEPS = "/api/jobs/{job_id}/cases/{stage}/steps";
const keyOf = (params: Record<string, string>) => ["case", params.job_id, params.stage];

hear(STEPS, (params, after) =>
  queryClient.setQueryData<Case>(keyOf(params), (before) => newer(before, after)),
);

/** What tracing is asked of a case: what is doubted does not count. */
export const askedOf = ({ said, readings, doubted, mended, suspected, left_out }: Case, stage: Stage) => ({
  stage,
  said,
  reading_ids: readings.filter((each) => !doubted.includes(each)),
  mended,
  suspected,
  left_out,
});

/** A late answer never moves the screen back. */
const newer = (before: Case | undefined, after: Case) =>
  before && before.version > after.version ? before : after;

export function useCase(jobId: string, stage: Stage) {
  const params = { job_id: jobId, stage };
  const kept = useQuery({
    queryKey: keyOf(params),
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/cases/{stage}", { params: { path: params } })),
    structuralSharing: (before, after) => newer(before as Case | undefined, after as Case),
  });
  const waiting = useQueued(STEPS, params);
  const known = waiting.reduce(after, kept.data ?? NOTHING);
  const step = (what: string, body: Step) => add(what, STEPS, params, body, { isQuiet: true });
  return {
    known,
    isThere: kept.data !== undefined || waiting.length > 0,
    say: (said: Said) => step("what the customer says", { do: "say", said }),
    unsay: (said: Said) => step("what the customer says, taken back", { do: "unsay", said }),
    count: (reading: string) => step("count a reading", { do: "count", reading }),
    doubt: (reading: string) => step("doubt a reading", { do: "doubt", reading }),
    trust: (reading: string) => step("trust a reading", { do: "trust", reading }),
    /** Parts were mended, by their designations: what is counted from now on is read with them sound. */
    mend: (parts: string[]) => {
      for (const part of parts) step(`${part} fixed`, { do: "mend", part });
    },
    unmend: (part: string) => step(`${part} not fixed`, { do: "unmend", part }),
    suspect: (part: string) => step(`suspect ${part}`, { do: "suspect", part }),
    unsuspect: (part: string) => step(`suspect ${part} no more`, { do: "unsuspect", part }),
    leaveOut: (left_out: LeftOut) => step(`left out: ${left_out.why}`, { do: "leave out", left_out }),
    takeUp: (left_out: LeftOut) => step("a test, offered again", { do: "take up", left_out }),
    begin: () => step("begin anew", { do: "begin" }),
  };
}

/** The case after a step that the server has not taken yet. */
function after(known: Case, step: Step): Case {
  const { said, readings, doubted, mended, suspected, left_out } = known;
  switch (step.do) {
    case "say":
      return { ...known, said: [...without(said, step.said), step.said] };
    case "unsay":
      return { ...known, said: without(said, step.said) };
    case "count":
      return { ...known, readings: [...without(readings, step.reading), step.reading] };
    case "doubt":
      return { ...known, doubted: [...without(doubted, step.reading), step.reading] };
    case "trust":
      return { ...known, doubted: without(doubted, step.reading) };
    case "mend":
      return { ...known, mended: [...mended, { part: step.part, before: readings }] };
    case "unmend":
      return { ...known, mended: mended.filter(({ part }) => part !== step.part) };
    case "suspect":
      return { ...known, suspected: [...without(suspected, step.part), step.part] };
    case "unsuspect":
      return { ...known, suspected: without(suspected, step.part) };
    case "leave out":
      return { ...known, left_out: [...without(left_out, step.left_out), step.left_out] };
    case "take up":
      return { ...known, left_out: without(left_out, step.left_out) };
    case "begin":
      return { ...NOTHING, version: known.version };
  }
}

const without = <One>(listed: One[], one: One) =>
  listed.filter((each) => JSON.stringify(each) !== JSON.stringify(one));
