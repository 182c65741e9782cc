/** One circuit: its route and profile, the inspector of the chosen segment, its findings and its readings. */
import { Button, Menu, SegmentedControl, Text } from "@mantine/core";
import { useElementSize } from "@mantine/hooks";
import { type Dispatch, type SetStateAction, useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import {
  type CircuitView,
  type Difference,
  type Reading,
  type Rung,
  type Series,
  type Trial,
  useBoard,
  useCircuit,
  useReadings,
  useStage,
  useWhatIf,
} from "../api/queries";
import { remark, save } from "../api/saving";
import { useKeys } from "../app/keys";
import { type Basis, view as look, useViewing } from "../app/viewing";
import { FAMILY_NAME, STATE_LABEL } from "../parts/families";
import { amps, changedDrops, volts } from "../parts/format";
import { Verdict } from "../parts/Verdict";
import { CircuitForm } from "./CircuitForm";
import { ExtendForm } from "./ExtendForm";
import { Findings } from "./Findings";
import { FORK_HEIGHT, ForkLines } from "./ForkLines";
import { layOut } from "./geometry";
import { Inspector } from "./Inspector";
import { PointsPanel } from "./PointsPanel";
import { PotentialProfile } from "./PotentialProfile";
import { ReadingForm } from "./ReadingForm";
import { RouteStrip, STRIP_HEIGHT, TRACK_Y } from "./RouteStrip";
import { SegmentForm } from "./SegmentForm";

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
  const saved = useCircuit(jobId, circuitId, series);
  const tried = useWhatIf(jobId, circuitId, trial, series);
  const stage = useStage(jobId);
  const readings = (useReadings(jobId).data ?? []).filter(
    (reading) => reading.circuit_id === circuitId && reading.stage === stage,
  );
  const base = saved.data;
  const view = trial && tried.data?.circuit.id === circuitId ? tried.data : base;
  if (saved.isError && saved.error.message) return <p className="page empty">{saved.error.message}</p>;
  if (!base || !view) return <Text className="page quiet">Computing the circuit …</Text>;
  return <Room key={circuitId} {...{ base, view, readings, series, setSeries, trial, setTrial }} />;
}

type RoomProps = {
  base: CircuitView;
  view: CircuitView;
  readings: Reading[];
  series: Series | null;
  setSeries: (series: Series) => void;
  trial: Trial | null;
  setTrial: Dispatch<SetStateAction<Trial | null>>;
};
type Dialog = "reading" | "insert" | "edit" | "circuit" | "points" | "extend" | null;

