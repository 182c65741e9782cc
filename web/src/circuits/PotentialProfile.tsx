/** The potential along the route under its strip: where the volts go, against what is allowed, and what was measured. */
import type { CircuitView, Reading } from "../api/queries";
import { millivolts, voltage, volts } from "../parts/format";
import { type Geometry, MARGIN } from "./geometry";
import { type Line, type Place, placed, type Wanted } from "./labels";

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
  const labels = placeLabels(view, geometry, measured, y);
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
      {geometry.pieces.map(({ segment, leg }) => (
        <Label key={segment.id} at={labels.get(segment.id)} className={`drop ${leg.side}`}>
          {millivolts(leg.drop_v)}
        </Label>
      ))}
      {measured.map((each) => (
        <g key={each.id} className={each.before ? "diamond before" : "diamond"}>
          <Diamond x={each.x} y={y(each.lost)} spread={each.uncertainty * scale} size={each.before ? 8 : 6} />
          <Label at={labels.get(each.id)}>{each.said}</Label>
        </g>
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

type LabelProps = { at: Place | undefined; className?: string; children: string };

function Label({ at, className = "", children }: LabelProps) {
  if (!at) return null;
  return (
    <text x={at.x} y={at.y} textAnchor={at.anchor} className={className}>
      {children}
    </text>
  );
}

/** Where the loss of each piece and each reading is written: beside the line, never on it or on one another. */
function placeLabels(view: CircuitView, geometry: Geometry, measured: Mark[], y: Y) {
  const { profile } = view;
  const lines: Line[] = geometry.pieces.map(({ leg, from, to }) => ({
    x1: from,
    y1: y(leg.lost_before_v),
    x2: to,
    y2: y(leg.lost_after_v),
  }));
  if (profile.allowed_drop_v > 0) {
    const limit = y(profile.allowed_drop_v);
    lines.push({ x1: MARGIN, y1: limit, x2: geometry.right, y2: limit });
  }
  const allowed = { x: MARGIN + 6, y: y(profile.allowed_drop_v) - 6, anchor: "start" as const };
  const fixed: Wanted = { id: "allowed", text: "allowed 0.00 V", places: [allowed], mayGo: false };
  const readings = measured.map(({ id, said, x, lost }): Wanted => {
    const at = y(lost);
    const right = [-6, -20, 18, 32, -36, 48].map((dy): Place => ({ x: x + 10, y: at + dy, anchor: "start" }));
    const left = [-6, 18, -20, 32, -36, 48].map((dy): Place => ({ x: x - 10, y: at + dy, anchor: "end" }));
    return { id, text: said, places: x > geometry.right - 120 ? left : [...right, ...left], mayGo: false };
  });
  const byLoss = [...geometry.pieces].sort((one, other) => other.leg.drop_v - one.leg.drop_v);
  const drops = byLoss
    .filter(({ leg }) => Math.abs(leg.drop_v) >= 0.0005)
    .map(({ leg, segment, from, to }): Wanted => {
      const middle = (from + to) / 2;
      const halfway = y((leg.lost_before_v + leg.lost_after_v) / 2);
      const beside = [-8, -22, 8, 22].flatMap((dx) =>
        [18, -9, 32, -23].map((dy): Place => ({ x: middle + dx, y: halfway + dy, anchor: "middle" })),
      );
      return { id: segment.id, text: millivolts(leg.drop_v), places: beside, mayGo: true };
    });
  return placed([fixed, ...readings, ...drops], lines);
}

type Mark = { id: string; x: number; lost: number; uncertainty: number; said: string; before: boolean };

/** Where readings stand on the route, those before the work apart from those after it. */
function diamonds(geometry: Geometry, readings: Reading[]): Mark[] {
  const marks = readings.flatMap(({ id, judged, mark, measurement, superseded }) => {
    const stop = geometry.stops.find((each) => each.id === mark?.black_point);
    if (!judged.drop || superseded || !stop || !mark) return [];
    const before = measurement.situation?.stage === "found";
    const said = `${before ? "found" : "measured"} ${voltage(mark.drop_v)}`;
    return [{ id, x: stop.x, lost: mark.lost_v, uncertainty: mark.uncertainty_v, said, before }];
  });
  return marks.sort((one, other) => Number(other.before) - Number(one.before)); // the hollow, larger ones below
}

function Diamond({ x, y, spread, size }: { x: number; y: number; spread: number; size: number }) {
  const half = Math.max(spread, 1);
  return (
    <>
      <path d={`M${x - 5},${y - half}h10m-5,0v${2 * half}m-5,0h10`} className="spread" />
      <path d={`M${x},${y - size}l${size},${size}l${-size},${size}l${-size},${-size}z`} className="body" />
    </>
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
