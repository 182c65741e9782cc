/** The route and, aligned under it, the potential along it. */
import { useElementSize } from "@mantine/hooks";
import type { CircuitView, Reading } from "../api/queries";
import { amps, voltage } from "../parts/format";
import { FORK_HEIGHT, ForkLines } from "./ForkLines";
import { type Geometry, layOut } from "./geometry";
import { PotentialProfile } from "./PotentialProfile";
import { RouteStrip, STRIP_HEIGHT, type StripPiece, TRACK_Y } from "./RouteStrip";

type ChartProps = { view: CircuitView; readings: Reading[]; chosen: string; onChoose: (id: string) => void };

export function RouteChart({ view, readings, chosen, onChoose }: ChartProps) {
  const { ref, width, height } = useElementSize();
  const geometry = layOut(view, width);
  const strip = STRIP_HEIGHT + view.profile.forks.length * FORK_HEIGHT;
  const tall = Math.max(height, strip + 172);
  const piece = geometry.pieces.find((each) => each.segment.id === chosen);
  return (
    <section
      className="chart"
      ref={ref}
      tabIndex={geometry.width > width ? 0 : undefined}
      aria-label="Route and profile"
    >
      {width > 0 && (
        <svg width={geometry.width} height={tall}>
          <title>Route and potential profile</title>
          <PotentialProfile
            view={view}
            geometry={geometry}
            readings={readings}
            top={strip + 14}
            height={tall - strip - 20}
          />
          {piece && (
            <rect
              x={piece.from}
              y={30}
              width={piece.to - piece.from}
              height={tall - 36}
              className="chosen-band"
            />
          )}
          <ForkLines
            view={view}
            geometry={geometry}
            trackY={TRACK_Y}
            top={STRIP_HEIGHT}
            chosen={chosen}
            onChoose={onChoose}
          />
          <RouteStrip
            pieces={stripPieces(geometry)}
            stops={geometry.stops}
            gate={{ x: geometry.gateX, device: view.circuit.device, figure: amps(atDevice(view)) }}
            step={geometry.step}
            chosen={chosen}
            onChoose={onChoose}
          />
        </svg>
      )}
    </section>
  );
}

const atDevice = ({ basis, profile, circuit }: CircuitView) =>
  basis === "state" ? profile.device_a : circuit.design_current_a;

const stripPieces = (geometry: Geometry): StripPiece[] =>
  geometry.pieces.map(({ leg, segment, from, to }) => ({
    id: segment.id,
    designation: segment.designation,
    description: segment.description,
    says: `${segment.designation}, ${segment.spec.kind}, ${segment.description}, drops ${voltage(leg.drop_v)}`,
    spec: segment.spec,
    side: leg.side,
    from,
    to,
  }));