function Room({ base, view, readings, series, setSeries, trial, setTrial }: RoomProps) {
  const navigate = useNavigate();
  const board = useBoard(view.job_id).data;
  const [wanted, setWanted] = useState<string | null>(null);
  const [dialog, setDialog] = useState<Dialog>(null);
  const [corrects, setCorrects] = useState<Reading | null>(null);
  const order = [...view.segments, ...view.beside].map((segment) => segment.id);
  const chosen = wanted && order.includes(wanted) ? wanted : worst(view);
  const segment = [...base.segments, ...base.beside].find((each) => each.id === chosen);
  const ladder = view.ladders.find((each) => each.segment_id === chosen);

  function choose(id: string) {
    setTrial(null);
    setWanted(id);
  }
  const along = (steps: number) =>
    choose(order[clamp(order.indexOf(chosen) + steps, order.length)] ?? chosen);
  const attempt = (rung: Rung) => {
    setWanted(chosen);
    setTrial({ [chosen]: rung.change });
  };
  function stepLadder(steps: number) {
    if (!ladder) return;
    const at = ladder.rungs.findIndex((rung) => rung.present);
    // A present size of the other series stands on no rung: start from the recommended one.
    const from = at >= 0 ? at + steps : ladder.rungs.findIndex((rung) => rung.recommended);
    const rung = ladder.rungs[clamp(from, ladder.rungs.length)];
    if (rung) attempt(rung);
  }
  async function keep() {
    const [change] = Object.entries(trial ?? {});
    if (!change) return;
    const [row, spec] = change;
    const kept = base.segments.find((each) => each.id === row);
    if (!kept) return;
    const what = `change ${kept.designation}`;
    await attemptWrite(
      save({
        what,
        method: "PATCH",
        path: `/api/segments/${row}`,
        row,
        version: kept.version,
        body: { spec },
      }),
    );
    setTrial((now) => (now === trial ? null : now)); // another size may be tried by now
  }
  const move = (steps: 1 | -1) =>
    attemptWrite(
      save({
        what: `move ${segment?.designation}`,
        method: "POST",
        path: `/api/circuits/${view.circuit.id}/move`,
        body: { segment: chosen, steps },
      }),
    );
  const remove = () => {
    if (!segment) return;
    const what = `delete ${segment.designation}`;
    void attemptWrite(
      save({
        what,
        method: "DELETE",
        path: `/api/segments/${segment.id}`,
        row: segment.id,
        version: segment.version,
      }),
    );
  };
  function openAnother(steps: number) {
    const circuits = board?.lines.map((line) => line.circuit.id) ?? [];
    const other = circuits[clamp(circuits.indexOf(view.circuit.id) + steps, circuits.length)];
    if (other) navigate(`/jobs/${view.job_id}/circuits/${other}`);
  }
  const otherBasis = () =>
    look(view.job_id, { basis: view.basis === "design" && !view.why_not ? "state" : "design" });
  async function removeCircuit() {
    const { id: row, version, name } = base.circuit;
    await attemptWrite(
      save({ what: `delete ${name}`, method: "DELETE", path: `/api/circuits/${row}`, row, version }),
      () => navigate(`/jobs/${view.job_id}`),
    );
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
    { keys: "Escape", does: "put back", run: () => setTrial(null) },
    { keys: "r", does: "reading", run: open("reading") },
    { keys: "n", does: "new segment", run: open("insert") },
    { keys: "e", does: "edit the segment", run: open("edit") },
    { keys: "Delete", does: "delete the segment", run: remove },
    { keys: "Alt+ArrowLeft", does: "move it towards the source", run: () => void move(-1) },
    { keys: "Alt+ArrowRight", does: "move it away from the source", run: () => void move(1) },
    { keys: "x", does: "lead the route on", run: open("extend") },
    { keys: "c", does: "change the circuit", run: open("circuit") },
    { keys: "p", does: "points", run: open("points") },
    { keys: "d", does: "in this state or at design current", run: otherBasis },
    { keys: "[", does: "previous circuit", run: () => openAnother(-1) },
    { keys: "]", does: "next circuit", run: () => openAnother(1) },
  ]);

  return (
    <div className="room">
      <div className="room-main">
        <Heading view={view} board={board} onDialog={open} onDelete={() => void removeCircuit()} />
        <Chart view={view} readings={readings} chosen={chosen} onChoose={choose} />
        <div className="under">
          <Findings
            findings={view.findings}
            onShow={({ segment_ids }) => choose(segment_ids.find((each) => order.includes(each)) ?? chosen)}
            onTry={({ cure }) => {
              if (!cure) return;
              setWanted(cure.segment_id);
              setTrial({ [cure.segment_id]: cure.change });
            }}
          />
          <p className="caution-line">
            Before touching the metal: battery off, ground first off and last on; no sparks near it. These
            figures are planning aids; the maker’s data and local codes come first.
          </p>
        </div>
      </div>
      <Inspector
        view={view}
        segmentId={chosen}
        readings={readings}
        series={series}
        trying={trial !== null}
        on={{
          step: attempt,
          keep: () => void keep(),
          putBack: () => setTrial(null),
          series: setSeries,
          edit: open("edit"),
          insert: open("insert"),
          remove,
          move: (steps) => void move(steps),
          log: open("reading"),
          correct: (reading) => {
            open("reading")();
            setCorrects(reading);
          },
        }}
      />
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

/** Wait for a change without a form; what stands in its way is said in the status line. */
async function attemptWrite(change: Promise<unknown>, done?: () => void) {
  try {
    await change;
    done?.();
  } catch (error) {
    remark(error instanceof Error ? error.message : String(error));
  }
}

type HeadingProps = {
  view: CircuitView;
  board: ReturnType<typeof useBoard>["data"];
  onDialog: (which: Dialog) => () => void;
  onDelete: () => void;
};

function Heading({ view, board, onDialog, onDelete }: HeadingProps) {
  const { circuit, profile } = view;
  const { state, basis } = useViewing(view.job_id);
  const at = board?.lines.findIndex((line) => line.circuit.id === circuit.id) ?? -1;
  return (
    <div className="room-head">
      <div>
        <p className="quiet">
          {at >= 0 && `${at + 1} of ${board?.lines.length}, `}
          {FAMILY_NAME[circuit.family].toLowerCase()}
        </p>
        <h1>{circuit.name}</h1>
        {view.difference && <Before difference={view.difference} />}
        {view.why_not && board?.moment.is_fed && (
          <p className="quiet why-not">○ {view.why_not}; shown at its design current</p>
        )}
      </div>
      <Menu position="bottom-start">
        <Menu.Target>
          <Button variant="default" size="compact-md">
            Route ▾
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={onDialog("circuit")}>Change the circuit</Menu.Item>
          <Menu.Item onClick={onDialog("insert")}>Insert a segment</Menu.Item>
          <Menu.Item onClick={onDialog("extend")}>Lead the route on</Menu.Item>
          <Menu.Item onClick={onDialog("points")}>Points</Menu.Item>
          <Menu.Divider />
          <Menu.Item onClick={onDelete}>Delete the circuit</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      {board?.moment.is_fed && (
        <SegmentedControl
          aria-label="Shown"
          size="xs"
          data={[
            { value: "state", label: STATE_LABEL[state] },
            { value: "design", label: `at ${amps(circuit.design_current_a)}` },
          ]}
          value={basis}
          onChange={(value) => look(view.job_id, { basis: value as Basis })}
        />
      )}
      <span className="spring" />
      {view.supply_stations.length > 0 && (
        <div className="headline">
          <span className="quiet">at the device, from {volts(profile.source_v)} V</span>
          <span className="hero">
            {volts(profile.device_v)}
            <small>V</small>
          </span>
        </div>
      )}
      <div className="headline">
        <span className="quiet" title={profile.verdict.reason}>
          lost, of {volts(profile.allowed_drop_v)} allowed
        </span>
        <span className="hero">
          {volts(profile.total_drop_v)}
          <small>V</small>
          <Verdict word={profile.verdict.word} />
        </span>
      </div>
    </div>
  );
}

/** What the circuit loses as found and as planned, where the work changes it. */
function Before({ difference }: { difference: Difference }) {
  const drops = changedDrops(difference);
  return (
    drops && (
      <p className="quiet">
        as found {drops.found} V lost, as planned {drops.planned} V
      </p>
    )
  );
}

type ChartProps = { view: CircuitView; readings: Reading[]; chosen: string; onChoose: (id: string) => void };

function Chart({ view, readings, chosen, onChoose }: ChartProps) {
  const { ref, width, height } = useElementSize();
  const geometry = layOut(view, width);
  const strip = STRIP_HEIGHT + view.profile.forks.length * FORK_HEIGHT;
  const tall = Math.max(height, strip + 172);
  const piece = geometry.pieces.find((each) => each.segment.id === chosen);
  return (
    <section
      className="chart"
      ref={ref}
      tabIndex={geometry.width > width ? 0 : undefined}
      aria-label="Route and profile"
    >
      {width > 0 && (
        <svg width={geometry.width} height={tall}>
          <title>Route and potential profile</title>
          <PotentialProfile
            view={view}
            geometry={geometry}
            readings={readings}
            top={strip + 14}
            height={tall - strip - 20}
          />
          {piece && (
            <rect
              x={piece.from}
              y={30}
              width={piece.to - piece.from}
              height={tall - 36}
              className="chosen-band"
            />
          )}
          <ForkLines
            view={view}
            geometry={geometry}
            trackY={TRACK_Y}
            top={STRIP_HEIGHT}
            chosen={chosen}
            onChoose={onChoose}
          />
          <RouteStrip view={view} geometry={geometry} chosen={chosen} onChoose={onChoose} />
        </svg>
      )}
    </section>
  );
}
