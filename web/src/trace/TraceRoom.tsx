/** Why not? What is known, suspicion on the metal, the next best tests, and what it is when it is enough. */
import { Button, NativeSelect } from "@mantine/core";
import { useMediaQuery } from "@mantine/hooks";
import { useState } from "react";
import { useParams } from "react-router";
import { type Board, type Stage, type Traced, useBoard, useInstruments, useStage } from "../api/queries";
import { attempt, change as saveChange, useWaiting } from "../api/saving";
import { type KeyBinding, useKeys } from "../app/keys";
import { AskedPanel, type WhyNot } from "../checks/AskedPanel";
import { about } from "../checks/say";
import { useMeter } from "../checks/useMeter";
import { Still } from "../parts/Still";
import { Again, Found, Likely, Next, NothingLeft } from "./Found";
import { SayForm, saysOf } from "./SayForm";
import { SuspectStrip } from "./SuspectStrip";
import { Suspects } from "./Suspects";
import { type Case, type LeftOut, useCase } from "./useCase";
import { useTrace } from "./useTrace";

type Asked = Traced["next"][number]["test"];
const MOST_STRIPS = 4;
const CONCERNED = 0.04; // of suspicion on a route, from which it is drawn

export function TraceRoom() {
  const { jobId = "" } = useParams();
  const stage = useStage(jobId);
  const board = useBoard(jobId).data;
  if (!board) return <p className="page quiet">Looking what could be wrong …</p>;
  if (!board.moment.is_fed)
    return (
      <p className="page empty">
        Nothing can be traced yet: say in the Vehicle room what the battery is and where its posts are.
      </p>
    );
  return <Room key={`${jobId} ${stage}`} board={board} stage={stage} />;
}

function Room({ board, stage }: { board: Board; stage: Stage }) {
  const jobId = board.job.id;
  const { known, isThere, begin, ...change } = useCase(jobId, stage);
  const [saying, setSaying] = useState(false);
  const [chosen, setChosen] = useState<Asked | null>(null);
  const counting = known.readings.filter((each) => !known.doubted.includes(each));
  const { said, mended, suspected, left_out } = known;
  const asked = useTrace(jobId, { stage, said, reading_ids: counting, mended, suspected, left_out });
  const traced = asked.data;
  const next = traced?.next ?? [];
  function beginAnew() {
    begin();
    setChosen(null);
  }
  const choose = (test?: Asked) => test && setChosen(test);
  useKeys("Trace", [
    { keys: "n", does: "what the customer says", run: () => setSaying(isThere) },
    ...[0, 1, 2].map((at) => ({
      keys: `${at + 1}`,
      does: `measure ${at + 1}`,
      run: () => choose(next[at]?.test),
    })),
    { keys: "Escape", does: "back to the suspects", run: () => setChosen(null) },
  ]);
  const back: KeyBinding[] = [{ keys: "Escape", does: "back to the suspects", run: () => setChosen(null) }];
  const again = traced?.again ?? [];
  const isMended = mended.length > 0;
  return (
    <div className="room trace">
      <section className="trace-main">
        <div className="page-head">
          <h1>Trace</h1>
          <span className="quiet">
            {known.said.length === 0
              ? "why not?"
              : known.said.map(({ symptom }) => saysOf(symptom)).join(", ")}
          </span>
          {traced && traced.spent_min > 0 && (
            <span className="quiet mono">{Math.round(traced.spent_min)} min so far</span>
          )}
          <span className="spring" />
          <Button
            variant="default"
            size="compact-md"
            disabled={!isThere}
            onClick={() => setSaying(true)}
            rightSection={<kbd>n</kbd>}
          >
            The customer says …
          </Button>
          <Button variant="default" size="compact-md" onClick={beginAnew}>
            Start again
          </Button>
        </div>
        {asked.isError && <p className="problem">{asked.error.message}</p>}
        <Known traced={isThere ? traced : undefined} known={known} change={change} />
        {chosen ? (
          <Asking
            key={chosen.id}
            {...{ jobId, stage, back }}
            test={chosen}
            onDone={() => setChosen(null)}
            onLogged={change.count}
            onLeaveOut={(why) => change.leaveOut(leftOut(chosen, why))}
          />
        ) : (
          <>
            {traced?.is_as_planned && (
              <p className="verdict pass">
                <span aria-hidden="true">●</span>{" "}
                {isMended
                  ? "What was read since it was mended is as planned."
                  : "The plan itself explains all of this: nothing has to be bad."}
              </p>
            )}
            {traced?.stop && (
              <Found
                stop={traced.stop}
                otherwise={traced.parts[1]}
                onProve={() => choose(traced.stop?.prove ?? undefined)}
                onMended={change.mend}
                onPlan={({ does, edits }) => void attempt(saveChange(jobId, does, edits, { label: does }))}
              />
            )}
            {again.length > 0 && (
              <Again again={again} isMended={isMended} onChoose={(at) => choose(again[at])} />
            )}
            {traced && !traced.fits && (
              <p className="verdict marginal">
                <span aria-hidden="true">▲</span> No fault explains all of this well. Read once more what does
                not fit; else something is not as it is described.
              </p>
            )}
            {traced?.likely && <Likely likely={traced.likely} />}
            {next.length > 0 && <Next next={next} onChoose={(at) => choose(next[at]?.test)} />}
            {traced && !traced.stop && !traced.is_as_planned && next.length + again.length === 0 && (
              <NothingLeft beyond={traced.beyond} />
            )}
            {traced && <Strips board={board} traced={traced} />}
            <p className="caution-line">
              What is not looked at cannot be found: these are chances, not proofs. Prove it before anything
              is replaced; the vehicle maker’s instructions, local codes and a licensed hand come first.
            </p>
          </>
        )}
      </section>
      {traced ? (
        <Suspects traced={traced} suspected={suspected} onSuspect={change.suspect} />
      ) : (
        <aside className="inspector">
          <Still jobId={jobId} room="trace">
            Weighing every fault …
          </Still>
        </aside>
      )}
      {saying && <SayForm board={board} onSay={change.say} onClose={() => setSaying(false)} />}
    </div>
  );
}

