import { type Dispatch, type SetStateAction, useState } from "react";
import { useNavigate } from "react-router";
import { type CircuitView, type Offer, type Reading, type Rung, type Trial, useBoard } from "../api/queries";
import { useKeys } from "../app/keys";
import { view as look } from "../app/viewing";
import { clamp } from "../parts/clamp";
import { Findings } from "../parts/Findings";
import { TrialBar } from "../parts/TrialBar";
import { CircuitDialogs } from "./CircuitDialogs";
import { ColdStart } from "./ColdStart";
import type { Dialog } from "./dialog";
import { keepTrial, moveSegment, overFork, removeCircuit, removeSegment, rungAfter, trialOf } from "./edits";
import { Inspector } from "./Inspector";
import { MetalBar, MetalMenu } from "./Metal";
import type { Series } from "./queries";
import { RoomHeading } from "./RoomHeading";
import { RouteChart } from "./RouteChart";
import { RouteSizes } from "./RouteSizes";

type RoomProps = {
  base: CircuitView;
  view: CircuitView;
  readings: Reading[];
  series: Series | null;
  setSeries: (series: Series) => void;
  trial: Trial | null;
  setTrial: Dispatch<SetStateAction<Trial | null>>;
  metal: Offer[];
  setMetal: (metal: Offer[]) => void;
};

