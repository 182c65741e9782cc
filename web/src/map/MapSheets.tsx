/** The map on paper: each sheet with its part of the drawing, what it is of, and where to cut where there are more. */
import { useEffect, useRef } from "react";
import { createPortal } from "react-dom";
import { type mapQuery, type Paper, useSheets } from "./queries";

type Props = {
  jobId: string;
  title: string;
  paper: Paper;
  query: ReturnType<typeof mapQuery>;
  drawing: string;
  onDone: () => void;
};

/** Prints as soon as everything is there, and is gone again. */
export function MapSheets({ jobId, title, paper, query, drawing, onDone }: Props) {
  const { data: sheets, isError } = useSheets(jobId, paper, query);
  const pages = useRef<HTMLDivElement>(null);
  const done = useRef(onDone);
  useEffect(() => {
    if (isError) done.current();
    if (!sheets) return;
    const images = [...(pages.current?.querySelectorAll("img") ?? [])];
    void Promise.all(images.map((each) => each.decode())).then(() => window.print(), done.current);
    const gone = () => done.current();
    window.addEventListener("afterprint", gone);
    return () => window.removeEventListener("afterprint", gone);
  }, [sheets, isError]);
  if (!sheets) return null;
  const { landscape, columns, rows, scale, width, height, tiles } = sheets;
  const mm = (px: number) => `${px * scale}mm`;
  return createPortal(
    <div className={`map-sheets ${paper} ${landscape ? "landscape" : ""}`} ref={pages}>
      {tiles.map((tile, place) => (
        <section key={`${tile.x} ${tile.y}`} className="map-sheet">
          <p>
            {title}
            {tiles.length > 1 &&
              `, sheet ${place + 1} of ${tiles.length}: row ${Math.floor(place / columns) + 1} of ${rows}, column ${(place % columns) + 1} of ${columns}`}
          </p>
          <div className="map-tile" style={{ width: mm(tile.width), height: mm(tile.height) }}>
            <div>
              <img
                src={drawing}
                alt={title}
                style={{
                  width: mm(width),
                  height: mm(height),
                  marginLeft: mm(-tile.x),
                  marginTop: mm(-tile.y),
                }}
              />
            </div>
            {tiles.length > 1 &&
              ["nw", "ne", "sw", "se"].map((corner) => <i key={corner} className={corner} />)}
          </div>
        </section>
      ))}
    </div>,
    document.body,
  );
}
