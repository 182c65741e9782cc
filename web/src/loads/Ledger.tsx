/** Every consumer in a line: what it draws, from where that is known, and in which states it counts. */
import { Button, FileButton } from "@mantine/core";
import { useRef } from "react";
import type { Balance } from "../api/queries";
import { volts } from "../parts/format";
import { type LedgerProps, Line } from "./LedgerLine";

export function Ledger(props: LedgerProps) {
  const { jobId, loads, balances, chosen, onDialog, onBulk, onRemove } = props;
  const groups = [...new Set(loads.map(({ group }) => group))];
  const again = useRef<() => void>(null);
  return (
    <>
      <div className="page-head">
        <h1>Loads</h1>
        <span className="spring" />
        <a className="link" href={`/api/jobs/${jobId}/loads.csv`} download>
          CSV
        </a>
        <FileButton
          accept=".csv,text/csv"
          resetRef={again}
          onChange={(file) => {
            if (file) onDialog({ what: "import", file });
            again.current?.(); // the same file, mended, may be chosen again
          }}
        >
          {(file) => (
            <button type="button" className="link" {...file}>
              Import
            </button>
          )}
        </FileButton>
        <Button variant="default" onClick={() => onDialog({ what: "add" })} rightSection={<kbd>n</kbd>}>
          Add
        </Button>
      </div>
      {chosen.length > 0 && (
        <div className="trial-bar" role="status">
          <span className="trial-said">{chosen.length} chosen</span>
          <Button size="compact-sm" onClick={onBulk} rightSection={<kbd>e</kbd>}>
            Edit together
          </Button>
          <Button size="compact-sm" variant="default" onClick={onRemove} rightSection={<kbd>Del</kbd>}>
            Delete
          </Button>
        </div>
      )}
      {loads.length === 0 && (
        <p className="empty">
          No loads yet. Add what the vehicle has from the list of typical consumers, or your own from the name
          plate; measure the big ones.
        </p>
      )}
      {loads.length > 0 && (
        <table className="ledger">
          <thead>
            <tr>
              <th>what</th>
              <th className="number">A</th>
              <th title="◆ measured, and how much more than its plate says">from</th>
              <th className="number" title="share of the time it runs">
                %
              </th>
              <th className="tick">idle</th>
              <th className="tick">road</th>
              <th>circuit</th>
            </tr>
          </thead>
          {groups.map((group) => (
            <tbody key={group}>
              <tr>
                <th className="family" colSpan={7}>
                  {group}
                </th>
              </tr>
              {loads.map(
                (load, place) =>
                  load.group === group && <Line key={load.id} {...props} load={load} place={place} />,
              )}
            </tbody>
          ))}
          <tfoot>
            <Together balances={balances} />
          </tfoot>
        </table>
      )}
    </>
  );
}

/** What runs together at worst, idling and on the road. */
function Together({ balances }: { balances: Balance[] }) {
  return (["idle", "road"] as const).map((state) => {
    const worst = balances
      .filter(({ scenario }) => scenario.state === state)
      .reduce<Balance | null>((most, each) => (most && most.demand_a >= each.demand_a ? most : each), null);
    return (
      worst && (
        <tr key={state}>
          <th>Most: {worst.scenario.name}</th>
          <td className="number">{volts(worst.demand_a, 1)}</td>
          <td colSpan={5} />
        </tr>
      )
    );
  });
}
