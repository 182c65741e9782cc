/** The test that is asked now: where, what one should read, what the meter says, and on to the next. */
import { Button, TextInput } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import type { AskedTest, Stage } from "../api/queries";
import { type KeyBinding, useKeys } from "../app/keys";
import { Photos } from "../parts/Photos";
import { add } from "../saving/saving";
import type { Write } from "../saving/writes";
import { Answers } from "./Answers";
import { Compared } from "./Compared";
import { Logged } from "./Logged";
import { MeterBox } from "./MeterBox";
import { NumberPad } from "./NumberPad";
import { ProbeStrip } from "./ProbeStrip";
import { about, aboutWiggle, compare, expectedText, numberOf, targetText, unitOf } from "./say";
import type { Meter } from "./useMeter";
import { Wiggled } from "./Wiggled";

type Props = {
  jobId: string;
  test: AskedTest;
  stage: Stage;
  waits: Write | null;
  place: string;
  small: boolean;
  meter: Meter;
  pieces: { shown: boolean; toggle: () => void } | null;
  keys: KeyBinding[];
  onStep: (by: number) => void;
  /** What is done with a reading that is on its way, by its id. */
  onLogged?: (reading: string) => void;
  /** Why there is no answer to this test, where it is left out then. */
  onLeaveOut?: (why: WhyNot) => void;
};

export type WhyNot = Schemas["LeftOutIn"]["why"];
const WHY_NOT: WhyNot[] = ["cannot reach", "not now", "don't know"];

export function AskedPanel(props: Props) {
  const { jobId, test, stage, waits, place, small, meter, pieces, keys, onStep, onLogged, onLeaveOut } =
    props;
  const [typed, setTyped] = useState("");
  const [milli, setMilli] = useState(false);
  const [note, setNote] = useState("");
  const [problem, setProblem] = useState("");
  const box = useRef<HTMLInputElement>(null);
  const page = useRef<HTMLElement>(null);
  const unit = unitOf(test);
  const inWords = unit === "";
  const { isLive } = meter;
  const value = isLive ? meter.value : numberOf(typed, milli);
  const came = test[stage];
  const readingId = (waits?.body?.id as string | undefined) ?? came?.id; // a photo may wait together with its reading

  function send(measurement: { value?: number; outcome?: string }, supersedes: string | null, of: string) {
    setProblem("");
    const id = crypto.randomUUID();
    const body = {
      id,
      measurement: { ...test.measurement, ...measurement },
      circuit_id: test.circuit_id,
      meter: isLive ? meter.name : "",
      note,
      taken_at: new Date().toISOString(),
      supersedes,
    } as Schemas["ReadingValues"];
    const said = measurement.outcome ?? `${measurement.value} ${unit}`;
    add(`log ${test.title}: ${said}`, "/api/jobs/{job_id}/readings", { job_id: jobId }, body, { about: of });
    onLogged?.(id);
  }
  function log(said: { value: number } | { outcome: string }) {
    send(said, came?.id ?? null, about(test, stage));
    setTyped(""); // the last test stays
    setNote("");
    onStep(1);
  }
  /** What is read moves while a piece is moved by hand. */
  function wiggle(segment: string) {
    const moves = { quantity: "wiggle", segment, value: null, outcome: "moves" };
    send(moves as object, null, aboutWiggle(test, stage, segment));
  }
  function logValue() {
    if (isLive && meter.outcome) return log({ outcome: meter.outcome });
    if (value !== null) return log({ value });
    setProblem(
      typed ? `“${typed}” is no number; write figures, as 12.6` : "type what the meter says, or read it",
    );
    box.current?.focus();
  }
  useKeys("Tests", [
    ...keys,
    { keys: "Enter", does: "log it, next", run: () => !inWords && logValue() },
    ...test.words.map(({ word, says }, index) => ({
      keys: inWords ? `${index + 1}` : says.charAt(0),
      does: says,
      run: () => log({ outcome: word }),
    })),
  ]);
  useEffect(() => {
    if (small) page.current?.parentElement?.scrollTo({ top: 0 });
    else box.current?.focus({ preventScroll: true });
  }, [small]);

  const compared = compare(test, value);
  return (
    <section className="asked" aria-label="Asked now" ref={page}>
      <p className="quiet">
        {place}, {test.situation.charAt(0).toLowerCase() + test.situation.slice(1)}
      </p>
      <h2>{test.title}</h2>
      <ProbeStrip test={test} small={small} />
      <div className="reading-row">
        <div className="should">
          <span className="what">you should {inWords ? "find" : "see"}</span>
          <span className="value">{expectedText(test) || "–"}</span>
          {test.expected.why_not && <span className="quiet">{test.expected.why_not}</span>}
          {test.target && (
            <span className="quiet">
              {targetText(test)}, {test.target.source}
            </span>
          )}
        </div>
        {!inWords && <MeterBox {...{ meter, unit, small, typed, setTyped, milli, setMilli, box }} />}
      </div>
      {compared && <Compared word={compared} />}
      {problem && <p className="problem">{problem}</p>}
      {small && !inWords && !isLive && (
        <NumberPad
          unit={unit}
          milli={milli}
          onMilli={() => setMilli(!milli)}
          typed={typed}
          onType={setTyped}
        />
      )}
      <Answers {...{ test, small, meter, pieces }} onSay={(outcome) => log({ outcome })} onLog={logValue} />
      <div className="more">
        {test.place.length === 2 && test.path.length > 0 && (
          <Wiggled test={test} stage={stage} onWiggle={wiggle} />
        )}
        {readingId && <Photos jobId={jobId} of="reading" subjectId={readingId} name={test.title} />}
        {onLeaveOut ? (
          WHY_NOT.map((why) => (
            <Button key={why} variant="default" onClick={() => onLeaveOut(why)}>
              {why}
            </Button>
          ))
        ) : (
          <Button variant="default" onClick={() => onStep(1)}>
            skip
          </Button>
        )}
        {small && (
          <Button variant="default" onClick={() => onStep(-1)}>
            back
          </Button>
        )}
      </div>
      <Logged {...{ test, waits, came }} />
      <TextInput
        label="Note"
        size="sm"
        value={note}
        onChange={(event) => setNote(event.currentTarget.value)}
        className="note"
      />
      <h3>How</h3>
      <p>{test.how}</p>
      {small && (
        <p className="caution-line">{test.caution} The vehicle maker and local regulations come first.</p>
      )}
    </section>
  );
}
