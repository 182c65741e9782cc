/** Which key is meant, whatever keyboard it is pressed on. */
import { expect, test, vi } from "vitest";

vi.stubGlobal("window", { addEventListener: () => undefined });
const { beginsPair, boundTo, keyName, pressed } = await import("./keys");

const event = (key: string, more: Partial<KeyboardEvent> = {}) => ({ key, ...more }) as KeyboardEvent;
const binding = (keys: string) => ({ keys, does: keys, run: () => undefined });

test.each([
  ["k", event("K", { shiftKey: true })], // caps lock, or a slip
  ["?", event("?", { shiftKey: true })], // which needs Shift on one keyboard and not on another
  ["Shift+Tab", event("Tab", { shiftKey: true })],
  ["Mod+k", event("k", { metaKey: true })],
  ["Mod+Shift+z", event("Z", { ctrlKey: true, shiftKey: true })],
  ["Alt+ArrowRight", event("ArrowRight", { altKey: true })],
])("%s", (name, pressedOn) => expect(pressed(pressedOn)).toBe(name));

test("a room's key wins over the frame's, and a pair begins with its first key alone", () => {
  const [frame, room, pair] = [binding("/ Mod+k"), binding("/"), binding("s>4")];
  expect(boundTo("/", [frame, room, pair])).toBe(room);
  expect(boundTo("Mod+k", [frame, room, pair])).toBe(frame);
  expect(boundTo("4", [frame, room, pair])).toBeUndefined();
  expect(["s", "4", "/"].map((key) => beginsPair(key, [frame, room, pair]))).toEqual([true, false, false]);
  expect(["s>4", "Mod+ArrowLeft", "+"].map(keyName)).toEqual(["s 4", "Ctrl ←", "+"]);
});
