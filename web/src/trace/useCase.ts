/** What is known of one vehicle that is traced: what was said, read in the log and mended since; the shop's own. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../api/client";
import type { Stage } from "../api/queries";

export type Said = Schemas["Said"];
export type Case = Schemas["CaseOut"];
const NOTHING: Case = { said: [], readings: [], doubted: [], mended: [], suspected: [] };

export function useCase(jobId: string, stage: Stage) {
  const client = useQueryClient();
  const queryKey = ["case", jobId, stage];
  const unsent = unsentOf(jobId, stage);
  const kept = useQuery({
    queryKey,
    queryFn: async () => {
      const text = unsent.text();
      const params = { path: { job_id: jobId, stage } };
      if (text === null) return answer(api.GET("/api/jobs/{job_id}/cases/{stage}", { params }));
      const body = JSON.parse(text) as Case;
      const sent = await answer(api.PUT("/api/jobs/{job_id}/cases/{stage}", { params, body }));
      return unsent.done(text) ? sent : (JSON.parse(unsent.text() ?? text) as Case);
    },
  });
  const known = kept.data ?? unsent.read() ?? NOTHING;
  function change(next: Partial<Case>) {
    const changed = { ...known, ...next };
    unsent.keep(changed);
    client.setQueryData(queryKey, changed);
    client.invalidateQueries({ queryKey });
  }
  return {
    known,
    isThere: kept.data !== undefined || unsent.read() !== null,
    say: (said: Said) => change({ said: [...known.said, said] }),
    unsay: (index: number) => change({ said: known.said.filter((_, place) => place !== index) }),
    count: (reading: string) => change({ readings: [...known.readings, reading] }),
    doubt: (reading: string) =>
      change({
        doubted: known.doubted.includes(reading)
          ? known.doubted.filter((each) => each !== reading)
          : [...known.doubted, reading],
      }),
    /** Parts were mended, by their designations: what is counted from now on is read with them sound. */
    mend: (parts: string[]) =>
      change({ mended: [...known.mended, ...parts.map((part) => ({ part, before: known.readings }))] }),
    unmend: (part: string) => change({ mended: known.mended.filter((each) => each.part !== part) }),
    suspect: (part: string) =>
      change({
        suspected: known.suspected.includes(part)
          ? known.suspected.filter((each) => each !== part)
          : [...known.suspected, part],
      }),
    begin: () => change(NOTHING),
  };
}

/** A case that the server does not have yet, on this machine until it has. */
function unsentOf(jobId: string, stage: Stage) {
  const slot = `percorso.case.${jobId}.${stage}`;
  const text = () => localStorage.getItem(slot);
  return {
    text,
    read: () => {
      const found = text();
      return found === null ? null : { ...NOTHING, ...(JSON.parse(found) as Case) };
    },
    keep: (known: Case) => localStorage.setItem(slot, JSON.stringify(known)),
    /** Forget what was sent, unless something else is kept since: whether it was. */
    done: (sent: string) => {
      if (text() !== sent) return false;
      localStorage.removeItem(slot);
      return true;
    },
  };
}
