/** Why not? What is known, suspicion on the metal, the next best tests, and what it is when it is enough. */
import { Button } from "@mantine/core";
import { useState } from "react";
import { useParams } from "react-router";
import { type Board, type Stage, useBoard, useStage } from "../api/queries";
import { type KeyBinding, useKeys } from "../app/keys";
import { Still } from "../parts/Still";
import { attempt, change as saveChange } from "../saving/saving";
import { type Asked, Asking, leftOut } from "./Asking";
import { Again, Found, Likely, Next, NothingLeft } from "./Found";
import { Known } from "./Known";
import { SayForm, saysOf } from "./SayForm";
import { Strips } from "./Strips";
import { Suspects } from "./Suspects";
import { askedOf, useCase } from "./useCase";
import { useTrace } from "./useTrace";

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
  const { mended, suspected } = known;
  const asked = useTrace(jobId, askedOf(known, stage));
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
                  ? "Every reading since the repair is as it should be."
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
              is replaced; the vehicle maker’s instructions, local regulations and a qualified electrician
              come first.
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
