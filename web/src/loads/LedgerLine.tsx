/** One load of the ledger. */
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import type { Balance, LedgerLoad } from "../api/queries";
import { volts } from "../parts/format";
import type { Dialog } from "./dialog";

export type LedgerProps = {
  jobId: string;
  loads: LedgerLoad[];
  balances: Balance[];
  at: number;
  chosen: string[];
  setAt: (at: number) => void;
  choose: (id: string) => void;
  toggle: (load: LedgerLoad, state: "idle" | "road") => void;
  onDialog: (dialog: Dialog) => void;
  onBulk: () => void;
  onRemove: () => void;
};

export function Line({
  jobId,
  load,
  place,
  at,
  chosen,
  setAt,
  choose,
  toggle,
  onDialog,
}: LedgerProps & {
  load: LedgerLoad;
  place: number;
}) {
  const row = useRef<HTMLTableRowElement>(null);
  const isAt = at === place;
  useEffect(() => {
    if (isAt) row.current?.scrollIntoView({ block: "nearest" });
  }, [isAt]);
  return (
    <tr
      ref={row}
      className={isAt ? "line at" : "line"}
      aria-current={isAt}
      onMouseDown={() => setAt(place)}
      onDoubleClick={() => onDialog({ what: "load", load })}
    >
      <td>
        <div className="what">
          <input
            type="checkbox"
            tabIndex={-1}
            aria-label={`Choose ${load.name}`}
            checked={chosen.includes(load.id)}
            onChange={() => choose(load.id)}
          />
          <button
            type="button"
            className="load-name"
            title={load.name}
            onClick={() => onDialog({ what: "load", load })}
          >
            {load.name}
          </button>
          {load.origin === "new" && <span className="new-chip">new</span>}
        </div>
      </td>
      <td className="number">{volts(load.drawn_a, 1)}</td>
      <td>
        <button
          type="button"
          className={load.measured ? "link measured" : "link quiet"}
          aria-label={`${known(load)}, ${load.name}`}
          onClick={() => onDialog({ what: "measured", load })}
        >
          {known(load)}
        </button>
      </td>
      <td className="number">
        {"duty_percent" in load.spec && load.spec.duty_percent !== 100 ? load.spec.duty_percent : ""}
      </td>
      {(["idle", "road"] as const).map((state) => (
        <td key={state} className="tick">
          <input
            type="checkbox"
            aria-label={`${load.name} ${state === "idle" ? "at idle" : "on the road"}`}
            checked={load.counted_in.includes(state)}
            onChange={() => toggle(load, state)}
          />
        </td>
      ))}
      <td className="circuit-of">
        {load.circuit_id ? (
          <Link to={`/jobs/${jobId}/circuits/${load.circuit_id}`}>{load.circuit}</Link>
        ) : (
          <span className="quiet">none</span>
        )}
      </td>
    </tr>
  );
}

/** From where its current is known: the plate, or a meter and how much more than the plate it says. */
function known({ differs_percent: percent }: LedgerLoad): string {
  if (percent === null) return "rated";
  return `◆ ${percent < 0 ? "−" : "+"}${Math.abs(percent).toFixed(0)} %`;
}
