/** Figures as people write them: a true minus, none before nothing, and no figure that is not there. */
import { expect, test } from "vitest";
import { amps, changedDrops, grams, sizeName, voltage, volts, watts } from "./format";

test.each([
  [volts(-0.004), "0.00"],
  [volts(-12.346, 1), "−12.3"],
  [voltage(0.9994), "999 mV"],
  [voltage(0.9996), "1.00 V"],
  [voltage(-0.0002), "0 mV"],
  [amps(0.034), "0.03 A"],
  [amps(9.96), "10.0 A"],
  [amps(-162.4), "−162 A"],
  [watts(0.0234), "23 mW"],
  [grams(-0.0125), "−13 g"],
  [sizeName("2.5 mm2"), "2.5 mm²"],
])("%s", (written, said) => expect(written).toBe(said));

test("what looks the same as found and as planned is no change", () => {
  const drops = (found: number | null, planned: number | null) =>
    changedDrops({ found_drop_v: found, planned_drop_v: planned } as Parameters<typeof changedDrops>[0]);
  expect(drops(0.311, 0.309)).toBeNull();
  expect(drops(null, 0.3)).toBeNull();
  expect(drops(0.36, 0.1)).toEqual({ found: "0.36", planned: "0.10" });
});
