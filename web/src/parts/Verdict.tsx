/** A verdict as shape, word and colour, never colour alone. */
import type { VerdictWord } from "../api/queries";

const LOOK: Record<VerdictWord, { shape: string; word: string }> = {
  pass: { shape: "●", word: "within" },
  marginal: { shape: "▲", word: "close" },
  fail: { shape: "■", word: "over" },
  unknown: { shape: "○", word: "not known" },
};

export const verdictText = (word: VerdictWord) => LOOK[word].word;

export function Verdict({ word, label }: { word: VerdictWord; label?: string }) {
  return (
    <span className={`verdict ${word}`}>
      <span aria-hidden="true">{LOOK[word].shape}</span> {label ?? LOOK[word].word}
    </span>
  );
}
