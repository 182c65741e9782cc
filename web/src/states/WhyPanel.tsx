/** Why a device runs or rests: what it gets, what holds each contact on its path, and what pulling would do. */
import type { Pulled, StateRow, WhyView } from "../api/queries";
import type { State } from "../app/viewing";
import { amps, volts } from "../parts/format";
import { useWords } from "../parts/useWords";

type Props = {
  why: WhyView;
  state: State;
  row: StateRow | undefined;
  pulled: Pulled[] | undefined;
  onMeant: (row: StateRow) => void;
};

const TITLE: Record<NonNullable<WhyView["does"]>, string> = {
  runs: "Why it is on",
  rests: "Why it is off",
  "gets too little": "Why its voltage is low",
  "never comes to rest": "Why it chatters",
};

export function WhyPanel({ why, state, row, pulled, onMeant }: Props) {
  const words = useWords();
  const cell = row?.cells.find((each) => each.state === state);
  return (
    <>
      <p className="quiet">
        {why.designation} {why.name}, {words.state(state)}
      </p>
      <h2>{why.does ? TITLE[why.does] : "Where its current goes"}</h2>
      <p>{figures(why)}</p>
      {why.out.length === 0 && why.back.length === 0 && (
        <p className="quiet">
          {why.source === "" && why.does
            ? "Nothing leads to it from a source, or it is a source itself."
            : "No current takes a path of its own here."}
        </p>
      )}
      {why.held.length > 0 && (
        <>
          <h3>What holds its contacts</h3>
          <HeldList why={why} />
        </>
      )}
      {row?.runs_in && (
        <>
          <h3>Meant</h3>
          <p>
            {row.meant || "It may be on in every state."}{" "}
            {cell?.is_wrong && <b className="verdict fail">■ not so here.</b>}{" "}
            <button type="button" className="link" onClick={() => onMeant(row)}>
              Set what is meant
            </button>
          </p>
        </>
      )}
      <PullInstead why={why} state={state} pulled={pulled} />
    </>
  );
}

function figures({ voltage_v, current_a, source, flows }: WhyView): string {
  const got = voltage_v === null ? "voltage not known" : `${volts(voltage_v, 1)} V`;
  const flow = current_a === null ? "" : `, ${amps(current_a)}`;
  return `${got}${flow}${flows && source ? `, from ${source}` : ""}`;
}

/** Contacts, and under each the contacts that its coil's current passes. */
function HeldList({ why }: { why: WhyView }) {
  return (
    <ul className="held">
      {why.held.map((held) => (
        <li key={held.designation}>
          <b>{held.designation}</b> {held.is_open ? "open" : "closed"}: {held.says}
          {held.why && held.why.held.length > 0 && <HeldList why={held.why} />}
        </li>
      ))}
    </ul>
  );
}

/** What goes dead, and what does not, when a part on the path is out. */
function PullInstead({ why, state, pulled }: { why: WhyView; state: State; pulled: Pulled[] | undefined }) {
  const passed = [...why.out, ...why.back].map((hop) => hop.id);
  const parts = pulled?.filter((each) => passed.includes(each.part)) ?? [];
  if (!why.flows || parts.length === 0) return null;
  return (
    <>
      <h3>Pull one instead?</h3>
      <ul className="held">
        {parts.map((part) => {
          const dead = part.effects.filter(
            (each) => each.effect === "goes dead" && each.states.includes(state),
          );
          const names = dead.map((each) => each.name);
          return (
            <li key={part.part}>
              <b>{part.designation}</b>:{" "}
              {names.length > 0 ? `dead then: ${names.join(", ")}` : "nothing goes dead"}
            </li>
          );
        })}
      </ul>
    </>
  );
}

export function NothingChosen() {
  return (
    <p className="quiet">
      Choose a cell to see why its device runs or rests: the path of its current, and what holds each contact
      on it.
    </p>
  );
}
