/** Where a part is on the map: what belongs to it, and where one measures it. */
import type { Picture } from "./queries";

/** The other ways of the plug that a part is a way of. */
export function waysBeside(part: string, { segments }: Picture): string[] {
  const plug = segments.find(({ id }) => id === part)?.plug;
  return plug ? segments.filter((each) => each.plug === plug).map(({ id }) => id) : [];
}

/** Where the probes go that measure across a part: red nearer to plus, black nearer to minus. */
export function endsOf(part: string, { segments, rows }: Picture): [string, string] | null {
  const piece = segments.find(({ id }) => id === part);
  if (piece) return [piece.plus_point, piece.minus_point];
  const row = rows.find(({ device, is_main }) => device === part && is_main);
  const ends = [row?.left?.point, row?.right?.point].filter((each) => each !== undefined);
  return ends[0] ? [ends[0], ends.at(-1) ?? ends[0]] : null;
}

/** How many of its parts are assumed still, and how many somebody saw or measured. */
export function howKnown({ segments, rows }: Picture): string {
  const parts = [...segments, ...rows.filter(({ is_main }) => is_main)];
  const count = (known: string) => parts.filter((each) => each.known === known).length;
  return `Of ${parts.length} parts ${count("assumed")} are assumed, ${count("seen")} seen, ${count("measured")} measured.`;
}
