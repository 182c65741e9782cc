/** The tests on paper: with what one should read, and room for what was read, or filled with it. */
import type { AskedTest, Came } from "../api/queries";
import { cameText, expectedText, lookOf, targetText } from "./say";

export function TestSheet({ tests, title }: { tests: AskedTest[]; title: string }) {
  return (
    <section className="test-sheet print-only" aria-label="Test sheet">
      <h1>{title}</h1>
      <table>
        <thead>
          <tr>
            <th>test</th>
            <th>how</th>
            <th>should be</th>
            <th>found</th>
            <th>now</th>
          </tr>
        </thead>
        <tbody>
          {tests.map((test) => (
            <tr key={test.id}>
              <td>
                <b>{test.title}</b>
                <br />
                {test.place.join(" → ")}
              </td>
              <td>
                {test.how} {test.caution}
              </td>
              <td>
                {expectedText(test)}
                {test.target && <br />}
                {targetText(test)}
              </td>
              <td>{written(test, test.found)}</td>
              <td>{written(test, test.planned)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        Wheels chocked, hands and leads clear of belts and fans, five seconds of cranking at most. The vehicle
        maker’s instructions, local codes and a licensed hand come first.
      </p>
    </section>
  );
}

/** What was read with its word, or a line to write on. */
const written = (test: AskedTest, came: Came | null) =>
  came ? `${lookOf(came)?.shape ?? ""} ${cameText(test, came)}, ${lookOf(came)?.word ?? ""}` : "____________";
