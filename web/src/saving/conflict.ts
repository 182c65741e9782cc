/** A change of what somebody else changed meanwhile: one of the two stays, and whoever made it says which. */
import { goOn, letBe, sendInstead } from "./saving";
import { onTopOf } from "./sender";
import { saving, show } from "./store";

/** Decide a conflict: write mine over theirs, or leave theirs. */
export function decideConflict(mine: boolean) {
  const { conflict } = saving();
  if (!conflict) return;
  const { write, error } = conflict;
  if (mine && error.current) sendInstead(onTopOf(write, error.row ?? "", Number(error.current.version)));
  else letBe(write);
  show({ conflict: null });
  goOn();
}
