/** What is known of one vehicle that is traced: what was said, and which readings of the log count; kept on this machine. */
import { useState } from "react";
import type { Schemas } from "../api/client";
import type { Stage } from "../api/queries";

export type Said = Schemas["Said"];
export type Case = { said: Said[]; readings: string[]; doubted: string[] };
const NOTHING: Case = { said: [], readings: [], doubted: [] };
const slotOf = (jobId: string, stage: Stage) => `percorso.case.${jobId}.${stage}`;

export function useCase(jobId: string, stage: Stage) {
  const slot = slotOf(jobId, stage);
  const [kept, setKept] = useState<Record<string, Case>>({});
  const known = kept[slot] ?? stored(slot);
  function change(next: Partial<Case>) {
    const changed = { ...known, ...next };
    localStorage.setItem(slot, JSON.stringify(changed));
    setKept({ ...kept, [slot]: changed });
  }
  return {
    known,
    say: (said: Said) => change({ said: [...known.said, said] }),
    unsay: (index: number) => change({ said: known.said.filter((_, place) => place !== index) }),
    count: (reading: string) => change({ readings: [...known.readings, reading] }),
    doubt: (reading: string) =>
      change({
        doubted: known.doubted.includes(reading)
          ? known.doubted.filter((each) => each !== reading)
          : [...known.doubted, reading],
      }),
    begin: () => change(NOTHING),
  };
}

function stored(slot: string): Case {
  const text = localStorage.getItem(slot);
  return text ? { ...NOTHING, ...JSON.parse(text) } : NOTHING;
}
