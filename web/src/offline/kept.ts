/** What of the server's answers is kept on this machine, so that a phone under a vehicle goes on without a network. */
import { createAsyncStoragePersister } from "@tanstack/query-async-storage-persister";
import type { Query } from "@tanstack/react-query";
import type { PersistQueryClientOptions } from "@tanstack/react-query-persist-client";
import { createStore, del, get, set } from "idb-keyval";

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
const persister = createAsyncStoragePersister({
  key: SLOT,
  throttleTime: KEEP_WITHIN_MS,
  storage: {
    getItem: (key) => get<string>(key, store),
    setItem: (key, value: string) => set(key, value, store),
    removeItem: (key) => del(key, store),
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

/** Nothing of a shop stays on a machine that somebody signed out of. */
export const forget = () => del(SLOT, store);

/** Keep the application itself at hand. */
export function startOffline() {
  if ("serviceWorker" in navigator && import.meta.env.PROD) {
    navigator.serviceWorker.register("/sw.js").catch(() => undefined); // without https there is none
  }
}
