import { useThrottledValue } from "@mantine/hooks";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { type Board, type Budget, type LedgerLoad, type Trial, useBoard } from "../api/queries";
import { useKeys } from "../app/keys";
import { Findings } from "../parts/Findings";
import { TrialBar } from "../parts/TrialBar";
import { Advice } from "./Advice";
import { BalanceChart } from "./BalanceChart";
import { DrivePanel } from "./DrivePanel";
import type { Dialog } from "./dialog";
import { changeLoads, toggledState } from "./edits";
import { Ledger } from "./Ledger";
import { LoadsDialogs } from "./LoadsDialogs";
import { useBudget, useBudgetTrial, useTypicalConsumers } from "./queries";
import { Sliders } from "./Sliders";
import { Sources } from "./Sources";

const TRY_EVERY_MS = 60;

export function LoadsRoom() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  const [drive, setDrive] = useState<string | null>(null);
  const [trial, setTrial] = useState<Trial | null>(null);
  const tried = useBudgetTrial(jobId, drive, useThrottledValue(trial, TRY_EVERY_MS));
  const base = useBudget(jobId, drive);
  if (base.isError) return <p className="page empty">{base.error.message}</p>;
  if (!base.data || !board) return <p className="page quiet">Adding up the loads …</p>;
  const shown = trial && tried.data ? tried.data : base.data;
  return <Room {...{ board, base: base.data, shown, setDrive, trial, setTrial }} />;
}

type RoomProps = {
  board: Board;
  base: Budget;
  shown: Budget;
  setDrive: (id: string) => void;
  trial: Trial | null;
  setTrial: (trial: Trial | null) => void;
};

function Room({ board, base, shown, setDrive, trial, setTrial }: RoomProps) {
  const jobId = board.job.id;
  const navigate = useNavigate();
  useTypicalConsumers(jobId); // at hand before anybody asks for it
  const [dialog, setDialog] = useState<Dialog | null>(null);
  const [at, setAt] = useState(0);
  const [chosen, setChosen] = useState<string[]>([]);
  const { loads } = shown;
  const here = loads[Math.min(at, loads.length - 1)];
  const picked = loads.filter(({ id }) => chosen.includes(id));
  const changed = (what: string, edits: Trial["edits"]) => void changeLoads(jobId, what, edits, loads);

  async function keep() {
    if (!trial) return;
    const { effect, edits } = trial;
    const written = await changeLoads(jobId, effect, edits, [base.battery, base.alternator, ...base.loads]);
    if (written) setTrial(null);
  }

  function toggle(load: LedgerLoad | undefined, state: "idle" | "road") {
    if (load) changed(`${load.name} ${state}`, [toggledState(load, state)]);
  }

  function remove(gone: LedgerLoad[]) {
    const what = gone.length === 1 ? `delete ${gone[0]?.name}` : `delete ${gone.length} loads`;
    changed(
      what,
      gone.map(({ id }) => ({ do: "remove device", device_id: id })),
    );
    setChosen([]);
  }

  /** Go to a load that a finding names, and on to its circuit where it has one. */
  function show(device: string | undefined) {
    const load = loads.findIndex(({ id }) => id === device);
    if (load < 0) return;
    setAt(load);
    const circuit = loads[load]?.circuit_id;
    if (circuit) navigate(`/jobs/${jobId}/circuits/${circuit}`);
  }

  const choose = (id: string) =>
    setChosen((old) => (old.includes(id) ? old.filter((each) => each !== id) : [...old, id]));
  const step = (by: number) => setAt((old) => Math.max(0, Math.min(loads.length - 1, old + by)));

  useKeys("Loads", [
    { keys: "n", does: "add loads", run: () => setDialog({ what: "add" }) },
    { keys: "ArrowDown", does: "next", run: () => step(1) },
    { keys: "ArrowUp", does: "previous", run: () => step(-1) },
    { keys: "m", does: "measured", run: () => here && setDialog({ what: "measured", load: here }) },
    { keys: "i", does: "on at idle", run: () => toggle(here, "idle") },
    { keys: "o", does: "on the road", run: () => toggle(here, "road") },
    { keys: "x", does: "choose", run: () => here && choose(here.id) },
    {
      keys: "e",
      does: "edit",
      run: () => {
        if (picked.length > 0) setDialog({ what: "bulk", loads: picked });
        else if (here) setDialog({ what: "load", load: here });
      },
    },
    {
      keys: "Enter",
      does: trial ? "keep what is tried" : "edit",
      run: () => (trial ? void keep() : here && setDialog({ what: "load", load: here })),
    },
    { keys: "Escape", does: "put back", run: () => (trial ? setTrial(null) : setChosen([])) },
    {
      keys: "Delete",
      does: "delete",
      run: () => (picked.length > 0 ? remove(picked) : here && remove([here])),
    },
  ]);

  return (
    <div className="loads-room">
      <section className="ledger-side" aria-label="Ledger">
        <Ledger
          {...{ loads, at, chosen, setAt, choose, toggle }}
          jobId={jobId}
          balances={shown.balances}
          onDialog={setDialog}
          onBulk={() => setDialog({ what: "bulk", loads: picked })}
          onRemove={() => remove(picked)}
        />
        <Findings
          findings={shown.findings}
          onShow={(finding) => show(finding.device_ids?.[0])}
          onTry={({ cure }) => cure && setTrial(together(trial, cure))}
          nothing=""
        />
      </section>
      <section className="balance-side" aria-label="Balance">
        {trial ? (
          <TrialBar trial={trial} onKeep={() => void keep()} onPutBack={() => setTrial(null)} />
        ) : (
          <div className="page-head">
            <h2>Can the alternator keep up?</h2>
            <Sources budget={shown} onDialog={setDialog} />
          </div>
        )}
        {base.alternator && <Sliders {...{ base, shown, trial, setTrial }} />}
        {(loads.length > 0 || shown.alternator) && (
          <BalanceChart balances={shown.balances} before={trial ? base.balances : null} />
        )}
        <Advice budget={shown} jobId={jobId} onTry={(cure) => setTrial(together(trial, cure))} />
        <DrivePanel
          budget={shown}
          before={trial ? base.driven : null}
          onDrive={setDrive}
          onDialog={setDialog}
        />
      </section>
      <LoadsDialogs {...{ dialog, board, base, loads, setDialog, setDrive }} />
    </div>
  );
}

/** A cure on top of what is tried already. */
function together(trial: Trial | null, cure: Omit<Trial, "from">): Trial {
  if (!trial) return { ...cure, from: "cure" };
  return {
    effect: `${trial.effect} and ${cure.effect}`,
    edits: [...trial.edits, ...cure.edits],
    from: "cure",
  };
}
