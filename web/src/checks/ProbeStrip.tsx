/** The metal between two probes, with the probes on it; of a clamp or a look, the part itself. */
import { useElementSize } from "@mantine/hooks";
import type { AskedTest } from "../api/queries";
import { SegmentMark } from "../circuits/SegmentMark";
import { sizeName } from "../parts/format";

const NAMED = { y: 112, height: 160, probe: 92 }; // with the names of the points between, which lean over the track
const BARE = { y: 62, height: 98, probe: 42 };
const MARGIN = 34;
const WIDEST = 150;

export function ProbeStrip({ test, small }: { test: AskedTest; small: boolean }) {
  const { ref, width } = useElementSize();
  const pieces = along(test);
  const across = pieces.length === 0;
  const step = Math.min((width - 2 * MARGIN) / Math.max(pieces.length, 1), WIDEST);
  const end = MARGIN + (across ? Math.min(width - 2 * MARGIN, 2 * WIDEST) : pieces.length * step);
  const onPoints = test.place.length === 2;
  const names = onPoints
    ? [test.place[0] ?? "", ...pieces.slice(0, -1).map(({ to }) => to), test.place[1] ?? ""]
    : [];
  const fits = step >= 54;
  const { y, height, probe } = small ? BARE : NAMED;
  return (
    <figure className="probe-strip" ref={ref} aria-label="Where to measure">
      {width > 0 && (onPoints || !across) && (
        <svg width={width} height={height}>
          <title>{onPoints ? `From ${test.place[0]} to ${test.place[1]}` : `At ${test.place[0]}`}</title>
          <g className="supply">
            {across && onPoints && <path d={`M${MARGIN},${y}H${end}`} className="track thin across" />}
            {pieces.map(({ piece }, index) => {
              const from = MARGIN + index * step;
              return (
                <g key={piece.id} className="piece supply">
                  <title>{`${piece.designation}, ${piece.description}`}</title>
                  <SegmentMark spec={piece.spec} from={from} to={from + step} y={y} />
                  {(fits || index % 2 === 0) && (
                    <text x={from + step / 2} y={y + 26} className="designation">
                      {piece.designation}
                    </text>
                  )}
                  {step > 84 && !small && (
                    <text x={from + step / 2} y={y + 41} className="description">
                      {sizeName(piece.description).split(",")[0]}
                    </text>
                  )}
                </g>
              );
            })}
            {names.map((name, index) => {
              const last = index === names.length - 1;
              const x = last ? end : MARGIN + index * step;
              return (
                <g key={`${name} ${x}`} transform={`translate(${x},${y})`}>
                  <circle r={5} className="station-dot" />
                  {fits && !small && index > 0 && !last && (
                    <text className="station-name" transform="translate(3,-11) rotate(-34)">
                      {name.length > 15 ? `${name.slice(0, 14)}…` : name}
                    </text>
                  )}
                </g>
              );
            })}
          </g>
          {onPoints && (
            <>
              <Probe x={MARGIN} y={y} up={probe} sign="+" name={test.place[0] ?? ""} anchor="start" />
              <Probe
                x={end}
                y={y}
                up={probe}
                sign="−"
                name={test.place[1] ?? ""}
                anchor={end > width / 2 ? "end" : "start"}
              />
            </>
          )}
          {test.measurement.quantity === "current" && <Clamp x={MARGIN + step / 2} y={y} />}
        </svg>
      )}
      {!onPoints && across && <figcaption>{test.place[0]}</figcaption>}
    </figure>
  );
}

/** The pieces in the order from red to black, each with the name of the point it leads to. */
function along({ path, place }: AskedTest) {
  let here = place[0];
  return path.map((piece) => {
    const to = piece.from_name === here ? piece.to_name : piece.from_name;
    here = to;
    return { piece, to };
  });
}

type ProbeProps = { x: number; y: number; up: number; sign: string; name: string; anchor: "start" | "end" };

function Probe({ x, y, up, sign, name, anchor }: ProbeProps) {
  return (
    <g className={sign === "+" ? "probe red" : "probe black"}>
      <path d={`M${x},${y - 7}V${y - up + 10}`} />
      <circle cx={x} cy={y - up} r={11} />
      <text x={x} y={y - up + 5} className="sign">
        {sign}
      </text>
      <text
        x={anchor === "start" ? x + 16 : x - 16}
        y={y - up + 5}
        textAnchor={anchor}
        className="probe-name"
      >
        {name}
      </text>
    </g>
  );
}

const Clamp = ({ x, y }: { x: number; y: number }) => (
  <g className="probe clamp">
    <path d={`M${x - 12},${y - 4}a14,17 0 1 1 24,0`} />
    <path d={`M${x},${y - 36}V${y - 56}`} />
  </g>
);