type KnownProps = {
  traced: Traced | undefined;
  known: Case;
  change: Omit<ReturnType<typeof useCase>, "known" | "isThere" | "begin">;
};

/** What is known, each of which can be taken back or doubted. */
function Known(props: KnownProps) {
  const { traced, change } = props;
  const { doubted, suspected, left_out } = props.known;
  const beside = traced?.beside.filter(({ reading_id }) => !doubted.includes(reading_id ?? "")) ?? [];
  return (
    <>
      {!traced ? (
        <p className="quiet">Looking what is known …</p>
      ) : traced.known.length + doubted.length + suspected.length + left_out.length === 0 ? (
        <p className="quiet">Nothing is known yet. Begin with what the customer says, or measure.</p>
      ) : (
        <KnownList {...props} traced={traced} />
      )}
      {beside.length > 0 && (
        <NativeSelect
          aria-label="Count a reading of the log"
          size="xs"
          className="count"
          value=""
          data={[
            { value: "", label: "use a logged reading …" },
            ...beside.map(({ says, reading_id }) => ({ value: reading_id ?? "", label: says })),
          ]}
          onChange={(event) => change.count(event.currentTarget.value)}
        />
      )}
    </>
  );
}

function KnownList(props: KnownProps & { traced: Traced }) {
  const { traced, known, change } = props;
  function takeBack({ reading_id, mended, said }: Traced["known"][number]) {
    if (reading_id) change.doubt(reading_id);
    else if (mended) change.unmend(mended);
    else if (said) change.unsay(said);
  }
  return (
    <ul className="known" aria-label="What is known">
      {traced.known.map((each) => (
        <li key={each.reading_id ?? `said ${each.says}`}>
          <span>
            {each.says}
            {each.weighs && <span className={`weighs ${each.side}`}>{each.weighs}</span>}
            {each.doubt && (
              <span className="weighs doubt">
                <span aria-hidden="true">▲</span> {each.doubt}
              </span>
            )}
          </span>
          <button type="button" className="link" onClick={() => takeBack(each)}>
            {each.reading_id ? "doubt it" : "take it back"}
          </button>
        </li>
      ))}
      {traced.left_out.map(({ says, left_out }) => (
        <li key={`left out ${says}`}>
          <span className="quiet">{says}</span>
          <button type="button" className="link" onClick={() => change.takeUp(left_out)}>
            offer it again
          </button>
        </li>
      ))}
      {known.suspected.map((each) => (
        <li key={`suspected ${each}`}>
          <span>{each} is suspected</span>
          <button type="button" className="link" onClick={() => change.unsuspect(each)}>
            take it back
          </button>
        </li>
      ))}
      {known.doubted.map((each) => (
        <li key={each} className="doubted">
          <span>a reading is doubted</span>
          <button type="button" className="link" onClick={() => change.trust(each)}>
            trust it
          </button>
        </li>
      ))}
    </ul>
  );
}

