/** The page of the map: everything as the server laid it out, with what is chosen, probed, and what stands out. */
import { memo } from "react";
import { volts } from "../parts/format";
import { type lookedAt, routeOf } from "./looks";
import type { Line, Picture, Piece, Row } from "./queries";

/** What is chosen: a segment or a device, and the row on whose route it lies, if it lies on any. */
export type Place = { row: number | null; part: string };

type Props = {
  picture: Picture;
  looks: ReturnType<typeof lookedAt>;
  zoom: number;
  /** Whether the devices stay on the screen when one scrolls to a side. */
  isPinned: boolean;
  chosen: Place | null;
  lit: ReadonlySet<string>;
  noted: ReadonlySet<string>;
  probes: string[];
  onChoose: (part: string, row?: number) => void;
  onProbe: (point: string) => void;
};

const HEAD = 32; // where the drawing that is kept has its title

export function MapDrawing({
  picture,
  looks,
  zoom,
  isPinned,
  chosen,
  lit,
  noted,
  probes,
  onChoose,
  onProbe,
}: Props) {
  const { width, height, devices } = picture;
  const [left = 0, right = 0] = devices;
  const names = new Map(picture.segments.map(({ id, designation }) => [id, designation]));
  return (
    <div className="map-page">
      <svg
        className="map"
        width={width * zoom}
        height={(height - HEAD) * zoom}
        viewBox={`0 ${HEAD} ${width} ${height - HEAD}`}
      >
        <title>The whole vehicle</title>
        {picture.posts.map(({ sign, ...post }) => (
          <g key={sign}>
            <rect {...post} className="post" />
            <text x={post.x + post.width / 2} y={post.y - 6} className="map-label">
              {sign}
            </text>
          </g>
        ))}
        {picture.segments.map((piece) => {
          const { figure, style, share } = looks.ofPiece(piece);
          const state = piece.id === chosen?.part ? "chosen" : lit.has(piece.id) ? "lit" : "";
          const out = style || (noted.has(piece.id) ? "out" : "");
          return <PieceOf key={piece.id} {...{ piece, figure, state, share, onChoose }} style={out} />;
        })}
        {picture.rows.map((row) => (
          <g key={`${row.device} ${row.y}`}>
            {row.left && <LineOf line={row.left.lead} />}
            {row.right && <LineOf line={row.right.lead} />}
          </g>
        ))}
        {picture.points.map(({ id, name, x, y, bar, drawn_as, v }) => (
          // biome-ignore lint/a11y/noStaticElementInteractions: by keyboard a probe goes to the end of a part
          <g key={id} className="map-point-here" onClick={() => onProbe(id)}>
            {bar && <LineOf line={bar} />}
            <circle cx={x} cy={y} r={7} className="map-reach" />
            <circle cx={x} cy={y} r={2.6} className={`map-point ${drawn_as}`}>
              <title>{v === null ? name : `${name}, ${volts(v)} V`}</title>
            </circle>
          </g>
        ))}
        {probes.map((id, place) => (
          <ProbeAt key={id} point={picture.points.find((each) => each.id === id)} isRed={place === 0} />
        ))}
      </svg>
      <div className="map-column">
        <span style={{ flex: `0 0 ${left * zoom}px` }} />
        <svg
          className={isPinned ? "map map-devices pinned" : "map map-devices"}
          width={(right - left) * zoom}
          height={(height - HEAD) * zoom}
          viewBox={`${left} ${HEAD} ${right - left} ${height - HEAD}`}
        >
          <title>Devices</title>
          <g role="tree" aria-label="Routes">
            {picture.rows.map((row, place) => {
              const { figure, style } = looks.ofRow(row);
              return (
                <RowOf
                  key={`${row.device} ${row.y}`}
                  {...{ row, figure, style, left, right, place, onChoose }}
                  wayNames={routeOf(row)
                    .map((part) => names.get(part) ?? row.designation)
                    .join(", ")}
                  chosen={place === chosen?.row && row.device === chosen.part}
                  lit={lit.has(row.device)}
                  noted={noted.has(row.device)}
                />
              );
            })}
          </g>
        </svg>
      </div>
    </div>
  );
}

function LineOf({ line }: { line: Line }) {
  return <path d={line.path} strokeWidth={line.px} className={`map-line ${line.drawn_as}`} />;
}

type PieceProps = {
  piece: Piece;
  figure: string;
  style: string;
  share?: number | undefined;
  state: string;
  onChoose: Props["onChoose"];
};

const PieceOf = memo(({ piece, figure, style, share, state, onChoose }: PieceProps) => {
  const { line, mark, x, y } = piece;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: rows carry the routes for screen readers
    <g
      className={["map-piece", state, style, piece.known].filter(Boolean).join(" ")}
      data-segment={piece.id}
      onClick={() => onChoose(piece.id)}
    >
      <title>{`${piece.designation}, ${piece.description}`}</title>
      <path
        d={line.path}
        className="map-hit"
        style={share ? { strokeOpacity: 0.15 + 0.7 * share } : undefined}
      />
      <LineOf line={line} />
      <g transform={`translate(${x},${y})`} className={line.drawn_as}>
        {mark.outline && <path d={mark.outline} className="map-mark outline" />}
        {mark.stroke && <path d={mark.stroke} className="map-mark" />}
      </g>
      <text x={x} y={y - 11} className={`map-label ${piece.is_new ? "new" : ""}`}>
        {short(figure, 8)}
      </text>
    </g>
  );
});

type RowProps = {
  row: Row;
  place: number;
  figure: string;
  style: string;
  left: number;
  right: number;
  wayNames: string;
  chosen: boolean;
  lit: boolean;
  noted: boolean;
  onChoose: Props["onChoose"];
};

const RowOf = memo((props: RowProps) => {
  const { row, place, figure, style, left, right, wayNames, chosen, lit, noted, onChoose } = props;
  const own = row.left?.terminal ?? row.right?.terminal ?? "";
  const name = `${row.designation} ${row.is_main ? row.name : own}`;
  const shown = row.is_main ? figure : "";
  const shortened = short(name, shown ? 19 : 27);
  const kind = row.is_main ? row.on && "on" : "pale";
  return (
    <g
      role="treeitem"
      tabIndex={-1}
      aria-selected={chosen}
      className={["map-device", kind, row.known, chosen && "chosen", lit && "lit", noted && "noted", style]
        .filter(Boolean)
        .join(" ")}
      onClick={() => onChoose(row.device, place)}
    >
      <rect x={left} y={row.y - 12} width={right - left} height={24} rx={3} />
      <text x={left + 8} y={row.y + 4} className={row.is_new ? "new" : ""}>
        {shortened}
      </text>
      <text x={right - 8} y={row.y + 4} className="map-figure">
        {shown}
      </text>
      <text x={left + 8} y={row.y} className="read-out">
        {`, ${shortened === name ? "" : `${name}, `}${row.does}. ${wayNames}`}
      </text>
    </g>
  );
});

function ProbeAt({ point, isRed }: { point: Picture["points"][number] | undefined; isRed: boolean }) {
  if (!point) return null;
  const { x, y } = point;
  return (
    <g className={`probe ${isRed ? "red" : "black"}`}>
      <path d={`M${x},${y}V${y - 12}`} />
      <circle cx={x} cy={y - 18} r={8} />
      <text x={x} y={y - 14} className="sign">
        {isRed ? "+" : "−"}
      </text>
    </g>
  );
}

const short = (text: string, most: number) => (text.length <= most ? text : `${text.slice(0, most - 1)}…`);
