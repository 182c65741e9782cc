/** The potential along the route under its strip: where the volts go, against what is allowed, and what was measured. */
import type { CircuitView, Reading } from "../api/queries";
import { millivolts, voltage, volts } from "../parts/format";
import { type Geometry, MARGIN } from "./geometry";

type Props = {
  view: CircuitView;
  geometry: Geometry;
  readings: Reading[];
  top: number;
  height: number;
};

export function PotentialProfile({ view, geometry, readings, top, height }: Props) {
  const { profile } = view;
  const measured = diamonds(geometry, readings);
  const lost = [...profile.legs.map((leg) => leg.lost_after_v), ...measured.map((each) => each.lost)];
  const deepest = Math.max(...lost, profile.allowed_drop_v, 1e-3);
  const highest = Math.min(...lost, 0); // above the source where current comes the other way
  const scale = (height - 44) / ((deepest - highest) * 1.06);
  const y = (value: number) => top + (value - highest) * scale;
  const { right } = geometry;
  return (
    <g className="profile">
      <rect
        x={MARGIN}
        y={y(0)}
        width={right - MARGIN}
        height={Math.max(profile.allowed_drop_v, 0) * scale}
        className="allowance"
      />
      {gridSteps(highest, deepest).map((level) => (
        <g key={level}>
          <path d={`M${MARGIN},${y(level)}H${right}`} className="grid" />
          <text x={MARGIN - 4} y={y(level) + 4} className="axis">
            {gridText(-level)}
          </text>
        </g>
      ))}
      {profile.allowed_drop_v > 0 && (
        <>
          <path d={`M${MARGIN},${y(profile.allowed_drop_v)}H${right}`} className="limit" />
          <text x={MARGIN + 6} y={y(profile.allowed_drop_v) - 6} className="limit-text">
            allowed {volts(profile.allowed_drop_v)} V
          </text>
        </>
      )}
      <PotentialLine geometry={geometry} side="supply" y={y} />
      <PotentialLine geometry={geometry} side="return" y={y} />
      <AcrossTheDevice view={view} geometry={geometry} y={y} />
      {geometry.pieces.map((piece, index) => (
        <DropLabel key={piece.segment.id} piece={piece} y={y} last={index === geometry.pieces.length - 1} />
      ))}
      {measured.map((each) => (
        <Diamond
          key={each.id}
          x={each.x}
          y={y(each.lost)}
          spread={each.uncertainty * scale}
          said={each.said}
          leftwards={each.x > right - 120}
        />
      ))}
      <SideSums view={view} geometry={geometry} y={top + height - 8} />
    </g>
  );
}

type Y = (lost: number) => number;

function PotentialLine({ geometry, side, y }: { geometry: Geometry; side: "supply" | "return"; y: Y }) {
  const pieces = geometry.pieces.filter(({ leg }) => leg.side === side);
  const [first] = pieces;
  if (!first) return null;
  const path = pieces.map(({ leg, to }) => `L${to},${y(leg.lost_after_v)}`).join("");
  return <path d={`M${first.from},${y(first.leg.lost_before_v)}${path}`} className={`potential ${side}`} />;
}

function AcrossTheDevice({ view, geometry, y }: { view: CircuitView; geometry: Geometry; y: Y }) {
  const last = geometry.pieces.findLast(({ leg }) => leg.side === "supply");
  const first = geometry.pieces.find(({ leg }) => leg.side === "return");
  if (!last || !first) return null;
  const level = y(view.profile.supply_drop_v);
  return <path d={`M${last.to},${level}H${first.from}`} className="across" />;
}

function DropLabel({ piece, y, last }: { piece: Geometry["pieces"][number]; y: Y; last: boolean }) {
  const { leg, from, to } = piece;
  if (Math.abs(leg.drop_v) < 0.0005) return null;
  const halfway = y((leg.lost_before_v + leg.lost_after_v) / 2);
  const below = last ? -10 : 18;
  return (
    <text x={(from + to) / 2 - (last ? 0 : 8)} y={halfway + below} className={`drop ${leg.side}`}>
      {millivolts(leg.drop_v)}
    </text>
  );
}

type Mark = { id: string; x: number; lost: number; uncertainty: number; said: string };

/** Where readings stand on the route. */
function diamonds(geometry: Geometry, readings: Reading[]): Mark[] {
  return readings.flatMap(({ id, judgement, mark, superseded }) => {
    const stop = geometry.stops.find((each) => each.id === mark?.black_point);
    if (!judgement || superseded || !stop || !mark) return [];
    const said = `measured ${voltage(mark.drop_v)}`;
    return [{ id, x: stop.x, lost: mark.lost_v, uncertainty: mark.uncertainty_v, said }];
  });
}

type DiamondProps = { x: number; y: number; spread: number; said: string; leftwards: boolean };

function Diamond({ x, y, spread, said, leftwards }: DiamondProps) {
  const half = Math.max(spread, 1);
  return (
    <g className="diamond">
      <path d={`M${x - 5},${y - half}h10m-5,0v${2 * half}m-5,0h10`} className="spread" />
      <path d={`M${x},${y - 6}l6,6l-6,6l-6,-6z`} className="body" />
      <text
        x={leftwards ? x - 10 : x + 10}
        y={leftwards ? y + 17 : y - 6}
        textAnchor={leftwards ? "end" : "start"}
      >
        {said}
      </text>
    </g>
  );
}

function SideSums({ view, geometry, y }: { view: CircuitView; geometry: Geometry; y: number }) {
  const { supply_drop_v, return_drop_v } = view.profile;
  const middle = (side: "supply" | "return") => {
    const stops = geometry.stops.filter((stop) => stop.side === side);
    return ((stops[0]?.x ?? 0) + (stops.at(-1)?.x ?? 0)) / 2;
  };
  return (
    <>
      {view.supply_stations.length > 0 && (
        <text x={middle("supply")} y={y} className="side-sum supply">
          supply side {volts(supply_drop_v)} V
        </text>
      )}
      <text x={middle("return")} y={y} className="side-sum return">
        return side {volts(return_drop_v)} V
      </text>
    </>
  );
}

function gridSteps(highest: number, deepest: number): number[] {
  const span = deepest - highest;
  const magnitude = 10 ** Math.floor(Math.log10(span));
  const step =
    [0.2, 0.5, 1, 2].map((factor) => factor * magnitude).find((size) => span / size <= 5) ?? magnitude;
  const first = Math.ceil(highest / step - 1e-9);
  const count = Math.floor(deepest / step + 1e-9) - first + 1;
  return Array.from({ length: count }, (_, index) => (first + index) * step);
}

const gridText = (level: number) =>
  level === 0 ? "0" : `${level < 0 ? "−" : "+"}${Number(Math.abs(level).toPrecision(3))}`;
