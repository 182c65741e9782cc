import type { AskedTest } from "../api/queries";
import type { Write } from "../saving/writes";
import { cameText, lookOf, waitingText } from "./say";

type Props = { test: AskedTest; waits: Write | null; came: AskedTest["planned"] };

export function Logged({ test, waits, came }: Props) {
  const logged = came && lookOf(came);
  return (
    <>
      {waits && (
        <p className="logged waits">▲ {waitingText(test, waits)} waits until the server can be reached.</p>
      )}
      {!waits && logged && came && (
        <p className="logged">
          <span className={`verdict ${logged.look}`}>
            <span aria-hidden="true">{logged.shape}</span> {logged.word}
          </span>
          : logged {cameText(test, came)}, {came.taken_by}. {said(came)}
        </p>
      )}
    </>
  );
}

/** What the server says of a logged reading besides its word. */
function said({ judged }: NonNullable<AskedTest["planned"]>): string {
  const { drop, outcome, why_not } = judged;
  const whole = drop ? `with it the circuit ${drop.verdict.reason.replace(/^only/, "has only")}` : "";
  const target = !drop && !why_not ? (outcome.verdict?.reason ?? "") : "";
  const sentences = [whole, target, outcome.proves_nothing ?? "", why_not ?? ""].filter(Boolean);
  return sentences.map((text) => `${text.charAt(0).toUpperCase()}${text.slice(1)}.`).join(" ");
}
