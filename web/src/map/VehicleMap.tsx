/** The whole vehicle on one page: how close, the keys that walk along it, and what is chosen or lit on it. */
import { Text } from "@mantine/core";
import { useElementSize } from "@mantine/hooks";
import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import type { Board, Finding } from "../api/queries";
import { useKeys } from "../app/keys";
import { clamp } from "../parts/clamp";
import { Findings } from "../parts/Findings";
import type { Dialog } from "../vehicle/rows";
import { ChosenPart } from "./ChosenPart";
import { type Look, routeOf } from "./looks";
import { MapBar } from "./MapBar";
import { MapDrawing, type Place } from "./MapDrawing";
import { LIT } from "./OnTheMap";
import { type Picture, useMap } from "./queries";

const [LEAST_ZOOM, MOST_ZOOM, STEP] = [0.25, 4, 1.25];

export function VehicleMap({ board, show }: { board: Board; show: (dialog: Dialog) => void }) {
  const map = useMap(board.job.id);
  if (map.isError) return <p className="empty">{map.error.message}</p>;
  if (!map.data) return <Text className="quiet">Drawing the map …</Text>;
  if (map.data.points.length === 0)
    return (
      <p className="empty">
        Nothing is wired yet. Lay a circuit, or say where the battery’s posts are, and the map draws itself.
      </p>
    );
  return <OpenMap board={board} picture={map.data} show={show} />;
}

function OpenMap({
  board,
  picture,
  show,
}: {
  board: Board;
  picture: Picture;
  show: (dialog: Dialog) => void;
}) {
  const jobId = board.job.id;
  const [look, setLook] = useState<Look>("amps");
  const [zoom, setZoom] = useState<number | null>(null);
  const [place, setPlace] = useState<Place | null>(null);
  const asked = useSearchParams()[0].get(LIT);
  const [shown, setShown] = useState<string[]>(asked?.split(",") ?? []);
  const { ref, width } = useElementSize();
  const finder = useRef<HTMLInputElement>(null);
  const frame = useRef<HTMLElement | null>(null);
  const scale = zoom ?? clampZoom(width > 0 ? Math.min(1, width / picture.width) : 1);
  const row = place?.row == null ? undefined : picture.rows[place.row];
  const { findings } = board.moment;
  const lit = new Set(place ? [...(row ? routeOf(row) : []), ...waysBeside(place.part, picture)] : shown);
  const noted = new Set(findings.filter(({ severity }) => severity === "error").flatMap(partsOf));

  function choose(part: string, at?: number) {
    const found = at ?? picture.rows.findIndex((each) => routeOf(each).includes(part));
    setPlace({ row: found < 0 ? null : found, part });
  }
  function light(parts: string[]) {
    setPlace(null);
    setShown(parts);
  }
  function walkRows(steps: number) {
    const next = place?.row == null ? 0 : clamp(place.row + steps, picture.rows.length);
    const device = picture.rows[next]?.device;
    if (device) setPlace({ row: next, part: device });
  }
  function walkRoute(steps: number) {
    if (!place || !row) return;
    const route = routeOf(row);
    const part = route[clamp(route.indexOf(place.part) + steps, route.length)];
    if (part) setPlace({ ...place, part });
  }
  const zoomBy = (steps: number) => setZoom(clampZoom(scale * STEP ** steps));
  useKeys("Map", [
    { keys: "ArrowDown", does: "next row", run: () => walkRows(1) },
    { keys: "ArrowUp", does: "row before", run: () => walkRows(-1) },
    { keys: "ArrowRight", does: "along the route", run: () => walkRoute(1) },
    { keys: "ArrowLeft", does: "back along it", run: () => walkRoute(-1) },
    { keys: "/", does: "find a part", run: () => finder.current?.focus() },
    { keys: "+", does: "closer", run: () => zoomBy(1) },
    { keys: "-", does: "farther", run: () => zoomBy(-1) },
    { keys: "0", does: "the whole vehicle", run: () => setZoom(null) },
    { keys: "Escape", does: "choose nothing", run: () => light([]) },
  ]);
  useEffect(() => {
    const shown = frame.current;
    const byWheel = (event: WheelEvent) => {
      if (!event.ctrlKey) return; // a wheel alone scrolls; so does a touchpad, and its pinch comes with Ctrl
      event.preventDefault();
      setZoom((now) => clampZoom((now ?? scale) * STEP ** -Math.sign(event.deltaY)));
    };
    shown?.addEventListener("wheel", byWheel, { passive: false });
    return () => shown?.removeEventListener("wheel", byWheel);
  }, [scale]);
  useEffect(() => {
    if (place)
      frame.current?.querySelector(".chosen")?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [place]);
  return (
    <>
      <MapBar
        {...{ jobId, picture, look, finder }}
        onLook={setLook}
        onFind={choose}
        onCloser={zoomBy}
        onWhole={() => setZoom(null)}
      />
      {place && <ChosenPart board={board} picture={picture} part={place.part} show={show} />}
      <section
        className="map-frame"
        aria-label="The whole vehicle"
        ref={(element) => {
          ref(element as HTMLDivElement | null);
          frame.current = element;
        }}
      >
        <MapDrawing
          picture={picture}
          look={look}
          zoom={scale}
          chosen={place}
          lit={lit}
          noted={noted}
          onChoose={choose}
        />
      </section>
      {findings.length > 0 && <Findings findings={findings} onShow={(finding) => light(partsOf(finding))} />}
    </>
  );
}

/** The other ways of the plug that a part is a way of. */
function waysBeside(part: string, { segments }: Picture): string[] {
  const plug = segments.find(({ id }) => id === part)?.plug;
  return plug ? segments.filter((each) => each.plug === plug).map(({ id }) => id) : [];
}

const partsOf = ({ segment_ids, device_ids }: Finding) => [...segment_ids, ...(device_ids ?? [])];
const clampZoom = (zoom: number) => Math.min(Math.max(zoom, LEAST_ZOOM), MOST_ZOOM);
