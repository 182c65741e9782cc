/** A circuit's route and profile at a glance. */
import type { Schemas } from "../api/client";

const WIDTH = 320;
const GATE = 26;

export function TinyProfile({ profile }: { profile: Schemas["Profile"] }) {
  const step = (WIDTH - GATE) / profile.legs.length;
  const deepest = Math.max(...profile.legs.map((leg) => leg.lost_after_v));
  const scale = 24 / Math.max(profile.allowed_drop_v * 1.15, deepest, 1e-9);
  const sides = ["supply", "return"] as const;
  return (
    <svg className="tiny-profile" viewBox={`-3 0 ${WIDTH + 6} 36`} aria-hidden="true">
      <rect y={8} width={WIDTH} height={Math.max(profile.allowed_drop_v * scale, 0)} className="allowance" />
      {sides.map((side) => {
        const shift = side === "return" ? GATE : 0;
        const legs = profile.legs
          .map((leg, index) => ({ leg, x: index * step + shift }))
          .filter((each) => each.leg.side === side);
        const [first] = legs;
        if (!first) return null;
        const line = [
          `M${first.x},${8 + first.leg.lost_before_v * scale}`,
          ...legs.map(({ leg, x }) => `L${x + step},${8 + leg.lost_after_v * scale}`),
        ].join(" ");
        return (
          <g key={side} className={side}>
            <path d={`M${first.x},3H${first.x + step * legs.length}`} className="track" />
            {[...legs, undefined].map((_, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: stations have no identity here
              <circle key={index} cx={first.x + step * index} cy={3} r={2} className="stop" />
            ))}
            <path d={line} className="potential" />
          </g>
        );
      })}
      <Gate profile={profile} step={step} />
    </svg>
  );
}

function Gate({ profile, step }: { profile: Schemas["Profile"]; step: number }) {
  const supply = profile.legs.filter((leg) => leg.side === "supply").length;
  return <rect x={supply * step + 4} y={0} width={GATE - 8} height={6} className="gate" />;
}
