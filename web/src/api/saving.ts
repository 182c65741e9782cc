/**
 * Every change on its way to the server. Changes are sent one at a time, in order; when no answer comes they wait,
 * also across a reload, and are sent again. Each carries a key, so that sending twice writes once. A change of
 * something another person changed meanwhile waits for a decision. One that the server fails at again and again, or
 * refuses for something else than its content, steps aside: it is kept and shown, and what waits behind it goes on.
 */
import { useSyncExternalStore } from "react";
import { slotsOf } from "../offline/slots";
import { recall } from "../offline/waiting";
import { ApiError, csrfToken, errorFrom, type Schemas } from "./client";
import { leave, speaksFor } from "./person";
import type { paths } from "./schema";
import type { Answer, Body, FormOf, Method, Params, Writable, Write } from "./writes";

export type Edit = Schemas["EditsIn"]["edits"][number];
type Settled = { resolve: (answer: unknown) => void; reject: (error: ApiError) => void };
export type Conflict = { write: Write; error: ApiError };
export type SavingState = {
  waiting: number;
  trouble: ApiError | null;
  conflict: Conflict | null;
  refused: { write: Write; error: ApiError }[];
  aside: { write: Write; reason: string }[];
  lastSaved: Date | null;
  lastLabel: string;
};

const RETRY_MS = [500, 1000, 2000, 3000];
const HANGS_MS = 30_000; // from which an answer is not waited for: a network that goes away leaves a request hanging
const FILE_HANGS_MS = 600_000; // a photo on a slow network takes minutes
const OF_CONTENT = [400, 409, 410, 413, 415, 422]; // refusals of what a change says: it is shown, and not sent again
const TRIES = 5; // of a change that the server itself fails at
const SHOWN_MS = 1500; // that a form waits for the screen behind it
const RECALL_MS = 2000; // a disk that takes longer, as while another tab holds it, is not waited for
let waits = slotsOf(""); // what this person left waiting
let takenUp = ""; // of whom what waits is known
let queue: Write[] = [];
let busy = false;
let attempts = 0;
let isStale = false; // the screen is behind what was written
let onSaved: () => Promise<unknown> = async () => undefined;
const settled = new Map<string, Settled>();
const ownVersions = new Map<string, number>();
const failures = new Map<string, number>(); // of the server at a change, by its key
const hearing = new Map<string, (params: Params, answer: unknown) => void>();
const listeners = new Set<() => void>();
let state: SavingState = {
  waiting: 0,
  trouble: null,
  conflict: null,
  refused: [],
  aside: [],
  lastSaved: null,
  lastLabel: "",
};

const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

function show(change: Partial<SavingState>) {
  state = { ...state, ...change, waiting: queue.length };
  for (const listener of listeners) listener();
}

/** A change that waits no longer: it is written, refused or given up. */
function done({ key }: Write) {
  queue = queue.filter((each) => each.key !== key);
  failures.delete(key);
  waits.letGo(key);
}

/** Take up what this person left waiting; `refresh` runs after every change that was written. */
export function startSaving(person: string, refresh: () => Promise<unknown>) {
  if (waits.person === person) {
    // Signed in again: what waited for that goes on.
    show({ trouble: null });
    void sendNext();
    return;
  }
  waits = slotsOf(person);
  queue = [];
  onSaved = refresh;
  void Promise.race([recall(), pause(RECALL_MS)]).then(() => {
    const own = new Set(queue.map(({ key }) => key));
    queue = [...waits.kept().filter(({ key }) => !own.has(key)), ...queue];
    takenUp = person;
    show({ trouble: null, aside: waits.asides() });
    void sendNext();
  });
}

/** Carry out edits of a job as one change; `seen` are the rows it was made from, `label` what the undo list says. */
export function change(
  jobId: string,
  what: string,
  edits: Edit[],
  { seen = [], label }: { seen?: { id: string; version: number }[]; label?: string } = {},
): Promise<Schemas["Saved"]> {
  const versions = Object.fromEntries(seen.map(({ id, version }) => [id, version]));
  const body = { edits, seen: versions, ...(label ? { label: label.slice(0, 80) } : {}) };
  return save(what, "post", "/api/jobs/{job_id}/edits", { job_id: jobId }, body);
}

/** Write a change. Resolves when it is safely written, rejects with the problems when it is refused. */
export function save<M extends Method, Path extends Writable<M>>(
  what: string,
  method: M,
  path: Path,
  params: Params,
  body: Body<paths[Path][M]>,
): Promise<Answer<paths[Path][M]>> {
  const key = crypto.randomUUID();
  const write = { key, what, method, path, params, body: body as Record<string, unknown> | undefined };
  show({ refused: [] });
  enqueue(write);
  return new Promise<Answer<paths[Path][M]>>((resolve, reject) => {
    settled.set(key, { resolve: resolve as (answer: unknown) => void, reject });
  });
}

