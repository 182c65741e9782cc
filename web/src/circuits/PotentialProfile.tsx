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
  const measured = diamonds(view, geometry, readings);
  const deepest = Math.max(
    profile.total_drop_v,
    profile.allowed_drop_v,
    ...measured.map((each) => each.lost),
    1e-3,
  );
  const scale = (height - 44) / (deepest * 1.06);
  const y = (lost: number) => top + lost * scale;
  const { right } = geometry;
  return (
    <g className="profile">
      <rect
        x={MARGIN}
        y={top}
        width={right - MARGIN}
        height={Math.max(profile.allowed_drop_v, 0) * scale}
        className="allowance"
      />
      {gridSteps(deepest).map((lost) => (
        <g key={lost}>
          <path d={`M${MARGIN},${y(lost)}H${right}`} className="grid" />
          <text x={MARGIN - 4} y={y(lost) + 4} className="axis">
            {lost === 0 ? "0" : `−${gridText(lost)}`}
          </text>
        </g>
      ))}
      <path d={`M${MARGIN},${y(profile.allowed_drop_v)}H${right}`} className="limit" />
      <text x={MARGIN + 6} y={y(profile.allowed_drop_v) - 6} className="limit-text">
        allowed {volts(profile.allowed_drop_v)} V
      </text>
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
  if (leg.drop_v < 0.0005) return null;
  const halfway = y((leg.lost_before_v + leg.lost_after_v) / 2);
  const below = last ? -10 : 18;
  return (
    <text x={(from + to) / 2 - (last ? 0 : 8)} y={halfway + below} className={`drop ${leg.side}`}>
      {millivolts(leg.drop_v)}
    </text>
  );
}

type Mark = { id: string; x: number; lost: number; uncertainty: number; said: string };

/** Where the reading puts the potential at its black probe, the rest of the route as computed. */
function diamonds(view: CircuitView, geometry: Geometry, readings: Reading[]): Mark[] {
  return readings.flatMap((reading) => {
    const stop = geometry.stops.find((each) => each.id === reading.black_point);
    const red = view.profile.legs.find((leg) => leg.start_point === reading.red_point);
    if (!reading.judgement || reading.superseded || !stop || !red) return [];
    const { projected_v, uncertainty_v } = reading.judgement;
    return [
      {
        id: reading.id,
        x: stop.x,
        lost: red.lost_before_v + projected_v,
        uncertainty: uncertainty_v,
        said: `measured ${voltage(projected_v)}`,
      },
    ];
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

function gridSteps(deepest: number): number[] {
  const magnitude = 10 ** Math.floor(Math.log10(deepest));
  const step =
    [0.2, 0.5, 1, 2].map((factor) => factor * magnitude).find((size) => deepest / size <= 5) ?? magnitude;
  return Array.from({ length: Math.floor(deepest / step + 1e-9) + 1 }, (_, index) => index * step);
}

const gridText = (lost: number) => Number(lost.toPrecision(3)).toString();
