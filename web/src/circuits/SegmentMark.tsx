/** The mark of one segment on the track, drawn between its two stations. */
import type { Segment } from "../api/queries";

type Props = { spec: Segment["spec"] | null; from: number; to: number; y: number; closed?: boolean };

/** A contact is drawn open, as symbols are, unless it is known to be closed here. */
export function SegmentMark({ spec, from, to, y, closed = false }: Props) {
  const middle = (from + to) / 2;
  const rail = <path d={`M${from},${y}H${to}`} className="track thin" />;
  if (spec === null) {
    // A device that current passes on its way: half a gate.
    return (
      <>
        {rail}
        <rect x={middle - 15} y={y - 11} width={30} height={22} rx={3} className="mark-box" />
      </>
    );
  }
  switch (spec.kind) {
    case "wire":
      return <path d={`M${from},${y}H${to}`} className="track" strokeWidth={thickness(spec.size)} />;
    case "fuse":
      return (
        <>
          {rail}
          <rect x={middle - 13} y={y - 7} width={26} height={14} rx={2} className="mark-box" />
          <path d={`M${middle - 13},${y}q6.5,-7 13,0t13,0`} className="mark-line" />
        </>
      );
    case "connector":
      return (
        <>
          <path d={`M${from},${y}H${middle - 9}M${middle + 9},${y}H${to}`} className="track thin" />
          <path d={`M${middle - 2},${y - 9}h-7v18h7M${middle + 2},${y - 9}h7v18h-7`} className="mark-box" />
        </>
      );
    case "switch":
    case "sensor switch":
    case "relay contact":
      return (
        <>
          <path d={`M${from},${y}H${middle - 11}M${middle + 11},${y}H${to}`} className="track thin" />
          <path d={`M${middle - 11},${y}L${middle + 9},${y - (closed ? 0 : 9)}`} className="mark-line" />
          <circle cx={middle + 11} cy={y} r={2.5} className="mark-dot" />
          {spec.kind === "relay contact" && (
            <path d={`M${middle - 6},${y - 19}h12M${middle},${y - 19}v13`} className="mark-line faint" />
          )}
          {spec.kind === "sensor switch" && (
            <path d={`M${middle - 7},${y - 14}q7,-8 14,0`} className="mark-line faint" />
          )}
        </>
      );
    case "fusible link":
      return (
        <path
          d={`M${from},${y}H${middle - 14}l7,-6l7,12l7,-12l7,6H${to}`}
          className="track"
          strokeWidth={thickness(spec.size)}
        />
      );
    case "breaker":
      return (
        <>
          {rail}
          <path d={`M${middle - 13},${y}q13,-17 26,0`} className="mark-line" />
        </>
      );
    case "splice":
      return (
        <>
          {rail}
          <rect x={middle - 9} y={y - 4} width={18} height={8} rx={4} className="mark-box" />
        </>
      );
    case "diode":
      return (
        <>
          {rail}
          <path d={`M${middle - 7},${y - 8}v16l13,-8zM${middle + 7},${y - 8}v16`} className="mark-box" />
        </>
      );
    case "resistor":
      return (
        <>
          {rail}
          <rect x={middle - 14} y={y - 5} width={28} height={10} className="mark-box" />
        </>
      );
    case "shunt":
      return (
        <>
          {rail}
          <circle cx={middle} cy={y} r={10} className="mark-box" />
          <path d={`M${middle - 4},${y + 4}L${middle + 4},${y - 5}`} className="mark-line" />
        </>
      );
    case "joint":
      return (
        <>
          {rail}
          <circle cx={middle} cy={y} r={8} className="mark-box" />
          <circle cx={middle} cy={y} r={2.5} className="mark-dot" />
        </>
      );
    case "body":
      return (
        <>
          <rect x={from + 6} y={y - 8} width={to - from - 12} height={16} className="mark-box" />
          {[0.2, 0.4, 0.6, 0.8].map((share) => (
            <path
              key={share}
              d={`M${from + 6 + (to - from - 12) * share - 5},${y + 8}l10,-16`}
              className="mark-line faint"
            />
          ))}
        </>
      );
  }
}

/** Line width on screen from the size in the wire's name: visibly thicker for each step, never clumsy. */
function thickness(size: string): number {
  const [number = "", unit] = size.split(" ");
  const steps = unit === "mm2" ? Math.log2(Number(number) * 4) : (22 - gauge(number)) / 2.6;
  return Math.min(Math.max(1.5 + steps * 0.95, 1.5), 11);
}

function gauge(number: string): number {
  const [aughts, slash] = number.split("/");
  return slash === undefined ? Number(number) : 1 - Number(aughts);
}
