/** A circuit's route and profile at a glance. */
import type { Schemas } from "../api/client";

const WIDTH = 320;
const GATE = 26;

const pieces = (lost: number[]) => Math.max(lost.length - 1, 0);

export function TinyProfile({ of }: { of: Schemas["Glance"] }) {
  const sides = [
    { name: "supply", lost: of.supply_lost_v },
    { name: "return", lost: of.return_lost_v },
  ];
  const [out, back] = [pieces(of.supply_lost_v), pieces(of.return_lost_v)];
  const step = (WIDTH - GATE) / (out + back);
  const gate = out * step;
  const scale = 24 / Math.max(of.allowed_drop_v * 1.15, ...of.supply_lost_v, ...of.return_lost_v, 1e-9);
  return (
    <svg className="tiny-profile" viewBox={`-3 0 ${WIDTH + 6} 36`} aria-hidden="true">
      <rect y={8} width={WIDTH} height={Math.max(of.allowed_drop_v * scale, 0)} className="allowance" />
      {sides.map(({ name, lost }) => {
        const stations = lost.map((lost_v, place) => ({
          x: (name === "return" ? gate + GATE : 0) + place * step,
          y: 8 + lost_v * scale,
        }));
        const [first, last] = [stations[0], stations.at(-1)];
        if (!first || !last) return null;
        return (
          <g key={name} className={name}>
            <path d={`M${first.x},3H${last.x}`} className="track" />
            {stations.map(({ x }) => (
              <circle key={x} cx={x} cy={3} r={2} className="stop" />
            ))}
            <path d={`M${stations.map(({ x, y }) => `${x},${y}`).join(" L")}`} className="potential" />
          </g>
        );
      })}
      <rect x={gate + 4} y={0} width={GATE - 8} height={6} className="gate" />
    </svg>
  );
}
