/** The tests on paper: with what one should read, and room for what was read, or filled with it. */
import { Fragment } from "react";
import type { AskedTest, Came } from "../api/queries";
import { cameText, expectedText, lookOf, targetText } from "./say";

export function CheckSheet({ tests, title }: { tests: AskedTest[]; title: string }) {
  const groups = [...new Set(tests.map(({ group }) => group))];
  const twice = tests.some(({ found }) => found !== null);
  return (
    <section className="test-sheet print-only" aria-label="Test sheet">
      <h1>{title}</h1>
      <table>
        <thead>
          <tr>
            <th>test</th>
            <th>how</th>
            <th>should be</th>
            {twice && <th>found</th>}
            <th>now</th>
          </tr>
        </thead>
        <tbody>
          {groups.map((group) => {
            const rows = tests.filter((each) => each.group === group);
            return (
              <Fragment key={group}>
                <tr className="group">
                  <th colSpan={twice ? 5 : 4}>
                    {rows[0]?.group_name}. <span>{cautions(rows)}</span>
                  </th>
                </tr>
                {rows.map((test) => (
                  <tr key={test.id}>
                    <td>
                      <b>{test.title}</b>
                      <br />
                      {test.place.join(" → ")}
                    </td>
                    <td>{test.how}</td>
                    <td>
                      {expectedText(test)}
                      {test.target && <br />}
                      {targetText(test)}
                    </td>
                    {twice && <td>{written(test, test.found)}</td>}
                    <td>{written(test, test.planned)}</td>
                  </tr>
                ))}
              </Fragment>
            );
          })}
        </tbody>
      </table>
      <p>
        Wheels chocked, hands and leads clear of belts and fans, five seconds of cranking at most. The vehicle
        maker’s instructions, local regulations and a qualified electrician come first.
      </p>
    </section>
  );
}

/** Every caution of some tests, each sentence once. */
const cautions = (tests: AskedTest[]) =>
  [...new Set(tests.flatMap(({ caution }) => caution.split(/(?<=\.) /)))].join(" ");

/** What was read with its word, or a line to write on. */
const written = (test: AskedTest, came: Came | null) =>
  came ? `${lookOf(came)?.shape ?? ""} ${cameText(test, came)}, ${lookOf(came)?.word ?? ""}` : "____________";
