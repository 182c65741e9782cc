/** Devices by states: what each does in each, beside what it is meant to do. */
import { useEffect, useRef } from "react";
import type { Cell, ProofView, StateRow } from "../api/queries";
import { STATES, type State } from "../app/viewing";
import { volts } from "../parts/format";
import { useWords } from "../parts/useWords";
import { MARKS, type Mark, markOf, StateMark } from "./StateMark";

export type Place = { part: string; state: State };

type Props = {
  rows: StateRow[];
  proof: ProofView | undefined;
  at: Place | null;
  drawn: boolean;
  onGo: (place: Place) => void;
  onMeant: (row: StateRow) => void;
};

export function Matrix({ rows, proof, at, drawn, onGo, onMeant }: Props) {
  const often = new Map(proof?.often.map((each) => [`${each.device_id} ${each.state}`, each.runs]));
  return (
    <div className="matrix-frame sheet-frame">
      <table className="matrix" aria-label="What is live when">
        <thead>
          <tr>
            <th>device</th>
            {STATES.map((state) => (
              <th key={state}>{state}</th>
            ))}
            <th>meant</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, index) => (
            <tr key={row.id} className={rows[index - 1]?.group === row.group ? "" : "group-first"}>
              <th scope="row">
                <b>{row.designation}</b> {row.name}
              </th>
              {row.cells.map((cell) => (
                <StateCell
                  key={cell.state}
                  row={row}
                  cell={cell}
                  mark={markOf(cell, often.get(`${row.id} ${cell.state}`))}
                  chosen={at?.part === row.id && at.state === cell.state}
                  drawn={drawn}
                  onGo={() => onGo({ part: row.id, state: cell.state })}
                />
              ))}
              <td className="meant">
                {row.runs_in ? (
                  <button type="button" className="link" onClick={() => onMeant(row)}>
                    {row.meant || "may"}
                  </button>
                ) : (
                  row.meant
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

type CellProps = { row: StateRow; cell: Cell; mark: Mark; chosen: boolean; drawn: boolean; onGo: () => void };

function StateCell({ row, cell, mark, chosen, drawn, onGo }: CellProps) {
  const own = useRef<HTMLTableCellElement>(null);
  const words = useWords();
  // Again when its path is drawn, which takes room from the matrix.
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn moves the cell
  useEffect(() => {
    if (chosen) own.current?.scrollIntoView({ block: "nearest" });
  }, [chosen, drawn]);
  const shows = cell.voltage_v !== null && mark !== "rests" && mark !== "ready";
  const said = `${row.designation} ${row.name}, ${words.state(cell.state)}: ${MARKS[mark]}`;
  return (
    <td ref={own} className={chosen ? "chosen" : ""}>
      <button
        type="button"
        tabIndex={-1}
        aria-pressed={chosen}
        aria-label={shows ? `${said}, ${volts(cell.voltage_v ?? 0, 1)} V` : said}
        onClick={onGo}
      >
        <StateMark mark={mark} />
        {shows && <span className="mono">{volts(cell.voltage_v ?? 0, 1)}</span>}
      </button>
    </td>
  );
}

/** What the marks mean. */
export function Legend() {
  return (
    <p className="legend quiet">
      {(Object.keys(MARKS) as Mark[]).map((mark) => (
        <span key={mark}>
          <StateMark mark={mark} /> {MARKS[mark]}
        </span>
      ))}
    </p>
  );
}
