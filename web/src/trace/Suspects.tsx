/** Who is suspected and how much, who is acquitted and by what, and what replacing a part would be worth. */
import { NativeSelect } from "@mantine/core";
import { useState } from "react";
import type { Traced } from "../api/queries";
import { outOfHundred } from "../parts/format";

const SHOWN = 8;
const SURE = 0.5;

type SuspectsProps = { traced: Traced; suspected: string[]; onSuspect: (designation: string) => void };

export function Suspects({ traced, suspected, onSuspect }: SuspectsProps) {
  const [replaced, setReplaced] = useState("");
  const { suspects, pairs, acquitted, known } = traced;
  const parts = traced.parts;
  const isMended = known.some(({ mended }) => mended !== null);
  const all = [...parts, ...acquitted];
  const wasted = parts.find(({ name }) => name === replaced)?.wasted ?? 1;
  return (
    <aside className="inspector suspects" aria-label="Suspects">
      <h2>Suspects</h2>
      <ul>
        {parts.slice(0, SHOWN).map((each) => (
          <Bar
            key={each.part}
            name={each.name}
            says={waysOf(suspects.filter(({ unit }) => unit === each.part))}
            share={each.probability}
          />
        ))}
        {pairs.map((each) => (
          <Bar
            key={each.names.join()}
            name={each.names.join(" and ")}
            says={`two at once: ${each.faults.join(", ")}`}
            share={each.probability}
          />
        ))}
        <Bar name="Something this job does not describe" says={traced.beyond} share={traced.not_described} />
        {traced.sound > 0.005 && (
          <Bar
            name={isMended ? "Nothing more: it is fixed" : "Nothing: the plan itself does this"}
            says=""
            share={traced.sound}
            isWell
          />
        )}
      </ul>
      {acquitted.length > 0 && known.length > 0 && (
        <>
          <h3>Ruled out</h3>
          <ul className="acquitted">
            {acquitted.slice(0, SHOWN).map((each) => (
              <li key={each.name}>
                <span aria-hidden="true">●</span> {each.name}{" "}
                <span className="quiet">by {known[each.by]?.says}</span>
              </li>
            ))}
          </ul>
          {acquitted.length > SHOWN && <p className="quiet">and {acquitted.length - SHOWN} more</p>}
        </>
      )}
      {all.length > 0 && (
        <>
          <h3>I suspect …</h3>
          <NativeSelect
            aria-label="I suspect"
            size="sm"
            value=""
            data={[
              { value: "", label: "a part, and it weighs more" },
              ...all
                .filter(({ designation }) => !suspected.includes(designation))
                .map(({ designation, name }) => ({ value: designation, label: name })),
            ]}
            onChange={(event) => onSuspect(event.currentTarget.value)}
          />
          <h3>What if I just replaced …</h3>
          <NativeSelect
            aria-label="What if I just replaced"
            size="sm"
            value={replaced}
            data={[{ value: "", label: "a part" }, ...all.map(({ name }) => ({ value: name, label: name }))]}
            onChange={(event) => setReplaced(event.currentTarget.value)}
          />
          {replaced && (
            <p className={`verdict ${wasted <= SURE ? "pass" : "fail"}`}>
              <span aria-hidden="true">{wasted <= SURE ? "●" : "■"}</span> {outOfHundred(wasted)} of 100 times
              for nothing
            </p>
          )}
        </>
      )}
    </aside>
  );
}

/** The likeliest ways in which a part can be bad, and why it is likelier than others. */
function waysOf(suspects: Traced["suspects"]) {
  const ways = suspects.map(
    ({ piece, fault, how_bad, comes_and_goes }) =>
      `${piece ? `${piece}: ` : ""}${fault}${how_bad ? `, ${how_bad}` : ""}${comes_and_goes ? ", comes and goes" : ""}`,
  );
  const why = suspects[0]?.because ?? [];
  return `${ways.slice(0, 2).join(" or ")}${why.length > 0 ? `; more likely: ${why.join(", ")}` : ""}`;
}

type BarProps = { name: string; says: string; share: number; isWell?: boolean };

function Bar({ name, says, share, isWell }: BarProps) {
  return (
    <li>
      <span className="who">
        <b>{name}</b> <span className="mono">{outOfHundred(share)} %</span>
      </span>
      <span className="suspect-bar" aria-hidden="true">
        <span className={isWell ? "filled well" : "filled"} style={{ width: `${100 * share}%` }} />
      </span>
      {says && <span className="quiet">{says}</span>}
    </li>
  );
}
