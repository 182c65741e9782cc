/** The tests in working order, by what comes first in safety; each with what one should read, or what was read. */
import { useEffect, useRef } from "react";
import type { AskedTest, Stage } from "../api/queries";
import type { Write } from "../saving/writes";
import { about, cameText, expectedText, lookOf, waitingText } from "./say";

type Props = {
  tests: AskedTest[];
  waiting: Map<string, Write>;
  chosen: string | null;
  stage: Stage;
  onChoose: (id: string) => void;
};

export function CheckList({ tests, waiting, chosen, stage, onChoose }: Props) {
  const row = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (chosen) row.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a list that scrolls is reached by the keyboard
    <ul className="test-list" tabIndex={0} aria-label="Tests in working order">
      {tests.map((test, index) => (
        <li key={test.id} ref={test.id === chosen ? row : undefined}>
          {tests[index - 1]?.group !== test.group && <h3>{test.group_name}</h3>}
          <Row
            test={test}
            waits={waiting.get(about(test, stage))}
            stage={stage}
            chosen={test.id === chosen}
            onChoose={() => onChoose(test.id)}
          />
        </li>
      ))}
    </ul>
  );
}

type RowProps = {
  test: AskedTest;
  waits: Write | undefined;
  stage: Stage;
  chosen: boolean;
  onChoose: () => void;
};

function Row({ test, waits, stage, chosen, onChoose }: RowProps) {
  const came = test[stage];
  const look = lookOf(came);
  return (
    <button
      type="button"
      className={`test-row${chosen ? " chosen" : ""}${test.only_if ? " piece-row" : ""}`}
      aria-current={chosen}
      onClick={onChoose}
    >
      <span className="title">{test.title}</span>
      {waits ? (
        <span className="came waits">
          <span className="mono">{waitingText(test, waits)}</span>, waits
        </span>
      ) : came && look ? (
        <span className={`came verdict ${look.look}`}>
          <span aria-hidden="true">{look.shape}</span> <span className="mono">{cameText(test, came)}</span>
          <span className="hidden-word"> {look.word}</span>
        </span>
      ) : (
        <span className="expected mono">{expectedText(test)}</span>
      )}
    </button>
  );
}
