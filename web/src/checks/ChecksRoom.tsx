/** Does the metal agree? Tests in working order, what one should read, what was read, before and after. */
import { Button, NativeSelect } from "@mantine/core";
import { useMediaQuery } from "@mantine/hooks";
import { useState } from "react";
import { useParams } from "react-router";
import { type AskedTest, useBoard, useStage } from "../api/queries";
import type { KeyBinding } from "../app/keys";
import { FilePick } from "../parts/FilePick";
import { OnTheMap } from "../parts/OnTheMap";
import { Still } from "../parts/Still";
import { useWaiting } from "../saving/store";
import { AskedPanel } from "./AskedPanel";
import { BeforeAfter } from "./BeforeAfter";
import { CheckList } from "./CheckList";
import { CheckSheet } from "./CheckSheet";
import { ONLY, type Only } from "./filters";
import { ImportMeasurements } from "./ImportMeasurements";
import { useChecks, useInstruments } from "./queries";
import { about, lookOf, partsOf } from "./say";
import { useMeter } from "./useMeter";
import { Waits } from "./Waits";

export function ChecksRoom() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  if (!board) return <p className="page quiet">Looking what is to be measured …</p>;
  if (!board.moment.is_fed)
    return (
      <p className="page empty">
        Nothing can be measured yet: say in the Vehicle room what the battery is and where its posts are.
      </p>
    );
  const circuits = board.lines.map(({ circuit }) => ({ value: circuit.id, label: circuit.name }));
  const title = `${board.job.vehicle}: ${board.job.name}`;
  return <Room key={jobId} jobId={jobId} title={title} circuits={circuits} />;
}

type RoomProps = { jobId: string; title: string; circuits: { value: string; label: string }[] };

