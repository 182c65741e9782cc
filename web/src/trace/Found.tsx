/** What it is when it is enough, what is measured next, and what is measured again once something was mended. */
import { Button } from "@mantine/core";
import type { Traced } from "../api/queries";
import { outOfHundred } from "../parts/format";

const BY = {
  bridged: "With the part bridged, what was wrong must come right.",
  "out of the way": "With the part out of the way, what was wrong must come right.",
  swapped: "With another one in its place, what was wrong must come right.",
  measured: "Measured at the part itself, it must be off.",
};

type FoundProps = {
  stop: NonNullable<Traced["stop"]>;
  otherwise: Traced["parts"][number] | undefined;
  onProve: () => void;
  onMended: (parts: string[]) => void;
  onPlan: (cure: Cure) => void;
};

type Cure = NonNullable<Traced["stop"]>["cures"][number];

/** Where nothing tells more: what there is that is not described, or that no measurement is left. */
export function NothingLeft({ beyond }: { beyond: string }) {
  if (!beyond) return <p className="quiet">No measurement tells more than this.</p>;
  return (
    <section className="found" aria-label="Most likely">
      <h2>Most likely something that this job does not describe</h2>
      <p>
        {beyond[0]?.toUpperCase()}
        {beyond.slice(1)}. Follow every wire that ends there, and take off what does not belong, or describe
        it in the Vehicle room.
      </p>
    </section>
  );
}

/** What it most likely is, how to prove it, and what cures it at what price. */
export function Found({ stop, otherwise, onProve, onMended, onPlan }: FoundProps) {
  return (
    <section className="found" aria-label="Most likely">
      <h2>
        Most likely {stop.name}
        {stop.also && ` and ${stop.also}`} <span className="quiet">{likeIt(stop.probability)}</span>
      </h2>
      {stop.prove && stop.by && (
        <p>
          Prove it before anything is replaced.{" "}
          <button type="button" className="link" onClick={onProve}>
            {stop.prove.title}, {stop.prove.situation}
          </button>{" "}
          {BY[stop.by]}
        </p>
      )}
      {stop.is_proved && <p>What proves it was read already.</p>}
      {!stop.prove && !stop.is_proved && !stop.also && (
        <p>
          No reading tells it from a good one here: fit one that is known to be good, or have it tested,
          before it is renewed.
        </p>
      )}
      {!stop.also && (
        <p className="quiet">
          If that shows it is not {stop.parts[0]}, look next at{" "}
          {otherwise ? otherwise.name : "what this job does not describe"}.
        </p>
      )}
      <table className="rows cures">
        <thead>
          <tr>
            <th>cure</th>
            <th className="number">minutes</th>
            <th className="number">copper</th>
            <th aria-label="into the plan" />
          </tr>
        </thead>
        <tbody>
          {stop.cures.map((each) => (
            <tr key={each.does}>
              <td>
                {each.does}
                {each.condition && <span className="quiet">{each.condition}</span>}
              </td>
              <td className="number">{Math.round(each.work_min)}</td>
              <td className="number">{each.copper_g > 0 ? `${Math.round(each.copper_g)} g` : ""}</td>
              <td>
                {each.edits.length > 0 && (
                  <button
                    type="button"
                    className="link"
                    aria-label={`into the plan: ${each.does}`}
                    onClick={() => onPlan(each)}
                  >
                    into the plan
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button size="compact-md" onClick={() => onMended(stop.parts)}>
        {stop.parts.join(" and ")} fixed, measure again
      </Button>
    </section>
  );
}

type AgainProps = { again: Traced["again"]; isMended: boolean; onChoose: (at: number) => void };

/** What was off, and must come right once it is mended. */
export function Again({ again, isMended, onChoose }: AgainProps) {
  return (
    <section aria-label="Measure again">
      <p>{isMended ? "This was wrong before; check it now:" : "Once it is fixed, measure again:"}</p>
      <ul>
        {again.map((each, at) => (
          <li key={each.id}>
            <button type="button" className="link" onClick={() => onChoose(at)}>
              {each.title}, {each.situation}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What is likely enough and was not looked at itself yet. */
export function Likely({ likely }: { likely: NonNullable<Traced["likely"]> }) {
  return (
    <p className="likely">
      <b>Most likely {likely.name}</b> <span className="quiet">{likeIt(likely.probability)}</span>. Look at it
      itself before you call it found:
    </p>
  );
}

const likeIt = (share: number) =>
  share > 0.99 ? "(more than 99 of 100 like it)" : `(${outOfHundred(share)} of 100 like it)`;

/** The next best tests, with what each outcome would mean. */
export function Next({ next, onChoose }: { next: Traced["next"]; onChoose: (at: number) => void }) {
  return (
    <table className="rows next-tests">
      <thead>
        <tr>
          <th>measure</th>
          <th className="number">minutes</th>
          <th>tells</th>
          <th>if it reads</th>
        </tr>
      </thead>
      <tbody>
        {next.map(({ test, how_much, tells }, at) => (
          <tr key={test.id}>
            <td>
              <button type="button" className="link" onClick={() => onChoose(at)}>
                {test.title}
              </button>{" "}
              <kbd>{at + 1}</kbd>
              <span className="quiet">{test.situation}</span>
            </td>
            <td className="number minutes">{test.minutes}</td>
            <td>{how_much}</td>
            <td>
              {tells.map(({ outcome, name, probability }) => (
                <span key={`${outcome} ${name}`} className="then">
                  {outcome}: {name || "nothing is bad"} ({Math.round(100 * probability)} %)
                </span>
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