export function OpenCircuit({
  base,
  view,
  readings,
  series,
  setSeries,
  trial,
  setTrial,
  metal,
  setMetal,
}: RoomProps) {
  const navigate = useNavigate();
  const board = useBoard(view.job_id).data;
  const [wanted, setWanted] = useState<string | null>(null);
  const [dialog, setDialog] = useState<Dialog>(null);
  const [corrects, setCorrects] = useState<Reading | null>(null);
  const [sizing, setSizing] = useState(false);
  const [offering, setOffering] = useState(false);
  const order = [...view.segments, ...view.beside].map((segment) => segment.id);
  const chosen = wanted && order.includes(wanted) ? wanted : worst(view);
  const segment = [...base.segments, ...base.beside].find((each) => each.id === chosen);
  const ladder = view.ladders.find((each) => each.segment_id === chosen);

  function choose(id: string) {
    putBack();
    setWanted(id);
  }
  const along = (steps: number) =>
    choose(order[clamp(order.indexOf(chosen) + steps, order.length)] ?? chosen);
  const tryOut = (rung: Rung) => {
    setWanted(chosen);
    setTrial(trialOf(rung, chosen, segment));
  };
  const putBack = () => {
    setTrial(null);
    setSizing(false);
  };
  /** Put back what is tried: first of the plan, then on the metal. */
  const leave = () => {
    if (!trial && !sizing) setMetal([]);
    putBack();
  };
  function stepLadder(steps: number) {
    const rung = ladder && rungAfter(ladder, steps);
    if (rung) tryOut(rung);
  }
  async function keep() {
    if (!trial) return;
    await keepTrial(base, trial);
    // Another size may be tried by now, or the whole route.
    setTrial((now) => (now === trial ? null : now));
    if (trial.from === "sizes") setSizing(false);
  }
  function openAnother(steps: number) {
    const circuits = board?.lines.map((line) => line.circuit.id) ?? [];
    const other = circuits[clamp(circuits.indexOf(view.circuit.id) + steps, circuits.length)];
    if (other) navigate(`/jobs/${view.job_id}/circuits/${other}`);
  }
  const otherBasis = () =>
    look(view.job_id, { basis: view.basis === "design" && !view.why_not ? "state" : "design" });
  const open = (which: Dialog) => () => {
    setWanted(chosen);
    setCorrects(null);
    setDialog(which);
  };

  useKeys("Circuit", [
    { keys: "ArrowLeft", does: "previous", run: () => along(-1) },
    { keys: "ArrowRight", does: "next segment", run: () => along(1) },
    { keys: "ArrowUp", does: "thinner", run: () => stepLadder(-1) },
    { keys: "ArrowDown", does: "thicker", run: () => stepLadder(1) },
    { keys: "Enter", does: "keep", run: () => void keep() },
    { keys: "Escape", does: "put back", run: leave },
    { keys: "a", does: "size the whole route", run: () => setSizing(true) },
    { keys: "r", does: "reading", run: open("reading") },
    { keys: "n", does: "new segment", run: open("insert") },
    { keys: "e", does: "edit the segment", run: open("edit") },
    { keys: "Delete", does: "delete the segment", run: () => removeSegment(view, segment) },
    { keys: "Alt+ArrowLeft", does: "move it towards the source", run: () => moveSegment(view, chosen, -1) },
    { keys: "Alt+ArrowRight", does: "move it away from the source", run: () => moveSegment(view, chosen, 1) },
    { keys: "x", does: "lead the route on", run: open("extend") },
    { keys: "c", does: "change the circuit", run: open("circuit") },
    { keys: "p", does: "points", run: open("points") },
    { keys: "m", does: "try on the vehicle", run: () => setOffering(true) },
    { keys: "d", does: "in this state or at design current", run: otherBasis },
    { keys: "[", does: "previous circuit", run: () => openAnother(-1) },
    { keys: "]", does: "next circuit", run: () => openAnother(1) },
  ]);

  return (
    <div className="room">
      <div className="room-main">
        <RoomHeading
          view={view}
          board={board}
          onDialog={open}
          onSizes={() => setSizing(true)}
          onDelete={() => void removeCircuit(base).then((gone) => gone && navigate(`/jobs/${view.job_id}`))}
        >
          <MetalMenu
            jobId={view.job_id}
            circuitId={view.circuit.id}
            segmentId={chosen}
            points={base.points}
            opened={offering}
            onOpen={setOffering}
            onTry={(offer) => setMetal([...metal.filter((each) => each.text !== offer.text), offer])}
          />
        </RoomHeading>
        <MetalBar metal={metal} now={view.device_now} onPutBack={() => setMetal([])} />
        {trial && trial.from !== "ladder" && (
          <TrialBar trial={trial} onKeep={() => void keep()} onPutBack={putBack} />
        )}
        <RouteChart view={view} readings={readings} chosen={chosen} onChoose={choose} />
        <div className="under">
          <Findings
            findings={view.findings}
            onShow={({ segment_ids }) => choose(segment_ids.find((each) => order.includes(each)) ?? chosen)}
            onTry={({ cure }) => cure && setTrial({ ...cure, from: "cure" })}
          />
          {view.circuit.family === "starting" && (
            <ColdStart jobId={view.job_id} circuitId={view.circuit.id} />
          )}
          <p className="caution-line">
            Before touching the wiring: battery off, ground first off and last on; no sparks near it. These
            figures are planning aids; the maker’s data and local regulations come first.
          </p>
        </div>
      </div>
      {sizing ? (
        <RouteSizes view={base} series={series} onTry={setTrial} onClose={putBack} />
      ) : (
        <Inspector
          view={view}
          segmentId={chosen}
          readings={readings}
          series={series}
          trying={trial?.from === "ladder"}
          on={{
            step: tryOut,
            keep: () => void keep(),
            putBack,
            series: setSeries,
            edit: open("edit"),
            insert: open("insert"),
            remove: () => removeSegment(view, segment),
            split: open("split"),
            leadOver: () => setTrial((now) => overFork(view, chosen) ?? now),
            move: (steps) => moveSegment(view, chosen, steps),
            log: open("reading"),
            correct: (reading) => {
              open("reading")();
              setCorrects(reading);
            },
          }}
        />
      )}
      <CircuitDialogs
        {...{ dialog, base, board, segment, chosen, corrects }}
        onClose={(made) => {
          setDialog(null);
          if (made) setWanted(made);
        }}
      />
    </div>
  );
}

/** The segment that loses most. */
function worst(view: CircuitView): string {
  return view.profile.legs.reduce((most, leg) => (leg.drop_v > most.drop_v ? leg : most)).segment_id;
}
