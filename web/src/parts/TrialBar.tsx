/** What is being tried, with the two ways out of it. */
import { Button } from "@mantine/core";
import type { Trial } from "../api/queries";
import { sizeName } from "./format";

type Props = { trial: Trial; onKeep: () => void; onPutBack: () => void };

export function TrialBar({ trial, onKeep, onPutBack }: Props) {
  return (
    <div className="trial-bar" role="status">
      <span className="trial-said">
        Tried, not kept yet: <b>{sizeName(trial.effect)}</b>
      </span>
      <Button size="compact-sm" onClick={onKeep} rightSection={<kbd>Enter</kbd>}>
        Keep it
      </Button>
      <Button size="compact-sm" variant="default" onClick={onPutBack} rightSection={<kbd>Esc</kbd>}>
        Put back
      </Button>
    </div>
  );
}
