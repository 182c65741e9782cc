/** The looks of the map: which figure stands at each segment, and what stands out. */
import { amps, voltage, volts, watts } from "../parts/format";
import type { Piece, Row } from "./queries";

export const LOOKS = ["amps", "volts", "lost", "heat", "what is new"] as const;
export type Look = (typeof LOOKS)[number];

const SHARE_OF_WORST = 0.5; // from where on a loss or a heat stands out beside the worst on the page

/** What is written at a segment: its designation, the voltage behind it, or its figure where current flows. */
export function labelOf({ designation, end_v, line, result }: Piece, look: Look): string {
  if (look === "volts") return end_v === null ? "" : `${volts(end_v)} V`;
  if (look !== "lost" && look !== "heat") return designation;
  const { drop_v, power_w } = result;
  if (line.drawn_as === "idle" || drop_v === null || power_w === null) return "";
  return look === "lost" ? voltage(Math.abs(drop_v)) : watts(power_w);
}

/** Whether a segment loses or heats much beside the worst on the page. */
export const standsOut = (piece: Piece, look: Look, worst: number): boolean =>
  worst > 0 && measureOf(piece, look) > SHARE_OF_WORST * worst;

export function measureOf({ result, line }: Piece, look: Look): number {
  if (line.drawn_as === "idle") return 0; // the whole voltage lies across an open contact, and none is lost there
  if (look === "lost") return Math.abs(result.drop_v ?? 0);
  return look === "heat" ? (result.power_w ?? 0) : 0;
}

/** What is written at a device's right edge: nothing where no current flows. */
export function figureOf({ left, right, voltage_v, current_a }: Row, look: Look): string {
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