/** The routes that suspicion lies on, the most first. */
function Strips({ board, traced }: { board: Board; traced: Traced }) {
  const suspicion = new Map<string, number>();
  for (const { part, probability } of traced.suspects)
    suspicion.set(part, (suspicion.get(part) ?? 0) + probability);
  const segments = new Map(board.segments.map((each) => [each.id, each]));
  const drawn = new Set<string>();
  const routes = board.lines
    .map(({ circuit }) => ({ circuit, path: [...circuit.supply, ...circuit.return_path] }))
    .map((route) => ({ ...route, whole: sum(route.path, suspicion) }))
    .sort((one, other) => other.whole - one.whole)
    .filter(({ path }) => {
      const fresh = sum(
        path.filter((each) => !drawn.has(each)),
        suspicion,
      );
      for (const each of path) drawn.add(each);
      return fresh >= CONCERNED;
    })
    .slice(0, MOST_STRIPS);
  const shown = new Set(routes.flatMap(({ path }) => path));
  const beside = board.segments.filter(({ id }) => !shown.has(id) && (suspicion.get(id) ?? 0) >= CONCERNED);
  return (
    <>
      {routes.map(({ circuit, path }) => (
        <SuspectStrip
          key={circuit.id}
          title={circuit.name}
          board={board}
          pieces={path.flatMap((each) => segments.get(each) ?? [])}
          suspicion={suspicion}
        />
      ))}
      {beside.length > 0 && (
        <SuspectStrip
          title={routes.length > 0 ? "Beside these routes" : "On no circuit's own route"}
          board={board}
          pieces={beside}
          suspicion={suspicion}
        />
      )}
    </>
  );
}

const sum = (path: string[], suspicion: Map<string, number>) =>
  path.reduce((whole, each) => whole + (suspicion.get(each) ?? 0), 0);

type AskingProps = {
  jobId: string;
  test: Asked;
  stage: Stage;
  back: KeyBinding[];
  onDone: () => void;
  onLogged: (reading: string) => void;
  onLeaveOut: (why: WhyNot) => void;
};

/** A test without an answer, as the case keeps it. */
const leftOut = ({ measurement, reach_min }: Asked, why: WhyNot): LeftOut => ({
  measurement,
  why,
  reach_min,
});

/** The chosen test, asked as in the Tests room. */
function Asking({ jobId, test, stage, back, onDone, onLogged, onLeaveOut }: AskingProps) {
  const small = useMediaQuery("(max-width: 700px)", undefined, { getInitialValueInEffect: false }) ?? false;
  const meter = useMeter(jobId, test, useInstruments().data ?? []);
  const waits = useWaiting().get(about(test, stage)) ?? null;
  return (
    <AskedPanel
      {...{ jobId, test, stage, waits, small, meter, onLogged }}
      place="The next best test"
      pieces={null}
      keys={[...back, { keys: "m", does: "read the meter", run: meter.toggle }]}
      onStep={onDone}
      onLeaveOut={(why) => {
        onLeaveOut(why);
        onDone();
      }}
    />
  );
}
