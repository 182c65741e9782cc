/** What each look shows of a part, and how it stands out. */
import { expect, test } from "vitest";
import type { AskedTest } from "../api/queries";
import { type Known, lookedAt, routeOf } from "./looks";
import type { Picture, Piece, Row } from "./queries";

function piece(id: string, drop_v: number, more: object = {}) {
  const line = { path: "", px: 1, drawn_as: "supply" };
  const result = { current_a: 5, drop_v, power_w: 5 * drop_v };
  return { id, designation: id, line, result, is_new: false, fate: "kept", end_v: 12, ...more } as Piece;
}

function check(id: string, standing: string | null) {
  const planned = standing && { standing };
  return { measurement: {}, path: [{ id }], planned, found: null } as unknown as AskedTest;
}

const NOTHING: Known = { suspicion: null, tests: [], stage: "planned" };
const page = (...segments: Piece[]) => ({ segments }) as unknown as Picture;

test("what loses more than half of the worst stands out, and what carries nothing loses nothing", () => {
  const open = piece("S1", 12, { line: { path: "", px: 1, drawn_as: "idle" } });
  const [worst, less, little] = [piece("W1", 0.4), piece("W2", 0.25), piece("W3", 0.1)];
  const looks = lookedAt("lost", page(worst, less, little, open), NOTHING);
  expect([worst, less, little, open].map((each) => looks.ofPiece(each).style)).toEqual([
    "out",
    "out",
    "",
    "",
  ]);
  expect(looks.ofPiece(open).figure).toBe("");
});

test("of its tests a part shows how many are done, and the worst that came of them", () => {
  const tests = [check("W1", "as expected"), check("W1", "over"), check("W1", null), check("W2", null)];
  const looks = lookedAt("tests", page(), { ...NOTHING, tests });
  expect(looks.ofPiece(piece("W1", 0))).toEqual({ figure: "2/3", style: "out" });
  expect(looks.ofPiece(piece("W2", 0))).toEqual({ figure: "0/1", style: "" });
  expect(looks.ofPiece(piece("W3", 0))).toEqual({ figure: "W3", style: "" });
});

test("a part is written as suspect from some chance on", () => {
  const looks = lookedAt("suspects", page(), { ...NOTHING, suspicion: { W1: 0.62, W2: 0.01 } });
  expect(looks.ofPiece(piece("W1", 0))).toEqual({ figure: "62 %", style: "suspect", share: 0.62 });
  expect(looks.ofPiece(piece("W2", 0))).toEqual({ figure: "W2", style: "" });
});

test("what is new and what goes are told apart", () => {
  const looks = lookedAt("what changes", page(), NOTHING);
  const changes = [piece("W1", 0, { is_new: true }), piece("W2", 0, { fate: "removed" }), piece("W3", 0)];
  expect(changes.map((each) => looks.ofPiece(each).style)).toEqual(["fresh", "going", ""]);
});

test("how one knows what a part is, and what was measured stands out", () => {
  const looks = lookedAt("known", page(), NOTHING);
  const parts = [piece("W1", 0, { known: "assumed" }), piece("W2", 0, { known: "measured" })];
  expect(parts.map((each) => looks.ofPiece(each))).toEqual([
    { figure: "W1", style: "" },
    { figure: "W2", style: "well" },
  ]);
});

test("a route leads from plus over the device to minus", () => {
  const row = { device: "M1", left: { way: ["W2", "W1"] }, right: { way: ["W3"] } } as unknown as Row;
  expect(routeOf(row)).toEqual(["W1", "W2", "M1", "W3"]);
});
