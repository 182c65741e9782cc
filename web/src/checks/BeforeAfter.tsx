/** The same measurement before and after the work, for what is measured of one circuit or one device. */
import type { AskedTest, Came } from "../api/queries";
import { cameText, lookOf } from "./say";

export function BeforeAfter({ tests, test }: { tests: AskedTest[]; test: AskedTest }) {
  const rows = tests.filter(
    (each) =>
      each.about === test.about && (each.found !== null || each.planned !== null || each.id === test.id),
  );
  return (
    <section>
      <h3>Before and after</h3>
      <table className="before-after">
        <thead>
          <tr>
            <th>where</th>
            <th>found</th>
            <th>now</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((each) => (
            <tr key={each.id} className={each.id === test.id ? "chosen" : ""}>
              <td>{each.title.replace(/^[^:]*: /, "")}</td>
              <td>
                <Value test={each} came={each.found} />
              </td>
              <td>
                <Value test={each} came={each.planned} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {test.planned?.note && <p className="quiet">“{test.planned.note}”</p>}
    </section>
  );
}

function Value({ test, came }: { test: AskedTest; came: Came | null }) {
  const look = lookOf(came);
  if (!came || !look) return <span className="quiet">–</span>;
  return (
    <span className={`verdict ${look.look}`} title={look.word}>
      <span aria-hidden="true">{look.shape}</span> <span className="mono">{cameText(test, came)}</span>
    </span>
  );
}
