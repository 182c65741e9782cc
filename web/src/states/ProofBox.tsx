/** The proof's answer: what was tried, and everything that happens and must not, with the way to it. */
import type { Forbidden, ProofView, Trial } from "../api/queries";
import { sizeName } from "../parts/format";
import { Still } from "../parts/Still";

type Props = {
  jobId: string;
  proof: ProofView | undefined;
  failed: string | undefined;
  chosen: Forbidden | null;
  onShow: (forbidden: Forbidden) => void;
  onWay: (forbidden: Forbidden) => void;
  onTry: (trial: Trial) => void;
};

export function ProofBox({ jobId, proof, failed, chosen, onShow, onWay, onTry }: Props) {
  if (failed) return <p className="proof problem">{failed}</p>;
  if (!proof)
    return (
      <Still jobId={jobId} room="proof" className="proof">
        Trying every situation …
      </Still>
    );
  const count = proof.forbidden.length;
  return (
    <section className="proof" aria-label="Proof">
      <p>
        {proof.tried}{" "}
        {count === 0 ? (
          <b className="verdict pass">● Nothing forbidden can happen.</b>
        ) : (
          <b className="verdict fail">
            ■ {count === 1 ? "1 forbidden thing" : `${count} forbidden things`} can happen.
          </b>
        )}
      </p>
      <ul>
        {proof.forbidden.map((each) => (
          <li key={idOf(each)} className={chosen && idOf(chosen) === idOf(each) ? "chosen" : ""}>
            <b className="verdict fail" aria-hidden="true">
              ■
            </b>{" "}
            <button type="button" className="link says" title="Show the path" onClick={() => onShow(each)}>
              {each.says}
            </button>
            <button type="button" className="link quiet" title="Go the way" onClick={() => onWay(each)}>
              {each.way.join(" → ")}
            </button>
            {each.gone_as_planned !== null && (
              <span className="quiet">
                {each.gone_as_planned ? "● cured by the plan" : "▲ still there in the plan"}
              </span>
            )}
            {each.cures.map((cure) => (
              <button
                key={cure.effect}
                type="button"
                className="link"
                onClick={() => onTry({ ...cure, from: "cure" })}
              >
                Try {sizeName(cure.effect)}
              </button>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What tells forbidden things of one proof apart. */
export const idOf = ({ what, part }: Forbidden) => `${what} ${part}`;
