/** The test that is asked now: where, what one should read, what the meter says, and on to the next. */
import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import type { AskedTest, Stage } from "../api/queries";
import { add, useWaiting } from "../api/saving";
import type { Write } from "../api/writes";
import { type KeyBinding, useKeys } from "../app/keys";
import { Photos } from "../parts/Photos";
import { NumberPad } from "./NumberPad";
import { ProbeStrip } from "./ProbeStrip";
import {
  about,
  aboutWiggle,
  cameText,
  compare,
  expectedText,
  lookOf,
  numberOf,
  targetText,
  unitOf,
  unitSpoken,
  waitingText,
} from "./say";
import type { Meter } from "./useMeter";

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
  const logged = came && lookOf(came);
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
        {!inWords && (
          <div className="says">
            <label className="what" htmlFor="meter-says">
              {isLive ? `${meter.name} shows` : "the meter says"}
            </label>
            <span className="meter-box">
              <input
                id="meter-says"
                ref={box}
                className="hero"
                inputMode={small ? "none" : "decimal"}
                autoComplete="off"
                readOnly={isLive}
                value={isLive ? liveText(meter) : typed}
                onChange={(event) => setTyped(event.currentTarget.value)}
                data-figures=""
              />
              <button
                type="button"
                className={small ? "unit spoken" : "unit"}
                aria-label={`unit, ${unitSpoken(unit, milli && !isLive)}`}
                onClick={() => setMilli(!milli)}
              >
                {small ? unitSpoken(unit, milli && !isLive) : `${milli && !isLive ? "m" : ""}${unit}`}
              </button>
            </span>
          </div>
        )}
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
      {inWords ? (
        <div className="words">
          {test.words.map(({ word, says }, index) => (
            <Button
              key={word}
              variant={test.expected.outcome === word ? "filled" : "default"}
              onClick={() => log({ outcome: word })}
            >
              {says}
              {!small && <kbd>{index + 1}</kbd>}
            </Button>
          ))}
        </div>
      ) : (
        <div className="actions">
          <Button className="log" onClick={logValue}>
            Log it, next
          </Button>
          {test.words.map(({ word, says }) => (
            <Button key={word} variant="default" onClick={() => log({ outcome: word })}>
              {says}
            </Button>
          ))}
          {meter.canRead && (
            <Button variant="default" onClick={meter.toggle} aria-pressed={isLive}>
              {isLive ? "Stop reading" : `Read ${small ? "the meter" : meter.name}`}
            </Button>
          )}
          {pieces && (
            <Button variant="default" onClick={pieces.toggle} aria-pressed={pieces.shown}>
              Piece by piece
            </Button>
          )}
        </div>
      )}
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
      {waits && (
        <p className="logged waits">▲ {waitingText(test, waits)} waits until the server can be reached.</p>
      )}
      {!waits && logged && came && (
        <p className="logged">
          <span className={`verdict ${logged.look}`}>
            <span aria-hidden="true">{logged.shape}</span> {logged.word}
          </span>
          : logged {cameText(test, came)}, {came.taken_by}. {said(came)}
        </p>
      )}
      <TextInput
        label="Note"
        size="sm"
        value={note}
        onChange={(event) => setNote(event.currentTarget.value)}
        className="note"
      />
      <h3>How</h3>
      <p>{test.how}</p>
      {small && <p className="caution-line">{test.caution} The vehicle maker and local codes come first.</p>}
    </section>
  );
}

/** With which pieces the reading moves, and one more of them. */
function Wiggled({
  test,
  stage,
  onWiggle,
}: {
  test: AskedTest;
  stage: Stage;
  onWiggle: (segment: string) => void;
}) {
  const waiting = useWaiting();
  const moves = test.path.filter(
    ({ id }) => test.moves_with.includes(id) || waiting.has(aboutWiggle(test, stage, id)),
  );
  const still = test.path.filter((each) => !moves.includes(each));
  return (
    <>
      <NativeSelect
        aria-label="It moves when I wiggle"
        value=""
        data={[
          { value: "", label: "it moves when I wiggle …" },
          ...still.map(({ id, designation }) => ({ value: id, label: designation })),
        ]}
        onChange={(event) => event.currentTarget.value && onWiggle(event.currentTarget.value)}
      />
      {moves.length > 0 && (
        <span className="verdict marginal">
          <span aria-hidden="true">▲</span> moves with{" "}
          {moves.map(({ designation }) => designation).join(", ")}
        </span>
      )}
    </>
  );
}

const liveText = ({ value, outcome }: Meter) =>
  value === null ? (outcome ?? "…") : value.toFixed(Math.abs(value) < 6 ? 3 : 2).replace("-", "−");

function Compared({ word }: { word: "as expected" | "higher" | "lower" }) {
  const fits = word === "as expected";
  return (
    <p className={`verdict ${fits ? "pass" : "marginal"} compared`}>
      <span aria-hidden="true">{fits ? "●" : "▲"}</span> {fits ? word : `${word} than on a good circuit`}
    </p>
  );
}

/** What the server says of a logged reading besides its word. */
function said({ judged }: NonNullable<AskedTest["planned"]>): string {
  const { drop, outcome, why_not } = judged;
  const whole = drop ? `with it the circuit ${drop.verdict.reason.replace(/^only/, "has only")}` : "";
  const target = !drop && !why_not ? (outcome.verdict?.reason ?? "") : "";
  const sentences = [whole, target, outcome.proves_nothing ?? "", why_not ?? ""].filter(Boolean);
  return sentences.map((text) => `${text.charAt(0).toUpperCase()}${text.slice(1)}.`).join(" ");
}
