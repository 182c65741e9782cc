/** What is chosen on the map: what it is and does in this state, the circuits over it, and what can be changed. */
import { Button } from "@mantine/core";
import { Link } from "react-router";
import type { Board } from "../api/queries";
import { amps, celsius, sizeName, voltage, volts, watts } from "../parts/format";
import type { Dialog } from "../vehicle/rows";
import type { Picture, Row } from "./queries";

type Props = { board: Board; picture: Picture; part: string; show: (dialog: Dialog) => void };

export function ChosenPart({ board, picture, part, show }: Props) {
  const piece = picture.segments.find(({ id }) => id === part);
  const segment = board.segments.find(({ id }) => id === part);
  const row = picture.rows.find(({ device, is_main }) => device === part && is_main);
  const device = board.devices.find(({ id }) => id === part);
  const over = board.lines
    .map(({ circuit }) => circuit)
    .filter((circuit) =>
      piece ? [...circuit.supply, ...circuit.return_path].includes(part) : circuit.device_id === part,
    );
  return (
    <div className="map-chosen" aria-live="polite">
      <b className="mono">{piece?.designation ?? row?.designation}</b>
      <span>{piece ? sizeName(piece.description) : row && `${row.name}, ${row.does}`}</span>
      <span className="mono">{piece ? figuresOf(piece.result) : row && deviceFigures(row)}</span>
      <span className="spring" />
      {over.map((circuit) => (
        <Link key={circuit.id} to={`/jobs/${board.job.id}/circuits/${circuit.id}`} className="link">
          {circuit.name}
        </Link>
      ))}
      {segment && (
        <Button
          variant="default"
          size="compact-sm"
          onClick={() => show({ what: "segment", task: { way: "edit", segment } })}
        >
          Edit
        </Button>
      )}
      {device && (
        <Button variant="default" size="compact-sm" onClick={() => show({ what: "device", device })}>
          Edit
        </Button>
      )}
    </div>
  );
}

function figuresOf({ current_a, drop_v, power_w, copper_c }: Picture["segments"][number]["result"]): string {
  return [
    current_a === null ? null : amps(Math.abs(current_a)),
    drop_v === null ? null : `${voltage(Math.abs(drop_v))} lost`,
    power_w === null ? null : watts(power_w),
    copper_c == null ? null : celsius(copper_c),
  ]
    .filter(Boolean)
    .join(" · ");
}

const deviceFigures = ({ current_a, voltage_v }: Row) =>
  [current_a === null ? null : amps(current_a), voltage_v === null ? null : `${volts(voltage_v)} V`]
    .filter(Boolean)
    .join(" · ");
