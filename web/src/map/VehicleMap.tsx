/** The whole vehicle on one page: how close, the keys that walk along it, and what is chosen, lit or probed on it. */
import { Text } from "@mantine/core";
import { useElementSize } from "@mantine/hooks";
import { type Dispatch, type SetStateAction, useCallback, useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import type { Board, Trial } from "../api/queries";
import { useKeys } from "../app/keys";
import { useViewing } from "../app/viewing";
import { MetalBar } from "../circuits/Metal";
import { clamp } from "../parts/clamp";
import { Findings, partsOf } from "../parts/Findings";
import { LIT } from "../parts/OnTheMap";
import { useWords } from "../parts/useWords";
import type { Dialog } from "../vehicle/rows";
import { FoldedAway } from "./FoldedAway";
import { type Look, lookedAt, routeOf, SUSPECT } from "./looks";
import { MapBar } from "./MapBar";
import { MapDrawing, type Place } from "./MapDrawing";
import { MapSheets } from "./MapSheets";
import { PartPanel } from "./PartPanel";
import { ProbePanel } from "./ProbePanel";
import { endsOf, howKnown, waysBeside } from "./parts";
import { asAddress, mapQuery, type Paper, type Picture, type Shown, useMap } from "./queries";
import { useKnown } from "./useKnown";
import { useZoom } from "./useZoom";

const MOST_PINNED = 0.6; // of the width: where the devices take more, one wants to see past them
const WHOLE: Shown = { metal: [], folded: [], alone: false };

/** A change that is tried and not kept yet, at the part that is chosen. */
export type Tried = { trial: Trial | null; setTrial: Dispatch<SetStateAction<Trial | null>> };

type Props = { board: Board; show: (dialog: Dialog) => void };

export function VehicleMap({ board, show }: Props) {
  const [shown, setShown] = useState(WHOLE);
  const [trial, setTrial] = useState<Trial | null>(null);
  const map = useMap(board.job.id, shown, trial);
  if (map.isError) return <p className="empty">{map.error.message}</p>;
  if (!map.data) return <Text className="quiet">Drawing the map …</Text>;
  if (map.data.points.length === 0)
    return (
      <p className="empty">
        Nothing is wired yet. Lay a circuit, or say where the battery’s posts are, and the map draws itself.
      </p>
    );
  return <OpenMap {...{ board, show, shown, trial, setTrial }} picture={map.data} onShown={setShown} />;
}

type OpenProps = Props & Tried & { picture: Picture; shown: Shown; onShown: (shown: Shown) => void };

function OpenMap({ board, picture, show, shown, onShown, trial, setTrial }: OpenProps) {
  const jobId = board.job.id;
  const viewing = useViewing(jobId);
  const words = useWords();
  const [look, setLook] = useState<Look>("amps");
  const [place, setPlace] = useState<Place | null>(null);
  const [probes, setProbes] = useState<string[]>([]);
  const [paper, setPaper] = useState<Paper | null>(null);
  const asked = useSearchParams()[0].get(LIT);
  const [light, setLight] = useState<string[]>(asked?.split(",") ?? []);
  const { ref: room, width } = useElementSize();
  const finder = useRef<HTMLInputElement>(null);
  const [frame, setFrame] = useState<HTMLElement | null>(null);
  const zoom = useZoom(frame, width, picture);
  const known = useKnown(jobId, look);
  const row = place?.row == null ? undefined : picture.rows[place.row];
  const { findings } = board.moment;
  const lit = new Set(place ? [...(row ? routeOf(row) : []), ...waysBeside(place.part, picture)] : light);
  const wrong = look === "amps" ? findings.filter(({ severity }) => severity === "error") : [];
  const noted = new Set(wrong.flatMap(partsOf));
  const query = mapQuery(viewing, shown);

  const put = useCallback(
    (there: Place | null) => {
      setPlace(there);
      setProbes([]);
      setTrial(null);
    },
    [setTrial],
  );
  const choose = useCallback(
    (part: string, at?: number) => {
      const found = at ?? picture.rows.findIndex((each) => routeOf(each).includes(part));
      put({ row: found < 0 ? null : found, part });
    },
    [picture, put],
  );
  const probe = useCallback(
    (point: string) => setProbes((on) => (on.length === 2 ? [point] : on[0] === point ? on : [...on, point])),
    [],
  );
  function probeHere() {
    const ends = place && endsOf(place.part, picture);
    const point = ends?.[probes.length === 1 ? 1 : 0];
    if (point) probe(point);
  }
  function lightUp(parts: string[]) {
    put(null);
    setLight(parts);
  }
  function leave() {
    if (probes.length > 0) setProbes([]);
    else if (place || light.length > 0) lightUp([]);
    else onShown({ ...shown, metal: [] });
  }
  function walkRows(steps: number) {
    const next = place?.row == null ? 0 : clamp(place.row + steps, picture.rows.length);
    const device = picture.rows[next]?.device;
    if (device) put({ row: next, part: device });
  }
  function walkRoute(steps: number) {
    if (!place || !row) return;
    const route = routeOf(row);
    const part = route[clamp(route.indexOf(place.part) + steps, route.length)];
    if (part) put({ ...place, part });
  }
  useKeys("Map", [
    { keys: "ArrowDown", does: "next row", run: () => walkRows(1) },
    { keys: "ArrowUp", does: "row before", run: () => walkRows(-1) },
    { keys: "ArrowRight", does: "along the route", run: () => walkRoute(1) },
    { keys: "ArrowLeft", does: "back along it", run: () => walkRoute(-1) },
    { keys: "/", does: "find a part", run: () => finder.current?.focus() },
    { keys: "q", does: "a probe here", run: probeHere },
    { keys: "+", does: "closer", run: () => zoom.by(1) },
    { keys: "-", does: "farther", run: () => zoom.by(-1) },
    { keys: "0", does: "the whole vehicle", run: zoom.whole },
    { keys: "Mod+p", does: "print on A4", run: () => setPaper("A4") },
    { keys: "Escape", does: "choose nothing", run: leave },
  ]);
  useEffect(() => {
    if (place) frame?.querySelector(".chosen")?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [place, frame]);
  const isThere = place && endsOf(place.part, picture);
  const fold = (folded: string[], alone = false) => onShown({ ...shown, folded, alone });
  const drawing = `/api/jobs/${jobId}/map.svg?${asAddress(query)}`;
  return (
    <>
      <MapBar
        {...{ board, picture, look, finder, drawing }}
        isAlone={shown.alone}
        onLook={setLook}
        onFind={choose}
        onAlone={fold}
        onPrint={setPaper}
        onCloser={zoom.by}
        onWhole={zoom.whole}
      />
      <MetalBar metal={shown.metal} now="" onPutBack={() => onShown({ ...shown, metal: [] })} />
      <FoldedAway
        board={board}
        folded={shown.folded}
        onFold={(folded) => fold(folded, shown.alone && folded.length > 0)}
      />
      {look === "suspects" && (
        <p className="quiet map-remark">
          {known.suspicion === null
            ? "Weighing every fault …"
            : Object.values(known.suspicion).every((share) => share < SUSPECT) &&
              "No part is suspected more than another yet: say in Trace what the customer says."}
        </p>
      )}
      {look === "known" && <p className="quiet map-remark">{howKnown(picture)}</p>}
      <div className={findings.length > 0 ? "map-room noting" : "map-room"} ref={room}>
        <section className="map-frame" aria-label="The whole vehicle" ref={setFrame}>
          <MapDrawing
            {...{ picture, lit, noted, probes }}
            looks={lookedAt(look, picture, known)}
            zoom={zoom.zoom}
            isPinned={(picture.devices[1] - picture.devices[0]) * zoom.zoom < width * MOST_PINNED}
            chosen={place}
            onChoose={choose}
            onProbe={probe}
          />
        </section>
        {(probes.length > 0 || isThere) && (
          <aside className="map-panel" aria-label="Chosen on the map">
            {probes.length > 0 ? (
              <ProbePanel
                {...{ jobId, picture, probes }}
                metal={shown.metal}
                onAcross={isThere ? probeHere : null}
                onDone={() => setProbes([])}
              />
            ) : (
              place && (
                <PartPanel
                  key={place.part}
                  {...{ board, picture, show, trial, setTrial }}
                  part={place.part}
                  metal={shown.metal}
                  onTry={(metal) => onShown({ ...shown, metal })}
                  onChoose={choose}
                  onProbe={probeHere}
                  onFold={(circuit) => {
                    put(null);
                    fold([...shown.folded, circuit], shown.alone);
                  }}
                />
              )
            )}
          </aside>
        )}
      </div>
      {findings.length > 0 && (
        <Findings findings={findings} onShow={(finding) => lightUp(partsOf(finding))} />
      )}
      {paper && (
        <MapSheets
          {...{ jobId, paper, query, drawing }}
          title={`${board.job.vehicle}: ${board.job.name}, as ${viewing.stage}, ${words.state(viewing.state)}`}
          onDone={() => setPaper(null)}
        />
      )}
    </>
  );
}
