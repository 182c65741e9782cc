/** The route as stations on one line: the track is as thick as the copper, each kind of segment has its quiet mark. */
import type { Segment } from "../api/queries";
import { sizeName } from "../parts/format";
import { GATE, type Stop } from "./geometry";
import { SegmentMark } from "./SegmentMark";

export const TRACK_Y = 96;
export const STRIP_HEIGHT = 158;

/** A piece of track: a segment, or a device that current passes on its way, which has no `spec`. */
export type StripPiece = {
  id: string;
  designation: string;
  description: string;
  says: string;
  spec: Segment["spec"] | null;
  side: Stop["side"];
  contact?: "open" | "closed" | undefined;
  from: number;
  to: number;
};

type Props = {
  pieces: StripPiece[];
  stops: Stop[];
  gate: { x: number; device: string; figure: string };
  step: number;
  chosen: string | null;
  onChoose: (id: string) => void;
};

export function RouteStrip({ pieces, stops, gate, step, chosen, onChoose }: Props) {
  return (
    <g>
      <g role="listbox" aria-label="Route" aria-orientation="horizontal">
        {pieces.map((piece) => (
          <PieceOfTrack
            key={piece.id}
            piece={piece}
            chosen={piece.id === chosen}
            onChoose={() => onChoose(piece.id)}
          />
        ))}
      </g>
      {stops.map((stop) => (
        <g key={stop.x} className={stop.side} transform={`translate(${stop.x},${TRACK_Y})`}>
          <circle r={5.5} className="station-dot" />
          <text
            className="station-name"
            transform={`translate(3,${stop.x === gate.x ? -33 : -13}) rotate(-38)`}
          >
            {shortened(stop.name, step > 80 ? 24 : 15)}
            <title>{stop.name}</title>
          </text>
        </g>
      ))}
      <Gate {...gate} />
    </g>
  );
}

type PieceProps = { piece: StripPiece; chosen: boolean; onChoose: () => void };

function PieceOfTrack({ piece, chosen, onChoose }: PieceProps) {
  const { designation, description, side, contact, from, to } = piece;
  const width = to - from;
  const lines = inLines(sizeName(description), Math.floor(width / 6));
  return (
    <g
      role="option"
      aria-selected={chosen}
      className={`piece ${side}${chosen ? " chosen" : ""}${contact === "open" ? " open" : ""}`}
      onClick={onChoose}
    >
      <title>{piece.says}</title>
      <rect x={from} y={TRACK_Y - 22} width={width} height={78} className="hit" />
      <SegmentMark spec={piece.spec} from={from} to={to} y={TRACK_Y} closed={contact === "closed"} />
      <text x={from + width / 2} y={TRACK_Y + 27} className="designation">
        {designation}
      </text>
      {lines.map((line, index) => (
        <text key={line} x={from + width / 2} y={TRACK_Y + 42 + index * 13} className="description">
          {line}
        </text>
      ))}
    </g>
  );
}

function Gate({ x, device, figure }: Props["gate"]) {
  return (
    <g className="gate" transform={`translate(${x + 12},${TRACK_Y - 30})`}>
      <rect width={GATE - 24} height={60} rx={3} />
      {inLines(device, 8).map((word, index, all) => (
        <text key={word} x={(GATE - 24) / 2} y={28 - (all.length - 1) * 7 + index * 13} className="gate-name">
          {word}
        </text>
      ))}
      <text x={(GATE - 24) / 2} y={50} className="gate-current">
        {figure}
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
