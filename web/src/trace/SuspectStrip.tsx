/** A route with suspicion drawn on the metal itself: the more of a hatch lies on a piece, the likelier it is bad. */
import { useElementSize } from "@mantine/hooks";
import type { Board, Segment } from "../api/queries";
import { SegmentMark } from "../circuits/SegmentMark";
import { outOfHundred, percent } from "../parts/format";

const Y = 66;
const HEIGHT = 118;
const MARGIN = 20;
const WIDEST = 84;
const TALLEST = 34;

type Props = { title: string; pieces: Segment[]; board: Board; suspicion: Map<string, number> };

export function SuspectStrip({ title, pieces, board, suspicion }: Props) {
  const { ref, width } = useElementSize();
  const step = Math.min((width - 2 * MARGIN) / Math.max(pieces.length, 1), WIDEST);
  const point = (id: string) => board.points.find((each) => each.id === id)?.name ?? "";
  return (
    <figure className="suspect-strip" ref={ref} aria-label={title}>
      <figcaption>{title}</figcaption>
      {width > 0 && (
        <svg width={width} height={HEIGHT}>
          <title>{title}</title>
          <defs>
            <pattern
              id="hatch"
              width={6}
              height={6}
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <path d="M0,0V6" className="hatch" />
            </pattern>
          </defs>
          <g className="supply">
            {pieces.map((piece, index) => {
              const from = MARGIN + index * step;
              const share = suspicion.get(piece.id) ?? 0;
              const high = TALLEST * Math.sqrt(share);
              return (
                <g key={piece.id} className="piece supply">
                  <title>{`${piece.designation}, ${point(piece.from_point)} to ${point(piece.to_point)}, ${percent(share)} suspect`}</title>
                  {share > 0.004 && (
                    <rect x={from + 2} y={Y - high} width={step - 4} height={2 * high} fill="url(#hatch)" />
                  )}
                  <SegmentMark spec={piece.spec} from={from} to={from + step} y={Y} />
                  <circle cx={from} cy={Y} r={4} className="station-dot" />
                  <circle cx={from + step} cy={Y} r={4} className="station-dot" />
                  {step > 26 && (
                    <text x={from + step / 2} y={Y + TALLEST + 14} className="designation">
                      {piece.designation}
                    </text>
                  )}
                  {share >= 0.05 && step > 44 && (
                    <text x={from + step / 2} y={Y - TALLEST - 6} className="share">
                      {outOfHundred(share)} %
                    </text>
                  )}
                </g>
              );
            })}
          </g>
        </svg>
      )}
    </figure>
  );
}
