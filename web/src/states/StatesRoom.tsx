/** What is live when, and should it be: the matrix with its whys, the proof, what pulling does, and a drive. */
import { Button, SegmentedControl } from "@mantine/core";
import { useState } from "react";
import { useParams } from "react-router";
import { type Forbidden, type StateRow, type Trial, useBoard, useStage } from "../api/queries";
import { useKeys } from "../app/keys";
import { view as look, STATES, useViewing } from "../app/viewing";
import { clamp } from "../parts/clamp";
import { OnTheMap } from "../parts/OnTheMap";
import { Still } from "../parts/Still";
import { TrialBar } from "../parts/TrialBar";
import { attempt, change } from "../saving/saving";
import { Legend, Matrix, type Place } from "./Matrix";
import { MeantForm } from "./MeantForm";
import { PathStrip } from "./PathStrip";
import { idOf, ProofBox } from "./ProofBox";
import { PulledTable } from "./PulledTable";
import { useDrive, useMatrix, useProof, usePulled, useWhy } from "./queries";
import { Switches } from "./Switches";
import { type Shown, VIEWS } from "./shown";
import { A_DRIVE, TimeLine } from "./TimeLine";
import { NothingChosen, WhyPanel } from "./WhyPanel";

export function StatesRoom() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  if (!board) return <p className="page quiet">Working out what is live …</p>;
  if (!board.moment.is_fed)
    return (
      <p className="page empty">
        Nothing can be live yet: say in the Vehicle room what the battery is and where its posts are.
      </p>
    );
  return <Room key={jobId} jobId={jobId} title={`${board.job.vehicle}: ${board.job.name}`} />;
}