/** Add something and go on: nobody waits for it, so what stands in its way is said in a notice of its own. */
export function add<Path extends Writable<"post">>(
  what: string,
  path: Path,
  params: Params,
  body: Body<paths[Path]["post"]>,
  more: { about?: string; isQuiet?: boolean },
) {
  const written = body as Record<string, unknown>;
  enqueue({ key: crypto.randomUUID(), what, method: "post", path, params, body: written, ...more });
}

/** Hear what changes sent to a path are answered with, before they wait no longer. */
export function hear<Path extends Writable<"post">>(
  path: Path,
  heard: (params: Params, answer: Answer<paths[Path]["post"]>) => void,
) {
  hearing.set(path, heard as (params: Params, answer: unknown) => void);
}

/** The same with a file. Rejects when the file cannot be kept meanwhile. */
export async function addFile<Path extends Writable<"post">>(
  what: string,
  path: Path,
  params: Params,
  body: FormOf<paths[Path]["post"]>,
  file: File,
  about: string,
): Promise<void> {
  const key = crypto.randomUUID();
  await waits.keepFile(key, file);
  enqueue({ key, what, about, method: "post", path, params, body, withFile: true });
}

function enqueue(write: Write) {
  queue = [...queue, write];
  waits.keep(write);
  show({});
  void sendNext();
}

async function sendNext(): Promise<void> {
  const write = queue[0];
  if (busy || !write || state.conflict) return;
  if (!waits.isKept(write)) {
    // Another tab took it up as well, and was faster.
    done(write);
    show({});
    return sendNext();
  }
  busy = true;
  try {
    const saved = await send(write);
    written(write, saved);
    // The screen shows the new state before its form closes, unless reading it takes unusually long; while more
    // waits it would be read anew for each.
    if (queue.length === 0 && isStale) {
      isStale = false;
      await Promise.race([onSaved(), pause(SHOWN_MS)]);
    }
    settled.get(write.key)?.resolve(saved);
    settled.delete(write.key);
  } catch (error) {
    fail(write, error instanceof ApiError ? error : new ApiError(0, "offline", "the server does not answer"));
  } finally {
    busy = false;
  }
  if (!state.trouble) void sendNext();
}

async function send(write: Write): Promise<Schemas["Saved"]> {
  const path = write.path.replace(/{(\w+)}/g, (_, name) => encodeURIComponent(write.params[name] ?? ""));
  const body = write.withFile ? await asForm(write) : asJson(write);
  const response = await fetch(path, {
    method: write.method.toUpperCase(),
    credentials: "same-origin",
    headers: {
      ...(write.withFile ? {} : { "Content-Type": "application/json" }),
      "X-CSRFToken": csrfToken(),
      "Idempotency-Key": write.key,
      ...speaksFor(waits.person),
    },
    ...(body ? { body } : {}),
    signal: AbortSignal.timeout(write.withFile ? FILE_HANGS_MS : HANGS_MS),
  }).catch(() => {
    throw new ApiError(0, "offline", "the server does not answer");
  });
  if (!response.ok) throw await errorFrom(response);
  return response.json();
}

const asJson = ({ body }: Write) => body && JSON.stringify(stamped(withOwnVersions(body)));

async function asForm({ key, body }: Write): Promise<FormData> {
  const file = await waits.fileOf(key);
  if (!file) throw new ApiError(410, "gone", "this browser did not keep the file; choose it again");
  const form = new FormData();
  for (const [name, value] of Object.entries(body ?? {})) form.set(name, String(value));
  form.set("file", file);
  return form;
}

/** What was taken at a time also says what time it is by this clock, which may be wrong. */
const stamped = (body: Record<string, unknown>) =>
  body.taken_at ? { ...body, sent_at: new Date().toISOString() } : body;

/** What was seen of rows, or what came of one's own change since, which was made on top of it. */
function withOwnVersions(body: Record<string, unknown>): Record<string, unknown> {
  if (!isVersions(body.seen)) return body;
  const seen = Object.entries(body.seen).map(([row, version]) => [
    row,
    Math.max(version, ownVersions.get(row) ?? 0),
  ]);
  return { ...body, seen: Object.fromEntries(seen) };
}

const isVersions = (seen: unknown): seen is Record<string, number> =>
  typeof seen === "object" && seen !== null;

