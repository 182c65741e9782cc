/** A segment of a circuit on the map: all that the Circuit room shows and does with one, where one looks at it. */
import { Text } from "@mantine/core";
import { type ReactNode, useState } from "react";
import type { Board, Offer, Reading, Rung } from "../api/queries";
import { useKeys } from "../app/keys";
import { CircuitDialogs } from "../circuits/CircuitDialogs";
import type { Dialog } from "../circuits/dialog";
import { keepTrial, moveSegment, overFork, removeSegment, trialOf } from "../circuits/edits";
import { Inspector } from "../circuits/Inspector";
import { MetalMenu } from "../circuits/Metal";
import { type Series, useCircuit, useReadingsOf, useWhatIf } from "../circuits/queries";
import { TrialBar } from "../parts/TrialBar";
import type { Tried } from "./VehicleMap";

type Props = Tried & {
  board: Board;
  circuitId: string;
  segmentId: string;
  metal: Offer[];
  onTry: (metal: Offer[]) => void;
  onChoose: (part: string) => void;
  buttons: ReactNode;
};

export function CircuitPart(props: Props) {
  const { board, circuitId, segmentId, metal, onTry, onChoose, buttons, trial, setTrial } = props;
  const jobId = board.job.id;
  const [series, setSeries] = useState<Series | null>(null);
  const [dialog, setDialog] = useState<Dialog>(null);
  const [corrects, setCorrects] = useState<Reading | null>(null);
  const [offering, setOffering] = useState(false);
  const base = useCircuit(jobId, circuitId, series, metal).data;
  const tried = useWhatIf(jobId, circuitId, trial, series, metal).data;
  const readings = useReadingsOf(jobId, circuitId);
  const view = trial && tried ? tried : base;
  const segment = base && [...base.segments, ...base.beside].find(({ id }) => id === segmentId);
  const putBack = () => setTrial(null);
  const open = (which: Dialog) => () => {
    setCorrects(null);
    setDialog(which);
  };
  async function keep() {
    if (!trial || !base) return;
    await keepTrial(base, trial);
    setTrial((now) => (now === trial ? null : now));
  }
  const takeOut = () => view && removeSegment(view, segment);
  useKeys("Segment", [
    { keys: "r", does: "reading", run: open("reading") },
    { keys: "n", does: "new segment", run: open("insert") },
    { keys: "e", does: "edit the segment", run: open("edit") },
    { keys: "m", does: "try on the vehicle", run: () => setOffering(true) },
    { keys: "Delete", does: "delete the segment", run: takeOut },
    ...(trial
      ? [
          { keys: "Enter", does: "keep", run: () => void keep() },
          { keys: "Escape", does: "put back", run: putBack },
        ]
      : []),
  ]);
  if (!base || !view) return <Text className="quiet">Computing the circuit …</Text>;
  return (
    <>
      <div className="actions">
        {buttons}
        <MetalMenu
          {...{ jobId, circuitId, segmentId }}
          points={base.points}
          opened={offering}
          onOpen={setOffering}
          onTry={(offer) => onTry([...metal.filter(({ text }) => text !== offer.text), offer])}
        />
      </div>
      {trial && trial.from !== "ladder" && (
        <TrialBar trial={trial} onKeep={() => void keep()} onPutBack={putBack} />
      )}
      {view.why_not && <p className="quiet">○ {view.why_not}; shown at its design current</p>}
      <Inspector
        {...{ view, segmentId, readings, series }}
        trying={trial?.from === "ladder"}
        on={{
          step: (rung: Rung) => setTrial(trialOf(rung, segmentId, segment)),
          keep: () => void keep(),
          putBack,
          series: setSeries,
          edit: open("edit"),
          insert: open("insert"),
          remove: takeOut,
          split: open("split"),
          leadOver: () => setTrial((now) => overFork(view, segmentId) ?? now),
          move: (steps) => moveSegment(view, segmentId, steps),
          log: open("reading"),
          correct: (reading) => {
            setCorrects(reading);
            setDialog("reading");
          },
        }}
      />
      <CircuitDialogs
        {...{ dialog, base, board, segment, corrects }}
        chosen={segmentId}
        onClose={(made) => {
          setDialog(null);
          if (made) onChoose(made);
        }}
      />
    </>
  );
}
