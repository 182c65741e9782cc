/** One circuit: its route and profile, the inspector of the chosen segment, its findings and its readings. */
import { Text } from "@mantine/core";
import { type Dispatch, type SetStateAction, useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import {
  type CircuitView,
  type Offer,
  type Reading,
  type Rung,
  type Series,
  type Trial,
  useBoard,
  useCircuit,
  useReadings,
  useWhatIf,
} from "../api/queries";
import { attempt, change, type Edit } from "../api/saving";
import { useKeys } from "../app/keys";
import { view as look } from "../app/viewing";
import { Findings } from "../parts/Findings";
import { TrialBar } from "../parts/TrialBar";
import { CircuitForm } from "./CircuitForm";
import { ColdStart } from "./ColdStart";
import { ExtendForm } from "./ExtendForm";
import { Inspector } from "./Inspector";
import { MetalBar, MetalMenu } from "./Metal";
import { PointsPanel } from "./PointsPanel";
import { ReadingForm } from "./ReadingForm";
import { RoomHeading } from "./RoomHeading";
import { RouteChart } from "./RouteChart";
import { RouteSizes } from "./RouteSizes";
import { SegmentForm } from "./SegmentForm";
import { SplitForm } from "./SplitForm";

/** The first circuit of a job, where the address names none. */
export function FirstCircuit() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  if (!board) return null;
  const first = board.lines[0]?.circuit.id;
  return <Navigate to={first ? `/jobs/${jobId}/circuits/${first}` : `/jobs/${jobId}`} replace />;
}

export function CircuitRoom() {
  const { jobId = "", circuitId = "" } = useParams();
  const [series, setSeries] = useState<Series | null>(null);
  const [trial, setTrial] = useState<Trial | null>(null);
  const [metal, setMetal] = useState<Offer[]>([]);
  const saved = useCircuit(jobId, circuitId, series, metal);
  const tried = useWhatIf(jobId, circuitId, trial, series, metal);
  const readings = (useReadings(jobId).data ?? []).filter(
    ({ circuit_id, net }) => circuit_id === circuitId && net !== null,
  );
  const base = saved.data;
  const view = trial && tried.data?.circuit.id === circuitId ? tried.data : base;
  if (saved.isError && saved.error.message) return <p className="page empty">{saved.error.message}</p>;
  if (!base || !view) return <Text className="page quiet">Computing the circuit …</Text>;
  return (
    <Room
      key={circuitId}
      {...{ base, view, readings, series, setSeries, trial, setTrial, metal, setMetal }}
    />
  );
}

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
export type Dialog = "reading" | "insert" | "edit" | "split" | "circuit" | "points" | "extend" | null;