function Room({ jobId, title }: { jobId: string; title: string }) {
  const viewing = useViewing(jobId);
  const stage = useStage(jobId);
  const [shown, setShown] = useState<Shown>("matrix");
  const [at, setAt] = useState<Place | null>(null);
  const [happeningId, setHappening] = useState<string | null>(null);
  const [part, setPart] = useState<string | null>(null);
  const [meant, setMeant] = useState<StateRow | null>(null);
  const [trial, setTrial] = useState<Trial | null>(null);
  const [way, setWay] = useState("");
  const matrix = useMatrix(jobId);
  const proof = useProof(jobId, trial);
  // Of the proof that is shown: at another stage the same may not happen any more.
  const happening = proof.data?.forbidden.find((each) => idOf(each) === happeningId) ?? null;
  const asked = useWhy(jobId, happening ? null : at);
  // What pulling would do is asked for once the path is there: it takes longer than the path.
  const pulled = usePulled(jobId, shown === "pull" || asked.data !== undefined);
  const drive = useDrive(jobId, way, shown === "time");
  const rows = matrix.data?.rows ?? [];
  const why = happening ? happening.why : at ? asked.data : undefined;
  const path = why && why.out.length + why.back.length > 0 ? why : null;
  const chosenRow = rows.find((row) => row.id === (happening?.part ?? at?.part));

  function go(place: Place) {
    setHappening(null);
    setPart(null);
    setAt(place);
  }
  function step(down: number, right: number) {
    setHappening(null);
    setPart(null);
    // From where it is by now: a key may follow before the screen has.
    setAt((now) => {
      const row = rows[now ? clamp(rows.findIndex(({ id }) => id === now.part) + down, rows.length) : 0];
      const state = now ? STATES[clamp(STATES.indexOf(now.state) + right, STATES.length)] : viewing.state;
      return row && state ? { part: row.id, state } : now;
    });
  }
  function showForbidden(forbidden: Forbidden) {
    setShown("matrix");
    setAt({ part: forbidden.part, state: forbidden.state });
    setHappening(idOf(forbidden));
  }
  function goTheWay(forbidden: Forbidden) {
    setWay(forbidden.steps);
    setShown("time");
  }
  function tryOut(cure: Trial) {
    look(jobId, { stage: "planned" });
    setTrial(cure);
  }
  function leave() {
    if (trial) setTrial(null);
    else if (shown !== "matrix") setShown("matrix");
    else {
      setAt(null);
      setHappening(null);
    }
  }
  async function keep() {
    if (!trial) return;
    await attempt(change(jobId, trial.effect, trial.edits, { label: trial.effect }));
    setTrial(null);
  }
  const toggle = (which: Shown) => () => setShown(shown === which ? "matrix" : which);

  useKeys("States", [
    { keys: "ArrowUp", does: "device", run: () => step(-1, 0) },
    { keys: "ArrowDown", does: "device", run: () => step(1, 0) },
    { keys: "ArrowLeft", does: "state", run: () => step(0, -1) },
    { keys: "ArrowRight", does: "state", run: () => step(0, 1) },
    { keys: "Enter", does: "draw its path", run: () => (trial ? void keep() : step(0, 0)) },
    { keys: "m", does: "what is meant", run: () => chosenRow?.runs_in && setMeant(chosenRow) },
    { keys: "p", does: "if pulled", run: toggle("pull") },
    { keys: "t", does: "key sequence", run: toggle("time") },
    { keys: "Escape", does: "back", run: leave },
    { keys: "Mod+p", does: "print", run: () => window.print() },
  ]);

  if (matrix.isError) return <p className="page empty">{matrix.error.message}</p>;
  return (
    <div className="room states">
      <div className="room-main">
        <p className="print-only">
          {title}, as {stage}
        </p>
        <div className="page-head">
          <h1>What is live when</h1>
          <SegmentedControl
            aria-label="View"
            size="xs"
            className="no-print"
            data={VIEWS}
            value={shown}
            onChange={(value) => setShown(value as Shown)}
          />
          <span className="spring" />
          <Button variant="default" size="compact-md" className="no-print" onClick={() => window.print()}>
            Print
          </Button>
        </div>
        {trial && <TrialBar trial={trial} onKeep={() => void keep()} onPutBack={() => setTrial(null)} />}
        <ProofBox
          jobId={jobId}
          proof={proof.data}
          failed={proof.isError ? proof.error.message : undefined}
          chosen={happening}
          onShow={showForbidden}
          onWay={goTheWay}
          onTry={tryOut}
        />
        {shown === "matrix" && (
          <>
            <Matrix
              rows={rows}
              proof={proof.data}
              at={at}
              drawn={path !== null}
              onGo={go}
              onMeant={setMeant}
            />
            <Legend />
            {path && <PathStrip why={path} chosen={part} onChoose={setPart} />}
            {path && <OnTheMap jobId={jobId} parts={[...path.out, ...path.back].map((hop) => hop.id)} />}
          </>
        )}
        {shown === "pull" &&
          (pulled.data ? (
            <PulledTable pulled={pulled.data} set={Object.keys(viewing.inputs).length > 0} />
          ) : (
            <Still jobId={jobId} room="pulled">
              Pulling one part after the other …
            </Still>
          ))}
        {shown === "time" && (
          <TimeLine
            key={way}
            drive={drive.data}
            way={way}
            problem={drive.isError ? drive.error.message : undefined}
            onWay={(text) => setWay(text.trim() || A_DRIVE)}
          />
        )}
      </div>
      <aside className="inspector no-print" aria-label="Why">
        {why ? (
          <WhyPanel
            why={why}
            state={happening?.state ?? at?.state ?? viewing.state}
            row={happening ? undefined : chosenRow}
            pulled={pulled.data}
            onMeant={setMeant}
          />
        ) : (
          <NothingChosen />
        )}
        {!happening && <Switches jobId={jobId} inputs={matrix.data?.inputs ?? []} />}
        <p className="caution-line">
          Something may start to move: stand clear, chock the wheels, battery off before touching metal. The
          maker’s data and local regulations come first.
        </p>
      </aside>
      {meant && <MeantForm jobId={jobId} row={meant} onClose={() => setMeant(null)} />}
    </div>
  );
}
