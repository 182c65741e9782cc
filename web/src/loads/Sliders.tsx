/** The idle speed and the alternator, moved by hand: everything on the room follows, nothing is written. */
import { Slider } from "@mantine/core";
import { useEffect, useState } from "react";
import type { Budget, Trial } from "../api/queries";

type Alternator = Extract<NonNullable<Budget["alternator"]>["spec"], { kind: "alternator" }>;
type Edits = Trial["edits"];
type Props = { base: Budget; shown: Budget; trial: Trial | null; setTrial: (trial: Trial | null) => void };

export function Sliders({ base, shown, trial, setTrial }: Props) {
  const device = base.alternator;
  if (device?.spec.kind !== "alternator" || shown.alternator?.spec.kind !== "alternator") return null;
  const both = { spec: device.spec, tried: shown.alternator.spec };
  return <Movable key={device.version} id={device.id} {...{ ...both, trial, setTrial }} />;
}

const speedOf = (spec: Alternator) => (spec.pulley_ratio ? "engine_idle_rpm" : "idle_rpm");
const stands = (spec: Alternator) => ({
  idle: Math.round(spec[speedOf(spec)] ?? 0),
  output: Math.round(spec.at_6000_a),
});

type MovableProps = { id: string; spec: Alternator; tried: Alternator } & Pick<Props, "trial" | "setTrial">;

function Movable({ id, spec, tried, trial, setTrial }: MovableProps) {
  const speed = speedOf(spec);
  const saved = stands(spec);
  const [at, setAt] = useState(saved);
  const moves = trial?.from === "slider";
  // While nobody moves them the handles stand where the alternator shown stands, a tried one too.
  useEffect(() => {
    if (!moves) setAt(stands(tried));
  }, [moves, tried]);

  function move(change: Partial<typeof saved>) {
    const next = { ...at, ...change };
    setAt(next);
    const edits: Edits = [];
    const says: string[] = [];
    if (next.idle !== saved.idle) {
      edits.push({ do: "change device", device_id: id, change: { [speed]: next.idle } });
      says.push(`idling at ${next.idle} rpm`);
    }
    if (next.output !== saved.output) {
      edits.push({ do: "scale alternator", device_id: id, at_6000_a: next.output });
      says.push(`an alternator of ${next.output} A`);
    }
    setTrial(edits.length > 0 ? { effect: says.join(" and "), edits, from: "slider" } : null);
  }

  const engine = speed === "engine_idle_rpm";
  return (
    <div className="sliders">
      <span>
        {engine ? "Engine" : "Alternator"} idling <b className="mono">{at.idle}</b> rpm
      </span>
      <Slider
        thumbLabel={engine ? "Engine idling, rpm" : "Alternator idling, rpm"}
        min={engine ? 500 : 1000}
        max={engine ? 1500 : 4000}
        step={engine ? 10 : 50}
        value={at.idle}
        label={null}
        onChange={(idle) => move({ idle })}
      />
      <span>
        Alternator <b className="mono">{at.output}</b> A
      </span>
      <Slider
        thumbLabel="Alternator at 6 000 rpm, A"
        min={20}
        max={300}
        step={5}
        value={at.output}
        label={null}
        onChange={(output) => move({ output })}
      />
    </div>
  );
}
