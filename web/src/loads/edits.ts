/** Changes of the ledger as edits, sent together as one change with the versions that were seen. */
import type { LedgerLoad } from "../api/queries";
import { attempt, change, type Edit } from "../saving/saving";

type Seen = ({ id: string; version: number } | null)[];

/** Carry out edits and say whether they are written; what is refused is said in the status line. */
export function changeLoads(jobId: string, what: string, edits: Edit[], rows: Seen): Promise<boolean> {
  const touched = edits.map((edit) => ("device_id" in edit ? edit.device_id : ""));
  const seen = rows.filter((row) => row !== null).filter((row) => touched.includes(row.id));
  return attempt(change(jobId, what, edits, { seen, label: what }));
}

/** A load that counts in a state, or no longer does. */
export function toggledState(load: LedgerLoad, state: "idle" | "road"): Edit {
  const now = load.counted_in;
  const used = now.includes(state) ? now.filter((each) => each !== state) : [...now, state];
  return { do: "change device", device_id: load.id, change: { used_in: used } };
}
