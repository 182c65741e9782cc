/** What the harness is built from, to read, print and take along: one sheet after the other. */
import { Button } from "@mantine/core";
import { useParams } from "react-router";
import { useBoard, useSheets } from "../api/queries";
import { useKeys } from "../app/keys";
import { sizeName } from "../parts/format";
import { Still } from "../parts/Still";
import { type Column, CUTS, FUSES, RELAYS, SHOPPING, WIRES } from "./columns";

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
