/** What is done to a circuit and its segments, and what is tried. */
import type { CircuitView, Ladder, Rung, Trial } from "../api/queries";
import { clamp } from "../parts/clamp";
import { attempt, change, type Edit } from "../saving/saving";

type Segment = CircuitView["segments"][number];

const everySegment = ({ segments, beside }: CircuitView) => [...segments, ...beside];

/** A rung of a ladder, tried. */
export const trialOf = (rung: Rung, segmentId: string, segment: Segment | undefined): Trial => ({
  edits: [{ do: "change segment", segment_id: segmentId, change: rung.change }],
  effect: `change ${segment?.designation}`,
  from: "ladder",
});

/** The rung so many steps away. A present size of the other series stands on none: then the recommended one. */
export function rungAfter({ rungs }: Ladder, steps: number): Rung | undefined {
  const at = rungs.findIndex((rung) => rung.present);
  const from = at >= 0 ? at + steps : rungs.findIndex((rung) => rung.recommended);
  return rungs[clamp(from, rungs.length)];
}

/** Write what is tried. */
export function keepTrial(base: CircuitView, trial: Trial) {
  const touched = trial.edits.map((edit) => ("segment_id" in edit ? edit.segment_id : ""));
  const seen = everySegment(base).filter((each) => touched.includes(each.id));
  const of = trial.from === "ladder" ? { seen } : { seen, label: trial.effect };
  return attempt(change(base.job_id, trial.effect, trial.edits, of));
}

/** The route led over the fork that a piece lies in, tried; null where it lies in none. */
export function overFork(view: CircuitView, segmentId: string): Trial | null {
  const fork = view.profile.forks.find((each) => each.segment_ids.includes(segmentId));
  if (!fork) return null;
  const piece = everySegment(view).find(({ id }) => id === segmentId);
  const segment_ids = fork.segment_ids as [string, ...string[]];
  return {
    edits: [{ do: "lead over", circuit_id: view.circuit.id, segment_ids }],
    effect: `lead ${view.circuit.name} over ${piece?.designation}`,
    from: "cure",
  };
}

/** Move a segment one place along its route. */
export function moveSegment(view: CircuitView, segmentId: string, steps: 1 | -1) {
  const moved = everySegment(view).find(({ id }) => id === segmentId);
  const edit: Edit = { do: "move segment", circuit_id: view.circuit.id, segment_id: segmentId, steps };
  void attempt(change(view.job_id, `move ${moved?.designation}`, [edit]));
}

/** Take a segment out. */
export function removeSegment(view: CircuitView, segment: Segment | undefined) {
  if (!segment) return;
  const edit: Edit = { do: "remove segment", segment_id: segment.id };
  void attempt(change(view.job_id, `delete ${segment.designation}`, [edit], { seen: [segment] }));
}

/** Take the whole circuit out. */
export function removeCircuit({ circuit, job_id }: CircuitView) {
  const edit: Edit = { do: "remove circuit", circuit_id: circuit.id };
  return attempt(change(job_id, `delete ${circuit.name}`, [edit], { seen: [circuit] }));
}
