/** The route and, aligned under it, the potential along it. */
import { useElementSize } from "@mantine/hooks";
import type { CircuitView, Reading } from "../api/queries";
import { FORK_HEIGHT, ForkLines } from "./ForkLines";
import { layOut } from "./geometry";
import { PotentialProfile } from "./PotentialProfile";
import { RouteStrip, STRIP_HEIGHT, TRACK_Y } from "./RouteStrip";

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
          <RouteStrip view={view} geometry={geometry} chosen={chosen} onChoose={onChoose} />
        </svg>
      )}
    </section>
  );
}
