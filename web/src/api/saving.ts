/**
 * Every change on its way to the server. Changes are sent one at a time, in order; when no answer comes they wait,
 * also across a reload, and are sent again. Each carries a key, so that sending twice writes once. A change of
 * something another person changed meanwhile waits for a decision.
 */
import { useSyncExternalStore } from "react";
import { ApiError, csrfToken, errorFrom, type Schemas } from "./client";

export type Write = {
  key: string;
  what: string;
  method: "POST" | "PATCH" | "PUT" | "DELETE";
  path: string;
  /** The row whose version this write states, if it states one. */
  row?: string;
  version?: number;
  body?: Record<string, unknown>;
};

type Settled = { resolve: (answer: unknown) => void; reject: (error: ApiError) => void };
export type Conflict = { write: Write; error: ApiError };
export type SavingState = {
  waiting: number;
  trouble: ApiError | null;
  conflict: Conflict | null;
  refused: { write: Write; error: ApiError } | null;
  lastSaved: Date | null;
  lastLabel: string;
};

const RETRY_MS = [500, 1000, 2000, 3000];
let owner = "";
let queue: Write[] = [];
let busy = false;
let attempts = 0;
let onSaved: () => Promise<unknown> = async () => undefined;
const settled = new Map<string, Settled>();
const ownVersions = new Map<string, number>();
const listeners = new Set<() => void>();
let state: SavingState = {
  waiting: 0,
  trouble: null,
  conflict: null,
  refused: null,
  lastSaved: null,
  lastLabel: "",
};

const slot = () => `percorso.waiting.${owner}`;

function show(change: Partial<SavingState>) {
  state = { ...state, ...change, waiting: queue.length };
  if (owner) localStorage.setItem(slot(), JSON.stringify(queue));
  for (const listener of listeners) listener();
}

/** Take up what this person left waiting; `refresh` runs after every change that was written. */
export function startSaving(person: string, refresh: () => Promise<unknown>) {
  if (owner === person) return;
  owner = person;
  onSaved = refresh;
  queue = JSON.parse(localStorage.getItem(slot()) ?? "[]");
  show({ trouble: null });
  void sendNext();
}

/** Write a change. Resolves when it is safely written, rejects with the problems when it is refused. */
export function save<T = Schemas["Saved"]>(write: Omit<Write, "key">): Promise<T> {
  const keyed = { ...write, key: crypto.randomUUID() };
  queue = [...queue, keyed];
  show({ refused: null });
  const promise = new Promise<T>((resolve, reject) => {
    settled.set(keyed.key, { resolve: resolve as (answer: unknown) => void, reject });
  });
  void sendNext();
  return promise;
}

async function sendNext(): Promise<void> {
  const write = queue[0];
  if (busy || !write || state.conflict) return;
  busy = true;
  try {
    const saved = await send(write);
    written(write, saved);
    // The screen shows the new state before its form closes, unless reading it takes unusually long.
    await Promise.race([onSaved(), new Promise((resolve) => setTimeout(resolve, 1500))]);
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
  const version = Math.max(write.version ?? 0, ownVersions.get(write.row ?? "") ?? 0);
  const stated = write.version === undefined ? {} : { version };
  const query = write.method === "DELETE" && write.version !== undefined ? `?version=${version}` : "";
  const response = await fetch(write.path + query, {
    method: write.method,
    credentials: "same-origin",
    headers: {
      "Content-Type": "application/json",
      "X-CSRFToken": csrfToken(),
      "Idempotency-Key": write.key,
    },
    body: write.method === "DELETE" ? undefined : JSON.stringify({ ...write.body, ...stated }),
  }).catch(() => {
    throw new ApiError(0, "offline", "the server does not answer");
  });
  if (!response.ok) throw await errorFrom(response);
  return response.json();
}

function written(write: Write, saved: Schemas["Saved"]) {
  for (const [row, version] of Object.entries(saved.versions ?? {})) ownVersions.set(row, version);
  attempts = 0;
  queue = queue.filter((each) => each.key !== write.key);
  show({ trouble: null, lastSaved: new Date(), lastLabel: saved.label ?? write.what });
}

function fail(write: Write, error: ApiError) {
  if (error.passing) {
    show({ trouble: error });
    setTimeout(() => void sendNext(), RETRY_MS[Math.min(attempts++, RETRY_MS.length - 1)]);
  } else if (error.status === 401 || error.status === 403) {
    show({ trouble: error });
  } else if (error.status === 409 && write.version !== undefined) {
    show({ trouble: null, conflict: { write, error } });
  } else {
    drop(write, error);
  }
}

function drop(write: Write, error: ApiError) {
  queue = queue.filter((each) => each.key !== write.key);
  const caller = settled.get(write.key);
  show({ trouble: null, refused: caller ? null : { write, error } });
  caller?.reject(error);
  settled.delete(write.key);
}

/** Decide a conflict: write mine over theirs, or leave theirs. */
export function decideConflict(mine: boolean) {
  const conflict = state.conflict;
  if (!conflict) return;
  const { write, error } = conflict;
  if (mine && error.current) {
    if (write.row) ownVersions.delete(write.row);
    queue = [{ ...write, version: Number(error.current.version) }, ...queue.slice(1)];
  } else {
    queue = queue.slice(1);
    settled.get(write.key)?.resolve({ label: "left as it was", versions: {} });
    settled.delete(write.key);
  }
  show({ conflict: null });
  void onSaved();
  void sendNext();
}

/** Put away the notice of a change that was refused after its form was gone. */
export const dismissRefused = () => show({ refused: null });

/** Say something short in the status line. */
export const remark = (text: string) => show({ lastLabel: text, lastSaved: null });

export function useSaving(): SavingState {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => state,
  );
}
