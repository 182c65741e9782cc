/** Sends one change, with the versions of rows that came of one's own changes since it was made. */
import { ApiError, csrfToken, errorFrom, type Schemas } from "../api/client";
import { speaksFor } from "../api/person";
import type { Write } from "./writes";

const HANGS_MS = 30_000; // from which an answer is not waited for: a network that goes away leaves a request hanging
const FILE_HANGS_MS = 600_000; // a photo on a slow network takes minutes
const ownVersions = new Map<string, number>();

/** Send it as its person; `fileOf` finds the file that goes with it. Rejects with what the server says, or that it is away. */
export async function send(
  write: Write,
  person: string,
  fileOf: (key: string) => Promise<File | undefined>,
): Promise<Schemas["Saved"]> {
  const path = write.path.replace(/{(\w+)}/g, (_, name) => encodeURIComponent(write.params[name] ?? ""));
  const body = write.withFile ? await asForm(write, fileOf) : asJson(write);
  const response = await fetch(path, {
    method: write.method.toUpperCase(),
    credentials: "same-origin",
    headers: {
      ...(write.withFile ? {} : { "Content-Type": "application/json" }),
      "X-CSRFToken": csrfToken(),
      "Idempotency-Key": write.key,
      ...speaksFor(person),
    },
    ...(body ? { body } : {}),
    signal: AbortSignal.timeout(write.withFile ? FILE_HANGS_MS : HANGS_MS),
  }).catch(() => {
    throw new ApiError(0, "offline", "the server does not answer");
  });
  if (!response.ok) throw await errorFrom(response);
  const saved: Schemas["Saved"] = await response.json();
  for (const [row, version] of Object.entries(saved.versions ?? {})) ownVersions.set(row, version);
  return saved;
}

const asJson = ({ body }: Write) => body && JSON.stringify(stamped(withOwnVersions(body)));

async function asForm(
  { key, body }: Write,
  fileOf: (key: string) => Promise<File | undefined>,
): Promise<FormData> {
  const file = await fileOf(key);
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

/** The same change, made on another version of a row. */
export function onTopOf(write: Write, row: string, version: number): Write {
  ownVersions.delete(row);
  const { body = {} } = write;
  return {
    ...write,
    body: isVersions(body.seen) ? { ...body, seen: { ...body.seen, [row]: version } } : { ...body, version },
  };
}
