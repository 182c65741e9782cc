/**
 * What waits to be sent, on disk before anything else happens: a browser writes its quick storage down only some
 * seconds later, and a phone whose battery dies does not wait for it.
 */
import { del, get, set, type UseStore, values } from "idb-keyval";

const NAME = "percorso-waiting";
const VERSION = 2;
const CHANGES = "waiting";
const FILES = "files"; // what is sent along with a change: a photo is too large for the quick storage

let opening: Promise<IDBDatabase> | null = null;

function open(): Promise<IDBDatabase> {
  opening ??= new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, VERSION);
    request.onupgradeneeded = () => {
      const { result } = request;
      for (const name of [CHANGES, FILES])
        if (!result.objectStoreNames.contains(name)) result.createObjectStore(name);
    };
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
  return opening;
}

/** A store whose writes are on disk when they are done. */
const onDisk =
  (name: string): UseStore =>
  async (mode, callback) => {
    const database = await open();
    return callback(database.transaction(name, mode, { durability: "strict" }).objectStore(name));
  };
const changes = onDisk(CHANGES);
const files = onDisk(FILES);

/** Write down what waits; a browser without a disk of its own for us goes on with its quick storage alone. */
export const remember = (slot: string, kept: unknown) =>
  set(slot, { slot, kept }, changes).catch(() => undefined);

export async function release(slot: string): Promise<void> {
  await Promise.all([del(slot, changes), del(slot, files)]).catch(() => undefined);
}

/** Write down the file that goes with a change, before the change itself. Rejects where there is no disk for it. */
export const rememberFile = (slot: string, file: File) => set(slot, file, files);

/** The file that goes with a change; nothing when the browser threw it away. */
export const fileOf = (slot: string) => get<File>(slot, files).catch(() => undefined);

/** Put back into quick storage what is on disk and is missing there. */
export async function recall(): Promise<void> {
  const found = await values<{ slot: string; kept: unknown }>(changes).catch(() => []);
  for (const { slot, kept } of found)
    if (localStorage.getItem(slot) === null) localStorage.setItem(slot, JSON.stringify(kept));
}
