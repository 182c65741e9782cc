import type { RefObject } from "react";
import { unitSpoken } from "./say";
import type { Meter } from "./useMeter";

const liveText = ({ value, outcome }: Meter) =>
  value === null ? (outcome ?? "…") : value.toFixed(Math.abs(value) < 6 ? 3 : 2).replace("-", "−");

type Props = {
  meter: Meter;
  unit: string;
  small: boolean;
  typed: string;
  setTyped: (typed: string) => void;
  milli: boolean;
  setMilli: (milli: boolean) => void;
  box: RefObject<HTMLInputElement | null>;
};

export function MeterBox({ meter, unit, small, typed, setTyped, milli, setMilli, box }: Props) {
  const { isLive } = meter;
  return (
    <div className="says">
      <label className="what" htmlFor="meter-says">
        {isLive ? `${meter.name} shows` : "the meter says"}
      </label>
      <span className="meter-box">
        <input
          id="meter-says"
          ref={box}
          className="hero"
          inputMode={small ? "none" : "decimal"}
          autoComplete="off"
          readOnly={isLive}
          value={isLive ? liveText(meter) : typed}
          onChange={(event) => setTyped(event.currentTarget.value)}
          data-figures=""
        />
        <button
          type="button"
          className={small ? "unit spoken" : "unit"}
          aria-label={`unit, ${unitSpoken(unit, milli && !isLive)}`}
          onClick={() => setMilli(!milli)}
        >
          {small ? unitSpoken(unit, milli && !isLive) : `${milli && !isLive ? "m" : ""}${unit}`}
        </button>
      </span>
    </div>
  );
}
