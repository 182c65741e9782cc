/**
 * What waits to be sent, on disk before anything else happens: a browser writes its quick storage down only some
 * seconds later, and a phone whose battery dies does not wait for it.
 */
import { del, set, type UseStore, values } from "idb-keyval";

const NAME = "percorso-waiting";
const STORE = "waiting";

let opening: Promise<IDBDatabase> | null = null;

function open(): Promise<IDBDatabase> {
  opening ??= new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, 1);
    request.onupgradeneeded = () => request.result.createObjectStore(STORE);
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
  return opening;
}

/** A store whose writes are on disk when they are done. */
const onDisk: UseStore = async (mode, callback) => {
  const database = await open();
  return callback(database.transaction(STORE, mode, { durability: "strict" }).objectStore(STORE));
};

/** Write down what waits; a browser without a disk of its own for us goes on with its quick storage alone. */
export const remember = (slot: string, kept: unknown) =>
  set(slot, { slot, kept }, onDisk).catch(() => undefined);

export const release = (slot: string) => del(slot, onDisk).catch(() => undefined);

/** Put back into quick storage what is on disk and is missing there. */
export async function recall(): Promise<void> {
  const found = await values<{ slot: string; kept: unknown }>(onDisk).catch(() => []);
  for (const { slot, kept } of found)
    if (localStorage.getItem(slot) === null) localStorage.setItem(slot, JSON.stringify(kept));
}
