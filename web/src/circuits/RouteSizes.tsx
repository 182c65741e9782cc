/** The sizes recommended for a whole route: what changes, why, what it weighs, and what stands in the way. */
import { Button, Checkbox } from "@mantine/core";
import { useEffect, useState } from "react";
import type { CircuitView, Sizes, Trial } from "../api/queries";
import { amps, grams, sizeName, volts } from "../parts/format";
import { type Series, useSizes } from "./queries";

type Props = {
  view: CircuitView;
  series: Series | null;
  onTry: (trial: Trial | null) => void;
  onClose: () => void;
};

export function RouteSizes({ view, series, onTry, onClose }: Props) {
  // What exists and does its work is not replaced for being thicker than needed.
  const [newOnly, setNewOnly] = useState(view.segments.some((each) => each.origin === "new"));
  const sizes = useSizes(view.circuit.id, series, newOnly);
  const edits = sizes.data?.edits;
  const name = view.circuit.name;
  useEffect(() => {
    onTry(edits?.length ? { edits, effect: `size ${name} anew`, from: "sizes" } : null);
  }, [edits, name, onTry]);
  return (
    <aside className="inspector route-sizes" aria-label="Route sizes">
      <div className="section-head">
        <h2>The whole route</h2>
        <Button size="compact-sm" variant="default" onClick={onClose} rightSection={<kbd>Esc</kbd>}>
          Close
        </Button>
      </div>
      {sizes.isError && <p className="problem">{sizes.error.message}</p>}
      {!sizes.data && !sizes.isError && <p className="quiet">Sizing the route …</p>}
      {sizes.data && <Recommended sizes={sizes.data} />}
      <Checkbox
        size="xs"
        label="leave what exists as it is, size new pieces only"
        checked={newOnly}
        onChange={(event) => setNewOnly(event.currentTarget.checked)}
      />
    </aside>
  );
}

const SCHOOL: Record<Sizes["school"], string> = {
  light: "Light, by the house’s rules: the smallest sizes that meet drop, heat, ends and protection.",
  usual: "Usual, by the house’s rules: sizes that meet drop, heat, ends and protection with margin.",
  generous: "Generous, by the house’s rules: one size above those that have the usual margin.",
};

function Recommended({ sizes }: { sizes: Sizes }) {
  const [circuit] = sizes.circuits;
  return (
    <>
      <p>
        {SCHOOL[sizes.school]} The least copper that does so in every state:{" "}
        <b className="mono">{(sizes.copper_kg * 1000).toFixed(0)} g</b>, now{" "}
        {(sizes.present_copper_kg * 1000).toFixed(0)} g
        {circuit && (
          <>
            ; it drops <b className="mono">{volts(circuit.drop_v)} V</b>; {volts(circuit.allowed_drop_v)} V
            allowed
          </>
        )}
        .
      </p>
      {circuit?.problem && (
        <p className="problem">
          ■ {sentence(circuit.problem)}
          {circuit.ways_out && circuit.ways_out.length > 0 && (
            <> What would do: {circuit.ways_out.join(", or ")}.</>
          )}
        </p>
      )}
      {circuit?.note && (
        <p className="caution">
          ▲ {sentence(circuit.note)}
          {!circuit.problem && circuit.ways_out && circuit.ways_out.length > 0 && (
            <> What would do: {circuit.ways_out.join(", or ")}.</>
          )}
        </p>
      )}
      {sizes.edits.length === 0 && <p>Everything already has the right size.</p>}
      <ul className="advice">
        {sizes.wires.map((wire) => (
          <li key={wire.segment_id}>
            <details>
              <summary>
                <b>{wire.designation}</b>{" "}
                <Change before={sizeName(wire.present)} after={sizeName(wire.size)} />
                <span className="quiet">{wire.governed_by}</span>
              </summary>
              <p className="quiet">
                {sizeName(sentence(wire.reason))} Carries {amps(wire.worst.current_a)} {wire.worst.state},
                stands {amps(wire.ampacity.table_a)} by table, {amps(wire.ampacity.model_a)} by the thermal
                model.
              </p>
              <table className="alternatives">
                <tbody>
                  {wire.alternatives.map((other) => (
                    <tr key={other.size} className={other.size === wire.size ? "present" : ""}>
                      <th scope="row">{sizeName(other.size)}</th>
                      <td className="number">{grams(other.extra_copper_kg)}</td>
                      <td className="number">
                        {other.extra_drop_v > 0 ? "+" : ""}
                        {volts(other.extra_drop_v, 3)} V
                      </td>
                      <td>{other.refused.length > 0 ? sizeName(other.refused.join("; ")) : "meets all"}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </details>
          </li>
        ))}
        {sizes.fuses.map(({ segment_id, designation, family, present_a, choice }) => (
          <li key={segment_id}>
            <b>{designation}</b>{" "}
            <Change
              before={`${present_a} A`}
              after={choice.rating_a === null ? "no fuse fits" : `${choice.rating_a} A ${family}`}
            />
            <span className="quiet">{choice.reason}</span>
          </li>
        ))}
        {sizes.links.map((link) => (
          <li key={link.segment_id}>
            <b>{link.designation}</b>{" "}
            <Change
              before={sizeName(link.present)}
              after={link.size === null ? "none made" : sizeName(link.size)}
            />
            <span className="quiet">{sizeName(link.reason)}</span>
          </li>
        ))}
        {sizes.contacts.map(({ segment_id, designation, present_a, choice }) => (
          <li key={segment_id}>
            <b>{designation}</b> contact{" "}
            {choice.rated_a === null ? "none made" : `${choice.rated_a} A at least`}
            {present_a !== null && `, has ${present_a} A`} <span className="quiet">{choice.reason}</span>
          </li>
        ))}
      </ul>
    </>
  );
}

const sentence = (text: string) => `${text.charAt(0).toUpperCase()}${text.slice(1)}.`;

function Change({ before, after }: { before: string; after: string }) {
  if (after.startsWith(before)) return <span className="mono">{before} </span>;
  return (
    <span className="mono changed">
      {before} → <b>{after}</b>{" "}
    </span>
  );
}
