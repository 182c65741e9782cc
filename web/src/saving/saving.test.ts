/** The queue against a server that is away, fails, refuses, and says that somebody else was faster. */
import { beforeEach, expect, test, vi } from "vitest";

type Sent = { path: string; key: string; body: Record<string, unknown> };
type Answer = { status: number; body?: unknown } | "away";

const EDITS = "/api/jobs/{job_id}/edits";
const WIRE = { edits: [], seen: { w1: 1 } };
let sent: Sent[];
let answers: Answer[];

/** Quick storage as a browser has it, of one tab. */
function storage(): Storage {
  const kept: Record<string, string> = {};
  return Object.defineProperties(kept, {
    getItem: { value: (name: string) => kept[name] ?? null },
    setItem: { value: (name: string, text: string) => void Object.assign(kept, { [name]: text }) },
    removeItem: { value: (name: string) => Reflect.deleteProperty(kept, name) },
  }) as unknown as Storage;
}

async function answered(url: string, init: RequestInit): Promise<Response> {
  const headers = init.headers as Record<string, string>;
  sent.push({ path: url, key: headers["Idempotency-Key"] ?? "", body: JSON.parse(String(init.body)) });
  const answer = answers.shift() ?? { status: 200 };
  if (answer === "away") throw new TypeError("no network");
  return new Response(JSON.stringify(answer.body ?? { label: "done", versions: {} }), {
    status: answer.status,
  });
}

/** A page that has just been opened by somebody. */
async function opened() {
  vi.resetModules();
  const [{ startSaving, change }, store, conflict] = await Promise.all([
    import("./saving"),
    import("./store"),
    import("./conflict"),
  ]);
  startSaving("valbruna", async () => undefined);
  await vi.advanceTimersByTimeAsync(2000);
  return {
    change: (label: string) => change("job", label, WIRE.edits, { seen: [{ id: "w1", version: 1 }] }),
    store,
    conflict,
  };
}

beforeEach(() => {
  vi.useFakeTimers();
  sent = [];
  answers = [];
  vi.stubGlobal("localStorage", storage());
  vi.stubGlobal("document", { cookie: "csrftoken=token" });
  vi.stubGlobal("window", { location: { assign: () => undefined } });
  vi.stubGlobal("fetch", answered);
});

test("changes go one at a time, in order, the second on top of what came of the first", async () => {
  const { change } = await opened();
  answers = [{ status: 200, body: { label: "first", versions: { w1: 2 } } }];
  await Promise.all([change("first"), change("second")]);
  expect(sent.map(({ path }) => path)).toEqual(["/api/jobs/job/edits", "/api/jobs/job/edits"]);
  expect(sent.map(({ body }) => body.seen)).toEqual([{ w1: 1 }, { w1: 2 }]);
});

test("what no answer came to is sent again with the same key, also by the next page", async () => {
  const { change, store } = await opened();
  answers = ["away"];
  void change("lift valve");
  await vi.advanceTimersByTimeAsync(100);
  expect(store.saving().trouble?.code).toBe("offline");
  expect(store.saving().waiting).toBe(1);
  const next = await opened();
  await vi.runAllTimersAsync();
  expect(new Set(sent.map(({ key }) => key)).size).toBe(1);
  expect(sent.length).toBeGreaterThan(1);
  expect(next.store.saving().waiting).toBe(0);
  expect(Object.keys(localStorage)).toEqual([]);
});

test("what the server itself fails at steps aside in the end, and what waits behind it goes on", async () => {
  const { store } = await opened();
  const { add } = await import("./saving");
  answers = Array.from({ length: 5 }, () => ({ status: 500 }));
  add("first", EDITS, { job_id: "job" }, WIRE, {});
  add("second", EDITS, { job_id: "job" }, WIRE, {});
  await vi.runAllTimersAsync();
  expect(store.saving().aside.map(({ write }) => write.what)).toEqual(["first"]);
  expect(store.saving().waiting).toBe(0);
  expect(sent.length).toBe(6);
});

test("a refusal goes to the form that waits for it, and nothing is sent again", async () => {
  const { change, store } = await opened();
  answers = [{ status: 422, body: { code: "path", message: "no such point", problems: [] } }];
  await expect(change("first")).rejects.toThrow("no such point");
  expect(store.saving().refused).toEqual([]);
  expect(store.saving().waiting).toBe(0);
});

test.each([
  { mine: true, versions: [1, 7] },
  { mine: false, versions: [1] },
])("somebody else was faster: $mine", async ({ mine, versions }) => {
  const { change, store, conflict } = await opened();
  answers = [{ status: 409, body: { code: "stale", message: "faster", row: "w1", current: { version: 7 } } }];
  const changed = change("first");
  await vi.advanceTimersByTimeAsync(100);
  expect(store.saving().conflict?.error.row).toBe("w1");
  conflict.decideConflict(mine);
  expect((await changed).label).toBe(mine ? "done" : "left as it was");
  expect(sent.map(({ body }) => (body.seen as { w1: number }).w1)).toEqual(versions);
});
