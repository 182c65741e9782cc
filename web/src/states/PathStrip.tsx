/** The path of a device's current, drawn as a route: out from a source to the device, and back. */
import { useElementSize } from "@mantine/hooks";
import type { WhyView } from "../api/queries";
import { GATE, MARGIN, type Stop, spread } from "../circuits/geometry";
import { RouteStrip, STRIP_HEIGHT, type StripPiece } from "../circuits/RouteStrip";
import { amps } from "../parts/format";

type Props = { why: WhyView; chosen: string | null; onChoose: (part: string) => void };

export function PathStrip({ why, chosen, onChoose }: Props) {
  const { ref, width } = useElementSize();
  const hops = [...why.out, ...why.back];
  const supply = why.out.length;
  const lastName = hops.at(-1)?.to_name ?? "";
  const track = spread(hops.length, supply, width, lastName);
  const pieces = hops.map(
    (hop, index): StripPiece => ({
      id: `${hop.id} ${index}`,
      designation: hop.designation,
      description: hop.is_open ? "open" : hop.description,
      says: `${hop.designation}, ${hop.description}, ${hop.is_open ? "open" : amps(hop.current_a)}`,
      spec: hop.spec,
      side: index < supply ? "supply" : "return",
      contact: hop.is_open ? "open" : "closed",
      from: track.x(index),
      to: track.x(index) + track.step,
    }),
  );
  const stops: Stop[] = [
    ...along(why.out).map((name, index) => stop(name, MARGIN + index * track.step, "supply")),
    ...along(why.back).map((name, index) => stop(name, track.gateX + GATE + index * track.step, "return")),
  ];
  return (
    <section
      className="path-strip"
      ref={ref}
      aria-label="Path"
      tabIndex={track.width > width ? 0 : undefined}
    >
      {width > 0 && (
        <svg width={track.width} height={STRIP_HEIGHT}>
          <title>{`The path through ${why.designation} ${why.name}`}</title>
          <RouteStrip
            pieces={pieces}
            stops={stops}
            gate={{ x: track.gateX, device: why.name, figure: amps(Math.abs(why.current_a ?? 0)) }}
            step={track.step}
            chosen={chosen}
            onChoose={onChoose}
          />
        </svg>
      )}
    </section>
  );
}

const stop = (name: string, x: number, side: Stop["side"]): Stop => ({ id: `${name} ${x}`, name, x, side });

/** The points along a side, one more than its pieces. */
function along(hops: WhyView["out"]): string[] {
  const [first] = hops;
  return first ? [first.from_name, ...hops.map((hop) => hop.to_name)] : [];
}
