/** Figures for a thumb: a pad as wide as the phone. */
import { unitSpoken } from "./say";

type Props = {
  unit: string;
  milli: boolean;
  onMilli: () => void;
  typed: string;
  onType: (text: string) => void;
};

export function NumberPad({ unit, milli, onMilli, typed, onType }: Props) {
  const key = (text: string) => (
    <button key={text} type="button" onClick={() => onType(typed + text)}>
      {text}
    </button>
  );
  const minus = typed.startsWith("-") ? typed.slice(1) : `-${typed}`;
  return (
    <div className="pad">
      {["1", "2", "3"].map(key)}
      <button type="button" aria-label="take back one figure" onClick={() => onType(typed.slice(0, -1))}>
        ←
      </button>
      {["4", "5", "6"].map(key)}
      <button type="button" aria-label="the other way round" onClick={() => onType(minus)}>
        ±
      </button>
      {["7", "8", "9"].map(key)}
      <button type="button" onClick={() => onType("")}>
        clear
      </button>
      <button type="button" aria-pressed={milli} onClick={onMilli} className="spoken">
        {unitSpoken(unit, true)}
      </button>
      {["0", "."].map(key)}
    </div>
  );
}
