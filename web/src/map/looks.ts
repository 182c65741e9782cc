/** The looks of the map: which figure stands at each part of it, and what stands out. */
import type { AskedTest, Stage } from "../api/queries";
import { lookOf, partsOf } from "../checks/say";
import { amps, outOfHundred, voltage, volts, watts } from "../parts/format";
import type { Picture, Piece, Row } from "./queries";

export const LOOKS = ["amps", "volts", "lost", "heat", "what changes", "known", "suspects", "tests"] as const;
export type Look = (typeof LOOKS)[number];

/** What two of the looks show besides the page: how suspect each part is, and the tests that were made of it. */
export type Known = { suspicion: Record<string, number> | null; tests: AskedTest[]; stage: Stage };

/** How a part is shown: what is written at it, by which style, and how strongly. */
export type Shown = { figure: string; style: string; share?: number };

const SHARE_OF_WORST = 0.5; // from where on a loss or a heat stands out beside the worst on the page
export const SUSPECT = 0.05; // from where on it is written how suspect a part is: before anything is known, none is

/** How each part of a page is shown by a look. */
export function lookedAt(look: Look, picture: Picture, known: Known) {
  const tested = look === "tests" ? ofTests(known) : new Map<string, Shown>();
  const measures = picture.segments.map((piece) => measureOf(piece, look));
  const worst = Math.max(0, ...measures);
  const suspected = (id: string) => suspicionOf(known.suspicion?.[id] ?? 0);
  return {
    ofPiece(piece: Piece): Shown {
      if (look === "suspects") return { figure: piece.designation, style: "", ...suspected(piece.id) };
      if (look === "tests") return tested.get(piece.id) ?? { figure: piece.designation, style: "" };
      if (look === "what changes") return { figure: piece.designation, style: changeOf(piece) };
      if (look === "known") return { figure: piece.designation, style: knownAs(piece) };
      const stands = worst > 0 && measureOf(piece, look) > SHARE_OF_WORST * worst;
      return { figure: labelOf(piece, look), style: stands ? "out" : "" };
    },
    ofRow(row: Row): Shown {
      if (look === "suspects") return { figure: "", style: "", ...suspected(row.device) };
      if (look === "tests") return tested.get(row.device) ?? { figure: "", style: "" };
      if (look === "what changes") return { figure: "", style: changeOf(row) };
      if (look === "known") return { figure: row.known, style: knownAs(row) };
      return { figure: figureOf(row, look), style: "" };
    },
  };
}

/** What becomes of a part: at the found stage some will go, at the planned one some have come. */
const changeOf = ({ is_new, fate }: Piece | Row) => (is_new ? "fresh" : fate === "kept" ? "" : "going");

/** How one knows what a part is; what is assumed is drawn so in every look. */
const knownAs = ({ known }: Piece | Row) => (known === "measured" ? "well" : "");

const suspicionOf = (share: number): Partial<Shown> =>
  share < SUSPECT ? {} : { figure: `${outOfHundred(share)} %`, style: "suspect", share };

/** Of each part that a test is of: how many of its tests are done, and the worst that came of them. */
function ofTests({ tests, stage }: Known): Map<string, Shown> {
  const found = new Map<string, { asked: number; done: number; worst: number }>();
  for (const test of tests) {
    const look = lookOf(test[stage])?.look;
    for (const id of partsOf(test)) {
      const { asked, done, worst } = found.get(id) ?? { asked: 0, done: 0, worst: 0 };
      const rank = look === "fail" ? 3 : look === "marginal" ? 2 : look ? 1 : 0;
      found.set(id, { asked: asked + 1, done: done + (look ? 1 : 0), worst: Math.max(worst, rank) });
    }
  }
  const styles = ["", "well", "doubtful", "out"];
  return new Map(
    [...found].map(([id, { asked, done, worst }]) => [
      id,
      { figure: `${done}/${asked}`, style: styles[worst] ?? "" },
    ]),
  );
}

/** What is written at a segment: its designation, the voltage behind it, or its figure where current flows. */
function labelOf({ designation, end_v, line, result }: Piece, look: Look): string {
  if (look === "volts") return end_v === null ? "" : `${volts(end_v)} V`;
  if (look !== "lost" && look !== "heat") return designation;
  const { drop_v, power_w } = result;
  if (line.drawn_as === "idle" || drop_v === null || power_w === null) return "";
  return look === "lost" ? voltage(Math.abs(drop_v)) : watts(power_w);
}

function measureOf({ result, line }: Piece, look: Look): number {
  if (line.drawn_as === "idle") return 0; // the whole voltage lies across an open contact, and none is lost there
  if (look === "lost") return Math.abs(result.drop_v ?? 0);
  return look === "heat" ? (result.power_w ?? 0) : 0;
}

/** What is written at a device's right edge: nothing where no current flows. */
function figureOf({ left, right, voltage_v, current_a }: Row, look: Look): string {
  if (look === "volts") return voltage_v === null ? "" : `${volts(voltage_v)} V`;
  if ([left, right].every((end) => !end || end.lead.drawn_as === "idle")) return "";
  const current = Math.abs(current_a ?? 0);
  return current < 0.995 ? `${Math.round(current * 1000)} mA` : amps(current);
}

/** Along the row from plus to minus: its segments, with the device itself between them. */
export const routeOf = (row: Row): string[] => [
  ...[...(row.left?.way ?? [])].reverse(),
  row.device,
  ...(row.right?.way ?? []),
];
