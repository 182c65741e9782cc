/** The frame around every room: header, rail of rooms, footer, and what is said about saving. */
import { ActionIcon, Button, useComputedColorScheme, useMantineColorScheme } from "@mantine/core";
import { IconKeyboard, IconMoon, IconSearch, IconSun } from "@tabler/icons-react";
import { type ReactNode, useState } from "react";
import { Link, NavLink, Outlet, useNavigate, useParams } from "react-router";
import { useBoard } from "../api/queries";
import { useWords, type Words } from "../parts/useWords";
import { attempt, save } from "../saving/saving";
import { ConflictDialog } from "./ConflictDialog";
import { GoTo } from "./GoTo";
import { KeysHelp } from "./KeysHelp";
import { keyName, useKeyGroups, useKeys } from "./keys";
import { PersonMenu } from "./PersonMenu";
import { SavingStatus, SavingTrouble, Unexpected } from "./SavingNotice";
import { StateControl } from "./StateControl";
import { STATES, view } from "./viewing";

export function Shell() {
  const { jobId } = useParams();
  const board = useBoard(jobId ?? "", jobId !== undefined);
  const words = useWords(); // and with them every form, at hand when one opens while the server is away
  const [open, setOpen] = useState<"keys" | "goto" | null>(null);
  const navigate = useNavigate();
  useKeys(
    "Everywhere",
    [
      { keys: "?", does: "list the keys", run: () => setOpen("keys") },
      { keys: "/ Mod+k", does: "go to a circuit or a job", run: () => setOpen("goto") },
      { keys: "g", does: "all jobs", run: () => navigate("/") },
      ...(jobId ? jobKeys(jobId, navigate, words) : []),
    ],
    true,
  );
  const failing = board.failureReason && board.failureCount > 0 ? board.failureReason.message : undefined;
  return (
    <div className="shell">
      <header className="top">
        <Link to="/" className="brand">
          Percorso
        </Link>
        {board.data && (
          <>
            <Link to={`/jobs/${board.data.job.id}`} className="job-name">
              {board.data.job.vehicle}
            </Link>
            <span className="quiet job-title">{board.data.job.name}</span>
          </>
        )}
        <span className="spring" />
        {board.data && <StateControl board={board.data} />}
        <Button
          variant="default"
          size="compact-md"
          className="go-to"
          aria-label="Go to"
          onClick={() => setOpen("goto")}
        >
          <IconSearch size={16} />
        </Button>
        <SchemeSwitch />
        <ActionIcon
          variant="subtle"
          size="lg"
          aria-label="Keys"
          className="keys-button"
          onClick={() => setOpen("keys")}
        >
          <IconKeyboard size={20} />
        </ActionIcon>
        <PersonMenu />
      </header>
      <SavingTrouble readingFails={failing} />
      <Unexpected />
      <div className="middle">
        {jobId && <Rail jobId={jobId} />}
        <main>
          <Outlet />
        </main>
      </div>
      <footer className="bottom">
        <KeyHints />
        <span className="spring" />
        <SavingStatus />
      </footer>
      {open === "keys" && <KeysHelp onClose={() => setOpen(null)} />}
      {open === "goto" && <GoTo jobId={jobId} onClose={() => setOpen(null)} />}
      <ConflictDialog />
    </div>
  );
}

function jobKeys(jobId: string, navigate: ReturnType<typeof useNavigate>, words: Words) {
  const step = (way: "undo" | "redo") =>
    attempt(save(way, "post", `/api/jobs/{job_id}/${way}`, { job_id: jobId }, undefined));
  return [
    { keys: "b", does: "overview", run: () => navigate(`/jobs/${jobId}`) },
    { keys: "v", does: "the vehicle", run: () => navigate(`/jobs/${jobId}/vehicle`) },
    { keys: "l", does: "the loads", run: () => navigate(`/jobs/${jobId}/loads`) },
    { keys: "t", does: "what is live when", run: () => navigate(`/jobs/${jobId}/states`) },
    { keys: "k", does: "tests", run: () => navigate(`/jobs/${jobId}/tests`) },
    { keys: "y", does: "trace: why not", run: () => navigate(`/jobs/${jobId}/trace`) },
    { keys: "h", does: "the harness sheets", run: () => navigate(`/jobs/${jobId}/sheets`) },
    ...STATES.map((state, index) => ({
      keys: `s>${index + 1}`,
      does: `see it ${words.state(state)}`,
      run: () => view(jobId, { state, basis: "state" }),
    })),
    { keys: "s>f", does: "as found", run: () => view(jobId, { stage: "found" }) },
    { keys: "s>p", does: "as planned", run: () => view(jobId, { stage: "planned" }) },
    { keys: "s>d", does: "at design current", run: () => view(jobId, { basis: "design" }) },
    { keys: "Mod+z", does: "undo", run: () => void step("undo") },
    { keys: "Mod+Shift+z", does: "redo", run: () => void step("redo") },
  ];
}

function Rail({ jobId }: { jobId: string }) {
  return (
    <nav className="rail" aria-label="Rooms">
      <Station to={`/jobs/${jobId}`} end>
        Overview
      </Station>
      <Station to={`/jobs/${jobId}/vehicle`}>Vehicle</Station>
      <Station to={`/jobs/${jobId}/loads`}>Loads</Station>
      <Station to={`/jobs/${jobId}/circuits`}>Circuit</Station>
      <Station to={`/jobs/${jobId}/states`}>States</Station>
      <Station to={`/jobs/${jobId}/tests`}>Tests</Station>
      <Station to={`/jobs/${jobId}/trace`}>Trace</Station>
      <Station to={`/jobs/${jobId}/sheets`}>Sheets</Station>
    </nav>
  );
}

function Station({ to, end, children }: { to: string; end?: boolean; children: ReactNode }) {
  return (
    <NavLink to={to} end={end ?? false} className="station">
      {children}
    </NavLink>
  );
}

const MOST_HINTS = 8;

function KeyHints() {
  // What came last on the screen stands first: a panel before the room that it opened in.
  const latest = useKeyGroups()
    .toReversed()
    .flatMap(({ bindings }) => bindings)
    .filter((each, place, all) => all.findIndex(({ keys }) => keys === each.keys) === place);
  return (
    <span className="hints">
      {latest.slice(0, MOST_HINTS).map((binding) => (
        <span key={binding.keys}>
          {binding.keys.split(" ").map((key) => (
            <kbd key={key}>{keyName(key)}</kbd>
          ))}{" "}
          {binding.does}
        </span>
      ))}
    </span>
  );
}

function SchemeSwitch() {
  const { setColorScheme } = useMantineColorScheme();
  const now = useComputedColorScheme("light");
  const other = now === "light" ? "dark" : "light";
  return (
    <ActionIcon
      variant="subtle"
      size="lg"
      aria-label={`Switch to ${other}`}
      onClick={() => setColorScheme(other)}
    >
      {now === "light" ? <IconMoon size={20} /> : <IconSun size={20} />}
    </ActionIcon>
  );
}
