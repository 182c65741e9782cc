/** What is known of changes on their way to the server, as screens show it. */
import { useSyncExternalStore } from "react";
import type { ApiError } from "../api/client";
import type { paths } from "../api/schema";
import type { Body, Params, Writable, Write } from "./writes";

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

let queue: Write[] = [];
let takenUp = ""; // of whom what waits is known
let state: SavingState = {
  waiting: 0,
  trouble: null,
  conflict: null,
  refused: [],
  aside: [],
  lastSaved: null,
  lastLabel: "",
};
const listeners = new Set<() => void>();

export const saving = (): SavingState => state;
export const queued = (): Write[] => queue;

export function show(change: Partial<SavingState>) {
  state = { ...state, ...change, waiting: queue.length };
  for (const listener of listeners) listener();
}

/** What waits from now on; it is shown with the next change of the state. */
export function queueUp(writes: Write[]) {
  queue = writes;
}

/** It is known from now on what this person left waiting. */
export function tookUp(person: string) {
  takenUp = person;
}

/** Say something short in the status line. */
export const remark = (text: string) => show({ lastLabel: text, lastSaved: null });

/** Put away the notice of changes that were refused after their forms were gone. */
export const dismissRefused = () => show({ refused: [] });

function listen(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export const useSaving = (): SavingState => useSyncExternalStore(listen, saving);

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
