/** The looks of the map: which figure stands at each segment, and what stands out. */
import { celsius, voltage, volts, watts } from "../parts/format";
import type { Piece, Row } from "./queries";

export const LOOKS = ["amps", "volts", "lost", "heat", "what is new"] as const;
export type Look = (typeof LOOKS)[number];

const SHARE_OF_WORST = 0.5; // from where on a loss or a heat stands out beside the worst on the page

/** What is written at a segment: its designation, or its figure where current flows. */
export function labelOf(piece: Piece, look: Look): string {
  const { drop_v, power_w, copper_c } = piece.result;
  if ((look === "lost" || look === "heat") && piece.line.drawn_as === "idle") return "";
  if (look === "lost") return drop_v === null ? "" : voltage(Math.abs(drop_v));
  if (look === "heat") return copper_c != null ? celsius(copper_c) : power_w === null ? "" : watts(power_w);
  return piece.designation;
}

/** Whether a segment stands out in a look. */
export function standsOut(piece: Piece, look: Look, worst: number): boolean {
  if (look === "what is new") return piece.is_new;
  return worst > 0 && measureOf(piece, look) > SHARE_OF_WORST * worst;
}

export function measureOf({ result, line }: Piece, look: Look): number {
  if (line.drawn_as === "idle") return 0; // the whole voltage lies across an open contact, and none is lost there
  if (look === "lost") return Math.abs(result.drop_v ?? 0);
  return look === "heat" ? (result.power_w ?? 0) : 0;
}

/** What is written at a device's right edge. */
export function figureOf(row: Row, look: Look, amps: (value: number) => string): string {
  if (look === "volts") return row.voltage_v === null ? "" : `${volts(row.voltage_v)} V`;
  const current = Math.abs(row.current_a ?? 0);
  return current < 0.001 ? "" : current < 0.995 ? `${Math.round(current * 1000)} mA` : amps(current);
}

/** Along the row from plus to minus: its segments, with the device itself between them. */
export const routeOf = (row: Row): string[] => [
  ...[...(row.left?.way ?? [])].reverse(),
  row.device,
  ...(row.right?.way ?? []),
];
