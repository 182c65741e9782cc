/** What of the server's answers is kept on this machine, so that a phone under a vehicle goes on without a network. */
import { createAsyncStoragePersister } from "@tanstack/query-async-storage-persister";
import type { Query } from "@tanstack/react-query";
import type { PersistQueryClientOptions } from "@tanstack/react-query-persist-client";
import { createStore, del, delMany, get, keys, set } from "idb-keyval";
import { mayKeep, pageOwner } from "../api/person";

const DAY_MS = 24 * 3600 * 1000;
export const KEPT_MS = 14 * DAY_MS; // as long as a session lasts
const SLOT = "answers";
const KEEP_WITHIN_MS = 200; // a network may go at once after an answer came
/** By the first word of their keys: who is signed in, the jobs that were opened, and what is measured and traced there. */
export const KEPT = [
  ...["session", "jobs", "board", "tests", "photos", "forms", "instruments", "house rules"],
  ...["case", "trace", "symptoms"],
];

const store = createStore("percorso", "kept");
const slotOf = (person: string) => `${SLOT}.${person}`;
const persister = createAsyncStoragePersister({
  key: SLOT,
  throttleTime: KEEP_WITHIN_MS,
  storage: {
    getItem: () => (mayKeep() ? get<string>(slotOf(pageOwner()), store) : undefined),
    setItem: (_, value: string) => (mayKeep() ? set(slotOf(pageOwner()), value, store) : undefined),
    removeItem: () => del(slotOf(pageOwner()), store),
  },
});

export const keptAnswers: Omit<PersistQueryClientOptions, "queryClient"> = {
  persister,
  maxAge: KEPT_MS,
  buster: __BUILD__,
  dehydrateOptions: {
    shouldDehydrateQuery: ({ queryKey, state }: Query) =>
      state.status === "success" && KEPT.includes(String(queryKey[0])),
  },
};

/** Nothing of a shop stays on a machine where somebody signed out, or where somebody else signed in. */
export async function forgetAllBut(person: string): Promise<void> {
  const kept = await keys<string>(store).catch(() => []);
  await delMany(
    kept.filter((each) => each !== slotOf(person)),
    store,
  ).catch(() => undefined);
}

/** Keep the application itself at hand. */
export function startOffline() {
  if ("serviceWorker" in navigator && import.meta.env.PROD) {
    navigator.serviceWorker.register("/sw.js").catch(() => undefined); // without https there is none
  }
}
