/** What goes dead when a part is out, what stays on and through what, part by part. */
import type { Pulled } from "../api/queries";
import { STATES, type State } from "../app/viewing";
import { sizeName } from "../parts/format";

type Effect = Pulled["effects"][number];

/** `set`: switches were set by hand; else each state is taken where everything runs that can. */
export function PulledTable({ pulled, set }: { pulled: Pulled[]; set: boolean }) {
  if (pulled.length === 0) return <p className="quiet">No fuse, relay or joint to take out yet.</p>;
  return (
    <div className="matrix-frame sheet-frame">
      <p className="quiet">
        {set
          ? "Switches stand as they are set, in every state."
          : "Switches stand so that everything runs that can, in each state."}
      </p>
      <table className="sheet pulled" aria-label="If pulled">
        <thead>
          <tr>
            <th>pulled</th>
            <th>goes dead</th>
            <th>stays on, and through what</th>
            <th>besides</th>
          </tr>
        </thead>
        <tbody>
          {pulled.map(({ part, designation, description, effects }) => (
            <tr key={part}>
              <td>
                <b>{designation}</b> <span className="quiet">{sizeName(description)}</span>
              </td>
              <td>
                <Effects effects={effects.filter((each) => each.effect === "goes dead")} none="nothing" />
              </td>
              <td>
                <Effects effects={effects.filter((each) => each.effect === "stays on")} none="" />
              </td>
              <td>
                <Effects
                  effects={effects.filter((each) => !["goes dead", "stays on"].includes(each.effect))}
                  none=""
                  named
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Effects({ effects, none, named = false }: { effects: Effect[]; none: string; named?: boolean }) {
  if (effects.length === 0) return <span className="quiet">{none}</span>;
  return (
    <ul>
      {effects.map((each) => (
        <li key={`${each.device_id} ${each.effect}`}>
          <b>{each.designation}</b> {each.name}
          {named && ` ${each.effect_name}`} <span className="quiet">{inStates(each.states)}</span>
          {each.through.length > 0 && <span className="quiet"> through {each.through.join(" ")}</span>}
        </li>
      ))}
    </ul>
  );
}

const inStates = (states: State[]) =>
  states.length === STATES.length ? "in every state" : states.join(", ");
