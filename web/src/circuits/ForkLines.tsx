/** Ways beside the route, drawn under it from where they leave to where they join again, with each one's share. */
import type { CircuitView, Fork } from "../api/queries";
import { amps, percent } from "../parts/format";
import type { Geometry } from "./geometry";

export const FORK_HEIGHT = 34;

type Props = {
  view: CircuitView;
  geometry: Geometry;
  trackY: number;
  top: number;
  chosen: string;
  onChoose: (segmentId: string) => void;
};

export function ForkLines({ view, geometry, trackY, top, chosen, onChoose }: Props) {
  const names = new Map(view.beside.map((segment) => [segment.id, segment.designation]));
  return (
    <g role="listbox" aria-label="Parallel paths">
      {view.profile.forks.map((fork, row) => (
        <ForkLine
          key={fork.segment_ids.join()}
          fork={fork}
          name={fork.segment_ids.map((id) => names.get(id)).join(" ")}
          from={stopX(geometry, fork.start_point)}
          to={stopX(geometry, fork.end_point)}
          trackY={trackY}
          y={top + row * FORK_HEIGHT + 18}
          chosen={fork.segment_ids.includes(chosen)}
          onChoose={() => onChoose(fork.segment_ids[0] ?? chosen)}
        />
      ))}
    </g>
  );
}

const stopX = (geometry: Geometry, point: string) => geometry.stops.find((stop) => stop.id === point)?.x ?? 0;

type LineProps = {
  fork: Fork;
  name: string;
  from: number;
  to: number;
  trackY: number;
  y: number;
  chosen: boolean;
  onChoose: () => void;
};

function ForkLine({ fork, name, from, to, trackY, y, chosen, onChoose }: LineProps) {
  const said = `${name}: ${amps(Math.abs(fork.beside_a ?? 0))}, ${percent(fork.share ?? 0)} beside the route`;
  return (
    <g
      role="option"
      aria-selected={chosen}
      className={`piece fork ${fork.side}${chosen ? " chosen" : ""}`}
      onClick={onChoose}
    >
      <title>{said}</title>
      <rect x={Math.min(from, to)} y={y - 16} width={Math.abs(to - from)} height={22} className="hit" />
      <path d={`M${from},${trackY + 7}V${y}H${to}V${trackY + 7}`} className="fork-line" />
      <text x={(from + to) / 2} y={y - 5} className="designation">
        {said.replace(" beside the route", "")}
      </text>
    </g>
  );
}
