/** The route as stations on one line: the track is as thick as the copper, each kind of segment has its quiet mark. */
import type { CircuitView } from "../api/queries";
import { amps, sizeName, voltage } from "../parts/format";
import { GATE, type Geometry, type Piece } from "./geometry";
import { SegmentMark } from "./SegmentMark";

export const TRACK_Y = 96;
export const STRIP_HEIGHT = 158;

type Props = { view: CircuitView; geometry: Geometry; chosen: string | null; onChoose: (id: string) => void };

export function RouteStrip({ view, geometry, chosen, onChoose }: Props) {
  return (
    <g>
      <g role="listbox" aria-label="Route" aria-orientation="horizontal">
        {geometry.pieces.map((piece) => (
          <PieceOfTrack
            key={piece.segment.id}
            piece={piece}
            chosen={piece.segment.id === chosen}
            onChoose={() => onChoose(piece.segment.id)}
          />
        ))}
      </g>
      {geometry.stops.map((stop) => (
        <g key={stop.id} className={stop.side} transform={`translate(${stop.x},${TRACK_Y})`}>
          <circle r={5.5} className="station-dot" />
          <text
            className="station-name"
            transform={`translate(3,${stop.x === geometry.gateX ? -33 : -13}) rotate(-38)`}
          >
            {shortened(stop.name, geometry.step > 80 ? 24 : 15)}
            <title>{stop.name}</title>
          </text>
        </g>
      ))}
      <Gate view={view} x={geometry.gateX} />
    </g>
  );
}

type PieceProps = { piece: Piece; chosen: boolean; onChoose: () => void };

function PieceOfTrack({ piece, chosen, onChoose }: PieceProps) {
  const { leg, segment, from, to } = piece;
  const width = to - from;
  const lines = inLines(sizeName(segment.description), Math.floor(width / 6));
  const said = `${segment.designation}, ${segment.spec.kind}, ${segment.description}, loses ${voltage(leg.drop_v)}`;
  return (
    <g
      role="option"
      aria-selected={chosen}
      className={`piece ${leg.side}${chosen ? " chosen" : ""}`}
      onClick={onChoose}
    >
      <title>{said}</title>
      <rect x={from} y={TRACK_Y - 22} width={width} height={78} className="hit" />
      <SegmentMark spec={segment.spec} from={from} to={to} y={TRACK_Y} />
      <text x={from + width / 2} y={TRACK_Y + 27} className="designation">
        {segment.designation}
      </text>
      {lines.map((line, index) => (
        <text key={line} x={from + width / 2} y={TRACK_Y + 42 + index * 13} className="description">
          {line}
        </text>
      ))}
    </g>
  );
}

function Gate({ view, x }: { view: CircuitView; x: number }) {
  const { circuit } = view;
  return (
    <g className="gate" transform={`translate(${x + 12},${TRACK_Y - 30})`}>
      <rect width={GATE - 24} height={60} rx={3} />
      {inLines(circuit.device, 8).map((word, index, all) => (
        <text key={word} x={(GATE - 24) / 2} y={28 - (all.length - 1) * 7 + index * 13} className="gate-name">
          {word}
        </text>
      ))}
      <text x={(GATE - 24) / 2} y={50} className="gate-current">
        {amps(view.basis === "state" ? view.profile.device_a : circuit.design_current_a)}
      </text>
    </g>
  );
}

function shortened(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, Math.max(most - 1, 1))}…` : text;
}

/** Two lines at most, broken at a comma or between words. */
function inLines(text: string, most: number): string[] {
  const [first = "", second] = text.split(/, (.*)/);
  if (second) return [shortened(first, most), shortened(second, most)];
  const words = text.split(" ");
  const count = words.findIndex((_, index) => words.slice(0, index + 1).join(" ").length > most);
  if (count <= 0) return [shortened(text, most)];
  return [words.slice(0, count).join(" "), shortened(words.slice(count).join(" "), most)];
}
