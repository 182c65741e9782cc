/** What can be said of a test: the words that it may have, or a value that is logged. */
import { Button } from "@mantine/core";
import type { AskedTest } from "../api/queries";
import { unitOf } from "./say";
import type { Meter } from "./useMeter";

type Props = {
  test: AskedTest;
  small: boolean;
  meter: Meter;
  pieces: { shown: boolean; toggle: () => void } | null;
  onSay: (word: string) => void;
  onLog: () => void;
};

export function Answers({ test, small, meter, pieces, onSay, onLog }: Props) {
  const { isLive } = meter;
  if (unitOf(test) === "")
    return (
      <div className="words">
        {test.words.map(({ word, says }, index) => (
          <Button
            key={word}
            variant={test.expected.outcome === word ? "filled" : "default"}
            onClick={() => onSay(word)}
          >
            {says}
            {!small && <kbd>{index + 1}</kbd>}
          </Button>
        ))}
      </div>
    );
  return (
    <div className="actions">
      <Button className="log" onClick={onLog}>
        Log it, next
      </Button>
      {test.words.map(({ word, says }) => (
        <Button key={word} variant="default" onClick={() => onSay(word)}>
          {says}
        </Button>
      ))}
      {meter.canRead && (
        <Button variant="default" onClick={meter.toggle} aria-pressed={isLive}>
          {isLive ? "Stop reading" : `Read ${small ? "the meter" : meter.name}`}
        </Button>
      )}
      {pieces && (
        <Button variant="default" onClick={pieces.toggle} aria-pressed={pieces.shown}>
          Piece by piece
        </Button>
      )}
    </div>
  );
}
