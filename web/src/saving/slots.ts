/** The changes of each person that wait in this browser, each in a slot of its own, in the order they were made in. */

import { fileOf, release, remember, rememberFile } from "./waiting";
import type { Write } from "./writes";

/** `aside`: why it stepped aside. */
type Slot = { at: number; write: Write; aside?: string };

/** What a person left waiting. Two tabs of one person do not write over what the other keeps. */
export function slotsOf(person: string) {
  const prefix = `percorso.waiting.${person}.`;

  function slots(): Slot[] {
    const names = Object.keys(localStorage).filter((name) => name.startsWith(prefix));
    return names.map((name): Slot => JSON.parse(localStorage.getItem(name) ?? ""));
  }

  /** A change keeps its place, a new one comes after all that wait; no clock decides, for clocks are set. */
  function placeOf({ key }: Write): number {
    const waiting = slots();
    const own = waiting.find(({ write }) => write.key === key);
    return own ? own.at : 1 + Math.max(0, ...waiting.map(({ at }) => at));
  }

  const inOrder = () => slots().sort((one, other) => one.at - other.at);
  return {
    person,
    keep(write: Write, aside?: string) {
      const slot: Slot = { at: placeOf(write), write, ...(aside ? { aside } : {}) };
      localStorage.setItem(prefix + write.key, JSON.stringify(slot));
      void remember(prefix + write.key, slot);
    },
    letGo(key: string) {
      localStorage.removeItem(prefix + key);
      void release(prefix + key);
    },
    keepFile: (key: string, file: File) => rememberFile(prefix + key, file),
    fileOf: (key: string) => fileOf(prefix + key),
    isKept: ({ key }: Write) => localStorage.getItem(prefix + key) !== null,
    kept: (): Write[] => inOrder().flatMap(({ write, aside }) => (aside ? [] : [write])),
    asides: () => inOrder().flatMap(({ write, aside }) => (aside ? [{ write, reason: aside }] : [])),
  };
}

/** How many changes of whom else wait in this browser until they sign in. */
export function othersWaiting(person: string): Map<string, number> {
  const counts = new Map<string, number>();
  for (const name of Object.keys(localStorage)) {
    const other = /^percorso\.waiting\.(.*)\.[0-9a-f-]{36}$/.exec(name)?.[1];
    if (other !== undefined && other !== person) counts.set(other, (counts.get(other) ?? 0) + 1);
  }
  return counts;
}
