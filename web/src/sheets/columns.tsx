/** The columns of each sheet. */
import type { ReactNode } from "react";
import type { JobSheets } from "../api/queries";
import { STATE_NAME } from "../parts/families";
import { amps, sizeName } from "../parts/format";

export type Column<Row> = { head: string; cell: (row: Row) => ReactNode; number?: boolean };

export const WIRES: Column<JobSheets["wires"][number]>[] = [
  { head: "wire", cell: (row) => <b>{row.wire}</b> },
  { head: "from", cell: (row) => row.from_point },
  { head: "to", cell: (row) => row.to_point },
  { head: "size, made to", cell: (row) => <BothSizes {...row} /> },
  { head: "colour", cell: (row) => row.colour },
  { head: "insulation", cell: (row) => row.insulation },
  { head: "length", cell: (row) => metres(row.length_m), number: true },
  { head: "cut", cell: (row) => metres(row.cut_m), number: true },
  { head: "ends", cell: (row) => `${row.from_end} – ${row.to_end}, ${row.joined}` },
  { head: "heat-shrink, sleeve", cell: (row) => `${row.heat_shrink}; ${row.sleeve}` },
  { head: "status", cell: (row) => row.status },
];

export const CUTS: Column<JobSheets["cuts"][number]>[] = [
  { head: "size", cell: (row) => <b>{sizeName(row.size)}</b> },
  { head: "colour", cell: (row) => row.colour },
  { head: "insulation", cell: (row) => row.insulation },
  { head: "pieces", cell: (row) => row.pieces },
  { head: "count", cell: (row) => row.count, number: true },
  { head: "total", cell: (row) => metres(row.total_m), number: true },
];

export const SHOPPING: Column<JobSheets["shopping"][number]>[] = [
  { head: "item", cell: (row) => <b>{sizeName(row.item)}</b> },
  { head: "detail", cell: (row) => sizeName(row.detail) },
  { head: "quantity", cell: (row) => `${row.quantity} ${row.unit}`, number: true },
];

export const FUSES: Column<JobSheets["fuses"][number]>[] = [
  { head: "fuse", cell: (row) => <b>{row.fuse}</b> },
  { head: "rating", cell: (row) => `${sizeName(row.rating)} ${row.kind}` },
  { head: "place", cell: (row) => row.place },
  { head: "carries at most", cell: (row) => carried(row), number: true },
  { head: "protects", cell: (row) => row.protects },
  { head: "circuits", cell: (row) => row.circuits },
  { head: "when pulled", cell: (row) => row.when_pulled },
  { head: "status", cell: (row) => row.status },
];

export const RELAYS: Column<JobSheets["relays"][number]>[] = [
  { head: "relay", cell: (row) => <b>{row.relay}</b> },
  { head: "name", cell: (row) => row.name },
  { head: "coil", cell: (row) => `${Math.round(row.coil_ohm)} Ω, ${row.suppression}` },
  { head: "contacts", cell: (row) => row.contacts },
  { head: "switches", cell: (row) => row.switches },
  { head: "triggered by", cell: (row) => `${row.triggered_by}${row.driven && `, ${row.driven}`}` },
  { head: "when pulled", cell: (row) => row.when_pulled },
  { head: "status", cell: (row) => row.status },
];

type Sized = { size: string; other_system: string; made_to: string };

function BothSizes({ size, other_system, made_to }: Sized) {
  return (
    <span className="both-sizes">
      {sizeName(size)}
      <br />
      <span className="quiet">
        {other_system}, {made_to}
      </span>
    </span>
  );
}

const carried = ({ load_a, load_state }: JobSheets["fuses"][number]) =>
  load_state ? `${amps(load_a)} ${STATE_NAME[load_state]}` : "nothing";

const metres = (value: number) => `${value.toFixed(2)} m`;