function Room({ jobId, title, circuits }: RoomProps) {
  const stage = useStage(jobId);
  const [circuit, setCircuit] = useState("");
  const [chosen, setChosen] = useState<string | null>(null);
  const [pieces, setPieces] = useState(false);
  const [only, setOnly] = useState<Only>("all");
  const [file, setFile] = useState<File | null>(null);
  const small = useMediaQuery("(max-width: 700px)", undefined, { getInitialValueInEffect: false }) ?? false;
  const asked = useChecks(jobId, circuit || null);
  const all = asked.data?.tests ?? [];
  const here = all.find((test) => test.id === chosen);
  const whole = here?.only_if ?? here?.id;
  const asking = all.filter(({ only_if }) => only_if === null || (pieces && only_if === whole));
  const waiting = useWaiting();
  const isDone = (each: AskedTest) => each[stage] !== null || waiting.has(about(each, stage));
  const isOver = (each: AskedTest) => ["fail", "marginal"].includes(lookOf(each[stage])?.look ?? "");
  const shown = asking.filter(
    (each) => only === "all" || each.id === chosen || (only === "open" ? !isDone(each) : isOver(each)),
  );
  const test = shown.find(({ id }) => id === chosen) ?? shown.find((each) => !isDone(each)) ?? shown[0];
  // What is asked stays while one types, whatever arrives meanwhile.
  if (chosen === null && test && !asked.isPlaceholderData) setChosen(test.id);
  const meter = useMeter(jobId, test, useInstruments().data ?? []);

  const at = test ? shown.indexOf(test) : -1;
  function step(by: number) {
    const next = shown[Math.min(Math.max(at + by, 0), shown.length - 1)];
    if (next) setChosen(next.id);
  }
  const keys: KeyBinding[] = [
    { keys: "ArrowUp", does: "test before", run: () => step(-1) },
    { keys: "ArrowDown", does: "next test", run: () => step(1) },
    { keys: "m", does: "read the meter", run: meter.toggle },
    { keys: "p", does: "piece by piece", run: () => setPieces(!pieces) },
    { keys: "Mod+p", does: "print", run: () => window.print() },
  ];

  if (asked.isError) return <p className="page empty">{asked.error.message}</p>;
  if (!asked.data)
    return (
      <Still jobId={jobId} room="tests" className="page">
        Working out what one should read …
      </Still>
    );
  const done = asking.filter(isDone).length;
  const has = (one: AskedTest) => all.some(({ only_if }) => only_if === (one.only_if ?? one.id));
  const over = asking.filter((each) => lookOf(each[stage])?.look === "fail").length;
  const subject = only === "all" ? "Test sheet" : (ONLY.find(({ value }) => value === only)?.label ?? "");
  return (
    <div className="room tests">
      <section className="test-list-side" aria-label="Tests">
        <div className="page-head">
          <h1>Tests</h1>
          <span className="quiet">
            {done} of {asking.length} done, {Math.round(asked.data.minutes_left)} min left
            {over > 0 && `, ${over} over`}
          </span>
          {small && <Waits />}
        </div>
        <div className="which">
          <NativeSelect
            aria-label="Circuit"
            size="sm"
            value={circuit}
            data={[{ value: "", label: "The whole vehicle" }, ...circuits]}
            onChange={(event) => {
              setCircuit(event.currentTarget.value);
              setChosen(null);
            }}
          />
          <NativeSelect
            aria-label="Which tests"
            size="sm"
            value={only}
            data={ONLY}
            onChange={(event) => {
              setOnly(event.currentTarget.value as Only);
              setChosen(null);
            }}
          />
        </div>
        {!small && (
          <CheckList
            tests={shown}
            waiting={waiting}
            chosen={test?.id ?? null}
            stage={stage}
            onChoose={setChosen}
          />
        )}
      </section>
      {test ? (
        <AskedPanel
          key={test.id}
          jobId={jobId}
          test={test}
          stage={stage}
          waits={waiting.get(about(test, stage)) ?? null}
          place={`${at + 1} of ${shown.length}`}
          small={small}
          meter={meter}
          pieces={has(test) ? { shown: pieces, toggle: () => setPieces(!pieces) } : null}
          keys={keys}
          onStep={step}
        />
      ) : (
        <p className="page empty">
          {asking.length > 0
            ? `None of ${asking.length} tests is ${only === "over" ? "otherwise than expected" : only}.`
            : "No tests yet: add a route, and its tests appear here."}
        </p>
      )}
      {!small && test && (
        <aside className="inspector" aria-label="Before and after">
          <BeforeAfter tests={all} test={test} />
          <OnTheMap jobId={jobId} parts={partsOf(test)} />
          <h3>Instrument</h3>
          {meter.names.length === 0 ? (
            <p className="quiet">
              None is named here: type what your meter says. Whoever runs Percorso can name meters of the
              shop’s network.
            </p>
          ) : (
            <NativeSelect
              aria-label="Instrument"
              size="sm"
              value={meter.name}
              data={meter.names}
              onChange={(event) => meter.choose(event.currentTarget.value)}
            />
          )}
          {meter.problem && <p className="problem">{meter.problem}</p>}
          {meter.isLive && <p className="quiet">{meter.identity || "connecting …"}</p>}
          <p className="caution-line">
            {test.caution} The vehicle maker’s own instructions, local regulations and a qualified electrician
            come first.
          </p>
          <div className="actions no-print">
            <Button variant="default" size="compact-md" onClick={() => window.print()}>
              Print
            </Button>
            <Button
              variant="default"
              size="compact-md"
              component="a"
              href={`/api/jobs/${jobId}/measurements.csv`}
              download
            >
              CSV out
            </Button>
            <FilePick accept=".csv,text/csv" onPick={setFile}>
              CSV in
            </FilePick>
          </div>
        </aside>
      )}
      <CheckSheet tests={shown} title={`${title}. ${subject.charAt(0).toUpperCase()}${subject.slice(1)}`} />
      {file && <ImportMeasurements jobId={jobId} file={file} onClose={() => setFile(null)} />}
    </div>
  );
}
