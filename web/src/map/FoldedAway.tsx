/** The circuits that are folded away, a line for all of them; each comes back by a tap. */
import { Button } from "@mantine/core";
import type { Board } from "../api/queries";
import { amps } from "../parts/format";

type Props = { board: Board; folded: string[]; onFold: (folded: string[]) => void };

const MOST_NAMED = 6;

export function FoldedAway({ board, folded, onFold }: Props) {
  if (folded.length === 0) return null;
  const circuits = board.lines.map(({ circuit }) => circuit).filter(({ id }) => folded.includes(id));
  return (
    <div className="map-folded no-print">
      <span className="quiet">{circuits.length} folded away:</span>
      {circuits.slice(0, MOST_NAMED).map(({ id, name, design_current_a }) => (
        <Button
          key={id}
          variant="default"
          size="compact-xs"
          aria-label={`Unfold ${name}`}
          onClick={() => onFold(folded.filter((each) => each !== id))}
        >
          {name}, {amps(design_current_a)} ▸
        </Button>
      ))}
      <Button variant="default" size="compact-xs" onClick={() => onFold([])}>
        Unfold all
      </Button>
    </div>
  );
}
