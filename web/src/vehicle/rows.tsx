/** What the lists of the vehicle share: their dialogs, what became of a part, and what is done to a row. */
import { Button } from "@mantine/core";
import type { Board, Device, Input } from "../api/queries";
import type { SegmentTask } from "../circuits/SegmentForm";
import { attempt, change, type Edit } from "../saving/saving";

export type Dialog =
  | { what: "device"; device?: Device }
  | { what: "input"; input?: Input }
  | { what: "segment"; task: SegmentTask }
  | { what: "points" };

type Show = (dialog: Dialog) => void;

export const remove = (board: Board, what: string, edit: Edit, row: { id: string; version: number }) =>
  void attempt(change(board.job.id, `delete ${what}`, [edit], { seen: [row] }));

export type ListProps = { board: Board; show: Show };

export function Fate({ part }: { part: { origin: string; fate: string } }) {
  const words = [part.origin === "new" && "new", part.fate !== "kept" && `to be ${part.fate}`].filter(
    Boolean,
  );
  return words.length > 0 ? <>, {words.join(", ")}</> : null;
}

type ActionsProps = { name: string; onEdit: () => void; onDelete: () => void };

export function Actions({ name, onEdit, onDelete }: ActionsProps) {
  return (
    <>
      <Button size="compact-sm" variant="default" onClick={onEdit} aria-label={`Edit ${name}`}>
        Edit
      </Button>{" "}
      <Button size="compact-sm" variant="subtle" onClick={onDelete} aria-label={`Delete ${name}`}>
        Delete
      </Button>
    </>
  );
}
