/** What one should read and what came, as it is written beside a meter. */
import type { AskedTest, Came, Stage } from "../api/queries";
import type { Write } from "../saving/writes";

const UNITS: Partial<Record<string, string>> = {
  voltage: "V",
  current: "A",
  resistance: "Ω",
  continuity: "Ω",
};

const SPOKEN: Partial<Record<string, string>> = { V: "volts", A: "amperes", Ω: "ohms" };

/** A unit as one says it. */
export const unitSpoken = (unit: string, milli: boolean) => `${milli ? "milli" : ""}${SPOKEN[unit] ?? unit}`;

export const unitOf = (test: AskedTest) => UNITS[test.measurement.quantity] ?? "";

/** As many decimals as a meter shows. */
const decimals = (most: number, unit: string) => (most >= 100 ? 0 : unit === "Ω" ? 1 : most < 1 ? 3 : 2);
const minus = (text: string) => text.replace("-", "−");
const figure = (value: number, most: number, unit: string) => {
  const text = value.toFixed(decimals(most, unit));
  return minus(Number(text) === 0 ? text.replace("-", "") : text);
};

/** The interval that is expected, or the word. */
export function expectedText(test: AskedTest): string {
  const { low, high, outcome } = test.expected;
  if (low == null || high == null) return outcome ? wordText(test, outcome) : "";
  const most = Math.max(Math.abs(low), Math.abs(high));
  const unit = unitOf(test);
  if (unit === "Ω" && low === 0) return `below ${figure(high, most, unit)} Ω`;
  return `${figure(low, most, unit)}${low < 0 ? " to " : "–"}${figure(high, most, unit)} ${unit}`;
}

export function cameText(test: AskedTest, came: Pick<Came, "value" | "outcome">): string {
  if (came.value === null) return wordText(test, came.outcome ?? "");
  const unit = unitOf(test);
  return `${figure(came.value, Math.abs(came.value), unit)} ${unit}`;
}

/** A word as one says it of the thing: a relay pulls in, a lamp is lit. */
export function wordText(test: AskedTest, word: string): string {
  return test.words.find((each) => each.word === word)?.says ?? word;
}

/** How a number compares with the interval, for what is typed and not sent yet. */
export function compare(test: AskedTest, value: number | null): "as expected" | "higher" | "lower" | null {
  const { low, high } = test.expected;
  if (value === null || low == null || high == null) return null;
  if (value > high) return "higher";
  return value < low ? "lower" : "as expected";
}

/** The number that a text of figures stands for in the unit beside it; null for what is none. */
export function numberOf(text: string, milli: boolean): number | null {
  const plain = text.trim().replace(",", ".").replace("−", "-");
  if (!/^-?(\d+\.?\d*|\.\d+)$/.test(plain)) return null;
  return milli ? Number(plain) / 1000 : Number(plain);
}

export const targetText = (test: AskedTest) =>
  test.target
    ? `${test.target.kind} ${figure(test.target.value, test.target.value, unitOf(test))} ${unitOf(test)}`
    : "";

const LOOKS: Record<Came["standing"], { shape: string; look: string }> = {
  over: { shape: "■", look: "fail" },
  "as expected": { shape: "●", look: "pass" },
  "not known": { shape: "○", look: "unknown" },
  higher: { shape: "▲", look: "marginal" },
  lower: { shape: "▲", look: "marginal" },
  otherwise: { shape: "▲", look: "marginal" },
};

/** What stands beside a test in the list. */
export const lookOf = (came: Came | null) => came && { word: came.standing, ...LOOKS[came.standing] };

/** What a reading is of while it waits to be sent. */
export const about = (test: AskedTest, stage: Stage) => `${test.id} ${stage}`;

export const aboutWiggle = (test: AskedTest, stage: Stage, segment: string) =>
  `${about(test, stage)} wiggle ${segment}`;

/** What waits of a test, as it is written. */
export function waitingText(test: AskedTest, write: Write): string {
  const { measurement } = (write.body ?? {}) as { measurement?: { value?: number; outcome?: string } };
  return cameText(test, {
    value: measurement?.value ?? null,
    outcome: (measurement?.outcome ?? null) as null,
  });
}

/** What a test is of, by the ids of the parts. */
export const partsOf = ({ measurement, path }: AskedTest) =>
  measurement.device ? [measurement.device] : path.map(({ id }) => id);
