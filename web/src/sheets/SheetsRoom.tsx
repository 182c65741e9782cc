/** What the harness is built from, to read, print and take along: one sheet after the other. */
import { Button } from "@mantine/core";
import { useParams } from "react-router";
import { type JobSheet, useBoard } from "../api/queries";
import { useKeys } from "../app/keys";
import { sizeName } from "../parts/format";
import { Still } from "../parts/Still";
import { useSheets } from "./queries";

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
        {sheets.data.map(({ name, title }) => (
          <a key={name} className="link" href={`#${name}`}>
            {title}
          </a>
        ))}
      </nav>
      <p className="quiet">
        Disconnect the battery before building, ground first off and last on. Cut lengths hold the house’s
        slack; terminals and sleeves are what is usual unless a wire says otherwise. The maker’s data and
        local regulations come first.
      </p>
      {sheets.data.map((sheet) => (
        <section key={sheet.name} aria-label={sheet.title} id={sheet.name}>
          <Head title={sheet.title} name={sheet.name} />
          {sheet.rows.length === 0 && <p className="quiet">{sheet.empty}</p>}
          {sheet.name === "labels" ? <Labels sheet={sheet} /> : <Sheet sheet={sheet} />}
        </section>
      ))}
    </div>
  );
}

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

function Sheet({ sheet: { title, heads, rows } }: { sheet: JobSheet }) {
  if (rows.length === 0) return null;
  return (
    <div className="sheet-frame">
      <table className="sheet">
        <thead>
          <tr className="print-only">
            <th colSpan={heads.length}>
              <PageHead title={title} />
            </th>
          </tr>
          <tr>
            {heads.map(({ head, is_figure }) => (
              <th key={head} className={is_figure ? "number" : ""}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.map(({ text }) => text).join(" ")}>
              {row.map((cell, at) => (
                <td key={heads[at]?.head} className={heads[at]?.is_figure ? "number" : ""}>
                  {at === 0 ? <b>{sizeName(cell.text)}</b> : <Cell {...cell} />}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Cell({ text, below }: JobSheet["rows"][number][number]) {
  if (!below) return sizeName(text);
  return (
    <span className="both-sizes">
      {sizeName(text)}
      <br />
      <span className="quiet">{below}</span>
    </span>
  );
}

/** As they are cut out and put on. */
function Labels({ sheet: { title, rows } }: { sheet: JobSheet }) {
  return (
    <>
      <p className="print-only">
        <PageHead title={title} />
      </p>
      <ul className="labels">
        {rows.flat().map(({ text, below }) => (
          <li key={`${text} ${below}`}>
            {sizeName(text)}
            <span className="quiet label-end">{below}</span>
          </li>
        ))}
      </ul>
    </>
  );
}
