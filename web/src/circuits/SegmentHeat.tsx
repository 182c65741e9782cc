/** How warm a wire is, and how warm it may be. */
import type { CircuitView } from "../api/queries";
import { amps } from "../parts/format";

const NOTHING_A = 0.005;

/** What a wire carries at worst for long, what it may, and how warm it gets. */
export function Heat({ view, segmentId }: { view: CircuitView; segmentId: string }) {
  const heat = view.heat[segmentId];
  if (!heat) return null;
  const { worst, cranking_a, ampacity, stands, insulation, never, limit_c, copper_c } = heat;
  return (
    <p className={stands ? "quiet" : "problem"}>
      {!stands && "■ "}
      {worst.current_a < NOTHING_A
        ? "Nothing for long"
        : `${amps(worst.current_a)} at worst for long, ${worst.state}`}
      {cranking_a > worst.current_a && `, ${amps(cranking_a)} while cranking`}. It may carry{" "}
      {amps(ampacity.table_a)} by table and {amps(ampacity.model_a)} by the thermal model;{" "}
      {copper_c === null ? "it would melt" : `at worst ${Math.round(copper_c)} °C`} of {limit_c} °C. Its
      insulation is {insulation}: never {never}.
    </p>
  );
}
