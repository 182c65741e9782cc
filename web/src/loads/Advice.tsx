/** What to do about the balance: the sentence, the cures to try, and what follows for cable, fuse and battery. */
import { Link } from "react-router";
import type { Budget, Trial } from "../api/queries";
import { amps } from "../parts/format";

type Cure = Omit<Trial, "from">;
type Props = { budget: Budget; jobId: string; onTry: (cure: Cure) => void };

export function Advice({ budget, jobId, onTry }: Props) {
  const { advice, balances } = budget;
  const worst = balances.find(({ scenario }) => scenario.id === advice.worst);
  return (
    <div className="budget-advice">
      <p className={`verdict-line ${worst?.verdict ?? "unknown"}`}>{advice.says}</p>
      {advice.cures.length > 0 && (
        <p>
          Any of these cures it:{" "}
          {advice.cures.map((cure, place) => (
            <span key={cure.effect}>
              {place > 0 && " or "}
              <button type="button" className="link" onClick={() => onTry(cure)}>
                {cure.effect}
              </button>
            </span>
          ))}
        </p>
      )}
      <details className="more">
        <summary>
          {advice.smallest
            ? `Smallest alternator that does: ${advice.smallest.at_1800_a}/${advice.smallest.at_6000_a} A${advice.smaller_does ? ", less than is there" : ""}`
            : "What follows"}
          . Cable, battery, belt
        </summary>
        <ul>
          {advice.cable && <Cable {...{ advice, jobId, onTry }} />}
          {advice.match && (
            <li>
              On the road at worst {amps(advice.match.spare_a)} are left for the battery,{" "}
              {share(advice.match.share_of_capacity)} of its capacity:{" "}
              {advice.match.gets_full ? "it gets full" : "it never gets full and wears out early"}.
            </li>
          )}
          {budget.endurances.length > 0 && <Alone budget={budget} />}
          {advice.notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      </details>
    </div>
  );
}

const share = (of: number) => `${Math.round(100 * of)} %`;

function Cable({
  advice,
  jobId,
  onTry,
}: {
  advice: Budget["advice"];
  jobId: string;
  onTry: (cure: Cure) => void;
}) {
  const cable = advice.cable;
  if (!cable) return null;
  const { circuit_id, carries_a, designed_for_a, fuse_a, cure } = cable;
  return (
    <li>
      The{" "}
      <Link className="link" to={`/jobs/${jobId}/circuits/${circuit_id}`}>
        charge cable
      </Link>{" "}
      must carry {amps(carries_a)}
      {fuse_a && <>, its fuse {fuse_a} A</>}
      {cure && (
        <>
          ; it is designed for {amps(designed_for_a)},{" "}
          <button type="button" className="link" onClick={() => onTry(cure)}>
            hand it over
          </button>
        </>
      )}
      .
    </li>
  );
}

/** How long the battery alone starts the engine, and when it is flat. */
function alone({ starts_until_h, empty_after_h }: Budget["endurances"][number]) {
  const starts = starts_until_h === null ? "for ever" : `for up to ${starts_until_h.toFixed(1)} h`;
  const flat = empty_after_h === null ? "never flat" : `flat after ${empty_after_h.toFixed(1)} h`;
  return `can start the engine ${starts}; ${flat}`;
}

function Alone({ budget }: { budget: Budget }) {
  const name = (id: string) =>
    budget.scenarios.find(({ scenario }) => scenario.id === id)?.scenario.name ?? id;
  return (
    <li>
      On the battery alone:{" "}
      {budget.endurances.map((each) => `${name(each.scenario_id)}: ${alone(each)}`).join("; ")}.
    </li>
  );
}
