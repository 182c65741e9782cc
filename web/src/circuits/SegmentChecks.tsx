/** What a fuse or a breaker must hold and carry, and whether it does. */
import type { CircuitView } from "../api/queries";

/** Every rule a fuse, link or breaker must keep, with its figure. */
export function Checks({ view, segmentId }: { view: CircuitView; segmentId: string }) {
  const checks = view.checks[segmentId];
  if (!checks) return null;
  return (
    <ul className="checks" aria-label="Rules it must keep">
      {checks.map((check) => (
        <li key={check.rule} className={check.holds ? "" : check.severity}>
          <span aria-hidden="true">{check.holds ? "●" : check.severity === "error" ? "■" : "▲"}</span>{" "}
          <b>{check.rule}</b>
          {check.holds ? "" : ": no"}
          <br />
          <span className="quiet">{check.figure}</span>
        </li>
      ))}
    </ul>
  );
}
