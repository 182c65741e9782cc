/**
 * Every change on its way to the server. Changes are sent one at a time, in order; when no answer comes they wait,
 * also across a reload, and are sent again. Each carries a key, so that sending twice writes once. A change of
 * something another person changed meanwhile waits for a decision. One that the server fails at again and again, or
 * refuses for something else than its content, steps aside: it is kept and shown, and what waits behind it goes on.
 */
import { ApiError, type Schemas } from "../api/client";
import { leave } from "../api/person";
import type { paths } from "../api/schema";
import { send } from "./sender";
import { slotsOf } from "./slots";
import { queued, queueUp, remark, saving, show, tookUp } from "./store";
import { recall } from "./waiting";
import type { Answer, Body, FormOf, Method, Params, Writable, Write } from "./writes";

export type Edit = Schemas["EditsIn"]["edits"][number];
type Settled = { resolve: (answer: unknown) => void; reject: (error: ApiError) => void };
const RETRY_MS = [500, 1000, 2000, 3000];
const OF_CONTENT = [400, 409, 410, 413, 415, 422]; // refusals of what a change says: it is shown, and not sent again
const TRIES = 5; // of a change that the server itself fails at
const SHOWN_MS = 1500; // that a form waits for the screen behind it
const RECALL_MS = 2000; // a disk that takes longer, as while another tab holds it, is not waited for
let waits = slotsOf(""); // what this person left waiting
let busy = false;
let attempts = 0;
let isStale = false; // the screen is behind what was written
let onSaved: () => Promise<unknown> = async () => undefined;
const settled = new Map<string, Settled>();
const failures = new Map<string, number>(); // of the server at a change, by its key
const hearing = new Map<string, (params: Params, answer: unknown) => void>();
const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** A change that waits no longer: it is written, refused or given up. */
function done({ key }: Write) {
  queueUp(queued().filter((each) => each.key !== key));
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
  queueUp([]);
  onSaved = refresh;
  void Promise.race([recall(), pause(RECALL_MS)]).then(() => {
    const own = new Set(queued().map(({ key }) => key));
    queueUp([...waits.kept().filter(({ key }) => !own.has(key)), ...queued()]);
    tookUp(person);
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
  queueUp([...queued(), write]);
  waits.keep(write);
  show({});
  void sendNext();
}

async function sendNext(): Promise<void> {
  const [write] = queued();
  if (busy || !write || saving().conflict) return;
  if (!waits.isKept(write)) {
    // Another tab took it up as well, and was faster.
    done(write);
    show({});
    return sendNext();
  }
  busy = true;
  try {
    const saved = await send(write, waits.person, waits.fileOf);
    written(write, saved);
    // The screen shows the new state before its form closes, unless reading it takes unusually long; while more
    // waits it would be read anew for each.
    if (queued().length === 0 && isStale) {
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
  if (!saving().trouble) void sendNext();
}

function written(write: Write, saved: Schemas["Saved"]) {
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
  show({ trouble: null, refused: caller ? saving().refused : [...saving().refused, { write, error }] });
  caller?.reject(error);
  settled.delete(write.key);
}

function stepAside(write: Write, error: ApiError) {
  queueUp(queued().filter(({ key }) => key !== write.key));
  failures.delete(write.key);
  waits.keep(write, error.message);
  show({ trouble: null, aside: waits.asides() });
}

/** Send once more what stepped aside. */
export function tryAsideAgain() {
  for (const { write } of waits.asides()) {
    waits.keep(write);
    queueUp([...queued(), write]);
  }
  show({ aside: [] });
  void sendNext();
}

/** Throw away what stepped aside. */
export function throwAsideAway() {
  for (const { write } of waits.asides()) done(write);
  show({ aside: [] });
}

/** Send the first of the queue in another form. */
export function sendInstead(write: Write) {
  queueUp([write, ...queued().slice(1)]);
  waits.keep(write);
}

/** Let a change be: whoever waits for it hears that nothing was written. */
export function letBe(write: Write) {
  done(write);
  settled.get(write.key)?.resolve({ label: "left as it was", versions: {} });
  settled.delete(write.key);
}

/** Read the screen anew, and go on with what waits. */
export function goOn() {
  void onSaved();
  void sendNext();
}

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
