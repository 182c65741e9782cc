/** Finds places for texts on a chart where they lie neither on one another nor on a line. */

export type Place = { x: number; y: number; anchor: "start" | "middle" | "end" };
/** A text with where it would like to stand, best first; one that `mayGo` is left out rather than put on another. */
export type Wanted = { id: string; text: string; places: Place[]; mayGo: boolean };
export type Line = { x1: number; y1: number; x2: number; y2: number };
type Box = { left: number; right: number; top: number; bottom: number };

const LETTER = 7.6; // width of a figure, px
const HEIGHT = 14;

/** A place for each text, those named first choose first; by id. */
export function placed(wanted: Wanted[], lines: Line[]): Map<string, Place> {
  const taken: Box[] = [];
  const found = new Map<string, Place>();
  for (const { id, text, places, mayGo } of wanted) {
    const free = places.find((place) => isFree(boxOf(text, place), taken, lines));
    const clear = free ?? places.find((place) => isFree(boxOf(text, place), taken, []));
    const chosen = mayGo ? free : (clear ?? places[0]);
    if (!chosen) continue;
    found.set(id, chosen);
    taken.push(boxOf(text, chosen));
  }
  return found;
}

function boxOf(text: string, { x, y, anchor }: Place): Box {
  const width = text.length * LETTER;
  const left = anchor === "start" ? x : anchor === "end" ? x - width : x - width / 2;
  return { left: left - 2, right: left + width + 2, top: y - HEIGHT + 2, bottom: y + 3 };
}

const isFree = (box: Box, taken: Box[], lines: Line[]) =>
  !taken.some((other) => meet(box, other)) && !lines.some((line) => crosses(line, box));

const meet = (one: Box, other: Box) =>
  one.left < other.right && other.left < one.right && one.top < other.bottom && other.top < one.bottom;

/** Whether a line passes through a box: what is left of it within the box's sides is not empty. */
function crosses({ x1, y1, x2, y2 }: Line, box: Box): boolean {
  let [from, to] = [0, 1];
  const sides: [number, number][] = [
    [x1 - x2, x1 - box.left],
    [x2 - x1, box.right - x1],
    [y1 - y2, y1 - box.top],
    [y2 - y1, box.bottom - y1],
  ];
  for (const [along, room] of sides) {
    if (along === 0 && room < 0) return false;
    if (along < 0) from = Math.max(from, room / along);
    if (along > 0) to = Math.min(to, room / along);
  }
  return from <= to;
}