function Room({ base, view, readings, series, setSeries, trial, setTrial, metal, setMetal }: RoomProps) {
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
    const edit = { do: "change segment" as const, segment_id: chosen, change: rung.change };
    setTrial({ edits: [edit], effect: `change ${segment?.designation}`, from: "ladder" });
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
    if (!ladder) return;
    const at = ladder.rungs.findIndex((rung) => rung.present);
    // A present size of the other series stands on no rung: start from the recommended one.
    const from = at >= 0 ? at + steps : ladder.rungs.findIndex((rung) => rung.recommended);
    const rung = ladder.rungs[clamp(from, ladder.rungs.length)];
    if (rung) tryOut(rung);
  }
  async function keep() {
    if (!trial) return;
    const touched = trial.edits.map((edit) => ("segment_id" in edit ? edit.segment_id : ""));
    const seen = [...base.segments, ...base.beside].filter((each) => touched.includes(each.id));
    const of = trial.from === "ladder" ? { seen } : { seen, label: trial.effect };
    await attempt(change(view.job_id, trial.effect, trial.edits, of));
    // Another size may be tried by now, or the whole route.
    setTrial((now) => (now === trial ? null : now));
    if (trial.from === "sizes") setSizing(false);
  }
  const move = (steps: 1 | -1) => {
    const edit = { circuit_id: view.circuit.id, segment_id: chosen, steps };
    void attempt(change(view.job_id, `move ${segment?.designation}`, [{ do: "move segment", ...edit }]));
  };
  const remove = () => {
    if (!segment) return;
    const edit: Edit = { do: "remove segment", segment_id: segment.id };
    void attempt(change(view.job_id, `delete ${segment.designation}`, [edit], { seen: [segment] }));
  };
  /** Try the route over the fork the chosen piece lies in. */
  function leadOver() {
    const fork = view.profile.forks.find((each) => each.segment_ids.includes(chosen));
    if (!fork) return;
    const edit = {
      do: "lead over" as const,
      circuit_id: view.circuit.id,
      segment_ids: fork.segment_ids as [string, ...string[]],
    };
    setTrial({
      edits: [edit],
      effect: `lead ${view.circuit.name} over ${segment?.designation}`,
      from: "cure",
    });
  }
  function openAnother(steps: number) {
    const circuits = board?.lines.map((line) => line.circuit.id) ?? [];
    const other = circuits[clamp(circuits.indexOf(view.circuit.id) + steps, circuits.length)];
    if (other) navigate(`/jobs/${view.job_id}/circuits/${other}`);
  }
  const otherBasis = () =>
    look(view.job_id, { basis: view.basis === "design" && !view.why_not ? "state" : "design" });
  async function removeCircuit() {
    const { circuit } = base;
    const edit: Edit = { do: "remove circuit", circuit_id: circuit.id };
    const gone = await attempt(change(view.job_id, `delete ${circuit.name}`, [edit], { seen: [circuit] }));
    if (gone) navigate(`/jobs/${view.job_id}`);
  }
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
    { keys: "Delete", does: "delete the segment", run: remove },
    { keys: "Alt+ArrowLeft", does: "move it towards the source", run: () => move(-1) },
    { keys: "Alt+ArrowRight", does: "move it away from the source", run: () => move(1) },
    { keys: "x", does: "lead the route on", run: open("extend") },
    { keys: "c", does: "change the circuit", run: open("circuit") },
    { keys: "p", does: "points", run: open("points") },
    { keys: "m", does: "try on the metal", run: () => setOffering(true) },
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
          onDelete={() => void removeCircuit()}
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
            Before touching the metal: battery off, ground first off and last on; no sparks near it. These
            figures are planning aids; the maker’s data and local codes come first.
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
            remove,
            split: open("split"),
            leadOver,
            move,
            log: open("reading"),
            correct: (reading) => {
              open("reading")();
              setCorrects(reading);
            },
          }}
        />
      )}
      {dialog === "reading" && (
        <ReadingForm view={base} segmentId={chosen} corrects={corrects} onClose={() => setDialog(null)} />
      )}
      {(dialog === "insert" || dialog === "edit") && segment && (
        <SegmentForm
          jobId={view.job_id}
          task={
            dialog === "edit"
              ? { way: "edit", segment }
              : { way: "insert", beside: segment, circuitId: view.circuit.id }
          }
          onClose={(made) => {
            setDialog(null);
            if (made) setWanted(made);
          }}
        />
      )}
      {dialog === "split" && segment && (
        <SplitForm jobId={view.job_id} segment={segment} onClose={() => setDialog(null)} />
      )}
      {dialog === "circuit" && board && (
        <CircuitForm board={board} view={base} onClose={() => setDialog(null)} />
      )}
      {dialog === "points" && (
        <PointsPanel jobId={view.job_id} points={base.points} onClose={() => setDialog(null)} />
      )}
      {dialog === "extend" && <ExtendForm view={base} onClose={() => setDialog(null)} />}
    </div>
  );
}

const clamp = (index: number, count: number) => Math.min(Math.max(index, 0), count - 1);

/** The segment that loses most. */
function worst(view: CircuitView): string {
  return view.profile.legs.reduce((most, leg) => (leg.drop_v > most.drop_v ? leg : most)).segment_id;
}
