/** What of a job is looked at: the operating state, the switches set by hand, as found or as planned. */
import { useSyncExternalStore } from "react";
import type { Schemas } from "../api/client";

export type State = Schemas["Moment"]["state"];
export type Stage = Schemas["Moment"]["stage"];
export type Basis = "state" | "design";
export type Viewing = { state: State; stage: Stage; inputs: Record<string, string>; basis: Basis };

export const STATES: State[] = ["off", "accessory", "on", "cranking", "idle", "road"];
const START: Viewing = { state: "idle", stage: "planned", inputs: {}, basis: "state" };
const listeners = new Set<() => void>();
const read = new Map<string, Viewing>();
const slot = (jobId: string) => `percorso.viewing.${jobId}`;

/** Kept for the tab, so that a reload shows the same again and another tab may look at another state. */
function viewingOf(jobId: string): Viewing {
  const known = read.get(jobId);
  if (known) return known;
  const kept = sessionStorage.getItem(slot(jobId));
  const viewing = kept ? { ...START, ...JSON.parse(kept) } : START;
  read.set(jobId, viewing);
  return viewing;
}

export function view(jobId: string, change: Partial<Viewing>) {
  const next = { ...viewingOf(jobId), ...change };
  read.set(jobId, next);
  sessionStorage.setItem(slot(jobId), JSON.stringify(next));
  for (const listener of listeners) listener();
}

export function useViewing(jobId: string): Viewing {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => viewingOf(jobId),
  );
}

/** As the API takes it. */
export const asQuery = ({ state, stage, inputs }: Viewing) => ({
  state,
  stage,
  inputs: Object.entries(inputs).map(([name, position]) => `${name}=${position}`),
});
