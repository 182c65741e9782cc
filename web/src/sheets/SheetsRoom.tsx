/** What the harness is built from, to read, print and take along: one sheet after the other. */
import { Button } from "@mantine/core";
import type { ReactNode } from "react";
import { useParams } from "react-router";
import { type JobSheets, useBoard, useSheets } from "../api/queries";
import { useKeys } from "../app/keys";
import { STATE_NAME } from "../parts/families";
import { amps, sizeName } from "../parts/format";
import { Still } from "../parts/Still";

type Column<Row> = { head: string; cell: (row: Row) => ReactNode; number?: boolean };

const WIRES: Column<JobSheets["wires"][number]>[] = [
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
const CUTS: Column<JobSheets["cuts"][number]>[] = [
  { head: "size", cell: (row) => <b>{sizeName(row.size)}</b> },
  { head: "colour", cell: (row) => row.colour },
  { head: "insulation", cell: (row) => row.insulation },
  { head: "pieces", cell: (row) => row.pieces },
  { head: "count", cell: (row) => row.count, number: true },
  { head: "total", cell: (row) => metres(row.total_m), number: true },
];
const SHOPPING: Column<JobSheets["shopping"][number]>[] = [
  { head: "item", cell: (row) => <b>{sizeName(row.item)}</b> },
  { head: "detail", cell: (row) => sizeName(row.detail) },
  { head: "quantity", cell: (row) => `${row.quantity} ${row.unit}`, number: true },
];
const FUSES: Column<JobSheets["fuses"][number]>[] = [
  { head: "fuse", cell: (row) => <b>{row.fuse}</b> },
  { head: "rating", cell: (row) => `${sizeName(row.rating)} ${row.kind}` },
  { head: "place", cell: (row) => row.place },
  { head: "carries at most", cell: (row) => carried(row), number: true },
  { head: "protects", cell: (row) => row.protects },
  { head: "circuits", cell: (row) => row.circuits },
  { head: "when pulled", cell: (row) => row.when_pulled },
  { head: "status", cell: (row) => row.status },
];
const RELAYS: Column<JobSheets["relays"][number]>[] = [
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

export function SheetsRoom() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  const sheets = useSheets(jobId);
  useKeys("Sheets", [{ keys: "Mod+p", does: "print", run: () => window.print() }]);
  if (sheets.isError) return <p className="page empty">{sheets.error.message}</p>;
  if (!sheets.data || !board)
    return (
      <Still jobId={jobId} room="sheets" className="page">
        Writing the sheets …
      </Still>
    );
  const { wires, cuts, shopping, fuses, relays, labels } = sheets.data;
  return (
    <div className="page sheets">
      <div className="page-head">
        <h1>{board.job.vehicle}</h1>
        <span className="quiet">{board.job.name}</span>
        <span className="spring" />
        <Button variant="default" className="no-print" onClick={() => window.print()}>
          Print
        </Button>
      </div>
      <nav className="no-print" aria-label="Sheets">
        {["Wire schedule", "Cut list", "Shopping list", "Fuses", "Relays", "Labels"].map((title) => (
          <a key={title} className="link" href={`#${idOf(title)}`}>
            {title}
          </a>
        ))}
      </nav>
      <p className="quiet">
        Disconnect the battery before building, ground first off and last on. Cut lengths hold the house’s
        slack; terminals and sleeves are what is usual unless a wire says otherwise. The maker’s data and
        local codes come first.
      </p>
      <Sheet title="Wire schedule" name="wires" rows={wires} columns={WIRES} empty="No wires yet." />
      <Sheet title="Cut list" name="cuts" rows={cuts} columns={CUTS} empty="Nothing new to cut." />
      <Sheet
        title="Shopping list"
        name="shopping"
        rows={shopping}
        columns={SHOPPING}
        empty="Nothing to buy."
      />
      <Sheet title="Fuses" name="fuses" rows={fuses} columns={FUSES} empty="No fuses, links or breakers." />
      <Sheet title="Relays" name="relays" rows={relays} columns={RELAYS} empty="No relays." />
      <section aria-label="Labels" id="labels">
        <p className="print-only">
          <PageHead title="Labels" />
        </p>
        <Head title="Labels" name="labels" />
        {labels.length === 0 && <p className="quiet">No new wires to label.</p>}
        <ul className="labels">
          {labels.map((label) => (
            <li key={`${label.wire} ${label.end}`}>
              {sizeName(label.text)}
              <span className="quiet label-end">at {label.end}</span>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

const idOf = (title: string) => title.toLowerCase().replace(" ", "-");

function Head({ title, name }: { title: string; name: string }) {
  const { jobId = "" } = useParams();
  return (
    <div className="section-head">
      <h2>{title}</h2>
      <a className="link no-print" href={`/api/jobs/${jobId}/sheets/${name}.csv`} download>
        CSV
      </a>
    </div>
  );
}

/** On paper: which job a page is of, whatever page it is. */
function PageHead({ title }: { title: string }) {
  const { jobId = "" } = useParams();
  const job = useBoard(jobId).data?.job;
  return (
    <>
      {job?.vehicle}: {job?.name}. {title}
    </>
  );
}

type SheetProps<Row> = { title: string; name: string; rows: Row[]; columns: Column<Row>[]; empty: string };

function Sheet<Row extends object>({ title, name, rows, columns, empty }: SheetProps<Row>) {
  return (
    <section aria-label={title} id={idOf(title)}>
      <Head title={title} name={name} />
      {rows.length === 0 ? (
        <p className="quiet">{empty}</p>
      ) : (
        <div className="sheet-frame">
          <table className="sheet">
            <thead>
              <tr className="print-only">
                <th colSpan={columns.length}>
                  <PageHead title={title} />
                </th>
              </tr>
              <tr>
                {columns.map(({ head, number }) => (
                  <th key={head} className={number ? "number" : ""}>
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={Object.values(row).join(" ")}>
                  {columns.map(({ head, cell, number }) => (
                    <td key={head} className={number ? "number" : ""}>
                      {cell(row)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}
