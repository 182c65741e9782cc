/** The page of the map: everything as the server laid it out, with what is chosen and what stands out. */
import { volts } from "../parts/format";
import { figureOf, type Look, labelOf, measureOf, routeOf, standsOut } from "./looks";
import type { Line, Picture, Piece, Row } from "./queries";

/** What is chosen: a segment or a device, and the row on whose route it lies, if it lies on any. */
export type Place = { row: number | null; part: string };

type Props = {
  picture: Picture;
  look: Look;
  zoom: number;
  chosen: Place | null;
  lit: ReadonlySet<string>;
  noted: ReadonlySet<string>;
  onChoose: (part: string, row?: number) => void;
};

const HEAD = 32; // where the drawing that is kept has its title

export function MapDrawing({ picture, look, zoom, chosen, lit, noted, onChoose }: Props) {
  const { width, height } = picture;
  const names = new Map(picture.segments.map(({ id, designation }) => [id, designation]));
  const worst = Math.max(0, ...picture.segments.map((piece) => measureOf(piece, look)));
  return (
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
      {picture.segments.map((piece) => (
        <PieceOf
          key={piece.id}
          piece={piece}
          label={labelOf(piece, look)}
          out={standsOut(piece, look, worst) || (look === "amps" && noted.has(piece.id))}
          fresh={look === "what is new" && piece.is_new}
          state={piece.id === chosen?.part ? "chosen" : lit.has(piece.id) ? "lit" : ""}
          onChoose={onChoose}
        />
      ))}
      {picture.points.map(({ id, name, x, y, bar, drawn_as, v }) => (
        <g key={id}>
          {bar && <LineOf line={bar} />}
          <circle cx={x} cy={y} r={2.6} className={`map-point ${drawn_as}`}>
            <title>{v === null ? name : `${name}, ${volts(v)} V`}</title>
          </circle>
        </g>
      ))}
      <g role="tree" aria-label="Routes">
        {picture.rows.map((row, place) => (
          <RowOf
            key={`${row.device} ${row.y}`}
            row={row}
            figure={figureOf(row, look)}
            edges={picture.devices}
            wayNames={routeOf(row)
              .map((part) => names.get(part) ?? row.designation)
              .join(", ")}
            chosen={place === chosen?.row && row.device === chosen.part}
            lit={lit.has(row.device)}
            noted={noted.has(row.device)}
            onChoose={() => onChoose(row.device, place)}
          />
        ))}
      </g>
    </svg>
  );
}

function LineOf({ line }: { line: Line }) {
  return <path d={line.path} strokeWidth={line.px} className={`map-line ${line.drawn_as}`} />;
}

type PieceProps = {
  piece: Piece;
  label: string;
  out: boolean;
  fresh: boolean;
  state: string;
  onChoose: Props["onChoose"];
};

function PieceOf({ piece, label, out, fresh, state, onChoose }: PieceProps) {
  const { line, mark, x, y } = piece;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: rows carry the routes for screen readers
    <g
      className={["map-piece", state, out && "out", fresh && "fresh"].filter(Boolean).join(" ")}
      data-segment={piece.id}
      onClick={() => onChoose(piece.id)}
    >
      <title>{`${piece.designation}, ${piece.description}`}</title>
      <path d={line.path} className="map-hit" />
      <LineOf line={line} />
      <g transform={`translate(${x},${y})`} className={line.drawn_as}>
        {mark.outline && <path d={mark.outline} className="map-mark outline" />}
        {mark.stroke && <path d={mark.stroke} className="map-mark" />}
      </g>
      <text x={x} y={y - 11} className={`map-label ${piece.is_new ? "new" : ""}`}>
        {short(label, 8)}
      </text>
    </g>
  );
}

type RowProps = {
  row: Row;
  figure: string;
  edges: number[];
  wayNames: string;
  chosen: boolean;
  lit: boolean;
  noted: boolean;
  onChoose: () => void;
};

function RowOf({
  row,
  figure,
  edges: [left = 0, right = 0],
  wayNames,
  chosen,
  lit,
  noted,
  onChoose,
}: RowProps) {
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
      className={["map-device", kind, chosen && "chosen", lit && "lit", noted && "noted"]
        .filter(Boolean)
        .join(" ")}
      onClick={onChoose}
    >
      {row.left && <LineOf line={row.left.lead} />}
      {row.right && <LineOf line={row.right.lead} />}
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
}

const short = (text: string, most: number) => (text.length <= most ? text : `${text.slice(0, most - 1)}…`);
