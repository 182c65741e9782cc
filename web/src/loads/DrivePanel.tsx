/** A drive as it goes: the battery's charge and the system's voltage over time. */
import { Select } from "@mantine/core";
import type { Budget, Driven } from "../api/queries";
import { celsius, volts } from "../parts/format";
import type { Dialog } from "./dialog";

const WIDTH = 640;
const LEFT = 46;
const RIGHT = 66;
const CHARGE = { top: 6, height: 84 };
const VOLTS = { top: 110, height: 32 };
const HEIGHT = 168;

type Props = {
  budget: Budget;
  before: Driven | null;
  onDrive: (id: string) => void;
  onDialog: (dialog: Dialog) => void;
};

export function DrivePanel({ budget, before, onDrive, onDialog }: Props) {
  const { driven, drives, drive_id } = budget;
  const own = drives.find(({ id }) => id === drive_id)?.version;
  return (
    <section aria-label="Charge over a drive">
      <div className="drive-head">
        <Select
          aria-label="Drive"
          size="xs"
          data={drives.map(({ id, name }) => ({ value: id, label: name }))}
          value={drive_id}
          allowDeselect={false}
          onChange={(id) => id && onDrive(id)}
        />
        {own ? (
          <button type="button" className="link" onClick={() => onDialog({ what: "drive", id: drive_id })}>
            Edit this drive
          </button>
        ) : null}
        <button type="button" className="link" onClick={() => onDialog({ what: "drive" })}>
          New drive
        </button>
        <button type="button" className="link" onClick={() => onDialog({ what: "scenario" })}>
          Scenarios
        </button>
      </div>
      {driven ? (
        <>
          <Chart driven={driven} before={before} />
          <p className={`verdict-line ${driven.verdict}`}>{driven.says}</p>
          <p className="quiet">
            Alternator {driven.given_ah.toFixed(1)} Ah, loads {driven.taken_ah.toFixed(1)} Ah; lowest{" "}
            {driven.lowest_percent.toFixed(0)} % and {volts(driven.lowest_v)} V
            {driven.starts_left !== null &&
              `; ${driven.starts_left}${driven.or_more ? " or more" : ""} starts left at ${celsius(driven.morning_c)}`}
            .
          </p>
        </>
      ) : (
        <p className="quiet">A drive ends with what is left in the battery: say what battery there is.</p>
      )}
    </section>
  );
}

function Chart({ driven, before }: { driven: Driven; before: Driven | null }) {
  const runs = before ? [driven, before] : [driven];
  const last = Math.max(...runs.map(({ minute }) => minute.at(-1) ?? 0), 1);
  const x = (minute: number) => LEFT + ((WIDTH - LEFT - RIGHT) * minute) / last;
  const charge = axis(
    runs.flatMap(({ charge_percent }) => charge_percent),
    10,
    100,
  );
  const voltage = axis(
    runs.flatMap(({ battery_v }) => battery_v),
    1,
    Number.POSITIVE_INFINITY,
  );
  const line = (run: Driven, values: number[], y: (value: number) => number) =>
    run.minute
      .map(
        (minute, place) => `${place ? "L" : "M"}${x(minute).toFixed(1)},${y(values[place] ?? 0).toFixed(1)}`,
      )
      .join("");
  const yCharge = placed(charge, CHARGE);
  const yVolts = placed(voltage, VOLTS);
  const home = driven.charge_percent.at(-1) ?? 0;
  const says = `Charge ${Math.round(driven.charge_percent[0] ?? 0)} % at the start, ${Math.round(home)} % at the end, lowest ${volts(driven.lowest_v)} V`;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="drive-chart" role="img" aria-label={says}>
      {driven.spells.map((spell, place) => (
        <g key={`${spell.name} ${spell.from_min}`}>
          <rect
            className={place % 2 ? "spell odd" : "spell"}
            x={x(spell.from_min)}
            y={CHARGE.top}
            width={x(spell.to_min) - x(spell.from_min)}
            height={VOLTS.top + VOLTS.height - CHARGE.top}
          />
          <text x={(x(spell.from_min) + x(spell.to_min)) / 2} y={HEIGHT - 6} textAnchor="middle">
            {x(spell.to_min) - x(spell.from_min) > 60
              ? `${spell.name} ${Math.round(spell.to_min - spell.from_min)}′`
              : ""}
          </text>
        </g>
      ))}
      {[charge.low, charge.high].map((each) => (
        <text key={each} x={LEFT - 6} y={yCharge(each) + 4} textAnchor="end">
          {each} %
        </text>
      ))}
      {[voltage.low, voltage.high].map((each) => (
        <text key={each} x={LEFT - 6} y={yVolts(each) + 4} textAnchor="end">
          {each} V
        </text>
      ))}
      {before && (
        <>
          <path className="curve before" d={line(before, before.charge_percent, yCharge)} />
          <path className="curve before" d={line(before, before.battery_v, yVolts)} />
        </>
      )}
      <path className="curve charge" d={line(driven, driven.charge_percent, yCharge)} />
      <path className="curve voltage" d={line(driven, driven.battery_v, yVolts)} />
      <text className="home" x={x(driven.minute.at(-1) ?? 0) + 6} y={yCharge(home) + 5}>
        {home.toFixed(0)} %
      </text>
      <text
        className="home"
        x={x(driven.minute.at(-1) ?? 0) + 6}
        y={yVolts(driven.battery_v.at(-1) ?? 0) + 5}
      >
        {volts(driven.battery_v.at(-1) ?? 0)} V
      </text>
    </svg>
  );
}

type Axis = { low: number; high: number };

/** Round ends of an axis around some values. */
function axis(values: number[], step: number, most: number): Axis {
  const low = step * Math.floor(Math.min(...values) / step);
  const high = Math.min(most, step * Math.ceil(Math.max(...values) / step));
  return { low, high: high > low ? high : low + step };
}

const placed =
  ({ low, high }: Axis, box: { top: number; height: number }) =>
  (value: number) =>
    box.top + box.height * (1 - (value - low) / (high - low));
