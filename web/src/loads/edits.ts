/** Changes of the ledger as edits, sent together as one change with the versions that were seen. */
import { ApiError } from "../api/client";
import type { LedgerLoad, Trial } from "../api/queries";
import { remark, save } from "../api/saving";

type Edits = Trial["edits"];
type Seen = ({ id: string; version: number } | null)[];

/** Carry out edits and say whether they are written; what is refused is said in the status line. */
export async function changeLoads(jobId: string, what: string, edits: Edits, rows: Seen): Promise<boolean> {
  const touched = edits.map((edit) => ("device_id" in edit ? edit.device_id : ""));
  const seen = rows.filter((row) => row !== null && touched.includes(row.id));
  const body = {
    label: what.slice(0, 80),
    edits,
    seen: Object.fromEntries(seen.map((row) => [row?.id, row?.version])),
  };
  try {
    await save({ what, method: "POST", path: `/api/jobs/${jobId}/edits`, body });
    return true;
  } catch (error) {
    remark(error instanceof ApiError ? error.message : String(error));
    return false;
  }
}

/** A load that counts in a state, or no longer does. */
export function toggledState(load: LedgerLoad, state: "idle" | "road"): Edits[number] {
  const now = load.counted_in;
  const used = now.includes(state) ? now.filter((each) => each !== state) : [...now, state];
  return { do: "change device", device_id: load.id, change: { used_in: used } };
}