function written(write: Write, saved: Schemas["Saved"]) {
  for (const [row, version] of Object.entries(saved.versions ?? {})) ownVersions.set(row, version);
  attempts = 0;
  isStale ||= !write.isQuiet;
  hearing.get(write.path)?.(write.params, saved);
  done(write);
  show({ trouble: null, lastSaved: new Date(), lastLabel: saved.label ?? write.what });
}

function fail(write: Write, error: ApiError) {
  const failed = (failures.get(write.key) ?? 0) + 1;
  if (isOutage(error) || (error.passing && failed < TRIES)) {
    if (!isOutage(error)) failures.set(write.key, failed);
    show({ trouble: error });
    setTimeout(() => void sendNext(), RETRY_MS[Math.min(attempts++, RETRY_MS.length - 1)]);
  } else if (error.status === 401 || error.status === 403) {
    show({ trouble: error });
    if (error.code === "somebody-else") leave();
  } else if (error.status === 409 && write.body && error.current) {
    show({ trouble: null, conflict: { write, error } });
  } else if (OF_CONTENT.includes(error.status) || settled.has(write.key)) {
    drop(write, error); // a form that is open still has what was typed
  } else {
    stepAside(write, error);
  }
}

/** Whether nothing at all can be written now, this or anything else. */
const isOutage = ({ status, code }: ApiError) =>
  status === 0 || status === 502 || status === 504 || code === "database-away";

function drop(write: Write, error: ApiError) {
  done(write);
  const caller = settled.get(write.key);
  show({ trouble: null, refused: caller ? state.refused : [...state.refused, { write, error }] });
  caller?.reject(error);
  settled.delete(write.key);
}

function stepAside(write: Write, error: ApiError) {
  queue = queue.filter(({ key }) => key !== write.key);
  failures.delete(write.key);
  waits.keep(write, error.message);
  show({ trouble: null, aside: waits.asides() });
}

/** Send once more what stepped aside. */
export function tryAsideAgain() {
  for (const { write } of waits.asides()) {
    waits.keep(write);
    queue = [...queue, write];
  }
  show({ aside: [] });
  void sendNext();
}

/** Throw away what stepped aside. */
export function throwAsideAway() {
  for (const { write } of waits.asides()) done(write);
  show({ aside: [] });
}

/** Decide a conflict: write mine over theirs, or leave theirs. */
export function decideConflict(mine: boolean) {
  const conflict = state.conflict;
  if (!conflict) return;
  const { write, error } = conflict;
  if (mine && error.current) {
    const again = onTopOf(write, error.row ?? "", Number(error.current.version));
    queue = [again, ...queue.slice(1)];
    waits.keep(again);
  } else {
    done(write);
    settled.get(write.key)?.resolve({ label: "left as it was", versions: {} });
    settled.delete(write.key);
  }
  show({ conflict: null });
  void onSaved();
  void sendNext();
}

/** The same change, made on another version of a row. */
function onTopOf(write: Write, row: string, version: number): Write {
  ownVersions.delete(row);
  const { body = {} } = write;
  return {
    ...write,
    body: isVersions(body.seen) ? { ...body, seen: { ...body.seen, [row]: version } } : { ...body, version },
  };
}

/** Put away the notice of changes that were refused after their forms were gone. */
export const dismissRefused = () => show({ refused: [] });

/** Say something short in the status line. */
export const remark = (text: string) => show({ lastLabel: text, lastSaved: null });

/** Wait for a change that has no form; what stands in its way is said in the status line. */
export async function attempt(changing: Promise<unknown>): Promise<boolean> {
  try {
    await changing;
    return true;
  } catch (error) {
    remark(error instanceof Error ? error.message : String(error));
    return false;
  }
}

function listen(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export const useSaving = (): SavingState => useSyncExternalStore(listen, () => state);

/** Of whom it is known what waits: before, a screen would take for open what is done. */
export const useTakenUp = (): string => useSyncExternalStore(listen, () => takenUp);

/** What waits to be sent to a path, in order. */
export function useQueued<Path extends Writable<"post">>(
  path: Path,
  params: Params,
): Body<paths[Path]["post"]>[] {
  useSaving();
  const isOf = (write: Write) =>
    write.path === path && Object.entries(params).every(([name, value]) => write.params[name] === value);
  return queue.filter(isOf).map(({ body }) => body as Body<paths[Path]["post"]>);
}

/** What waits of what is on the screen, the latest of each. */
export function useWaiting(): Map<string, Write> {
  useSaving();
  return new Map(queue.flatMap((write) => (write.about ? [[write.about, write]] : [])));
}
