/** The keyboard: each screen says which keys it knows, one listener serves them, and `?` lists them. */
import { useLayoutEffect, useRef, useSyncExternalStore } from "react";

/** `keys` are alternatives apart by spaces; `s>4` is s, then 4. */
export type KeyBinding = { keys: string; does: string; run: () => void };
type Group = { title: string; bindings: KeyBinding[] };

let groups: Group[] = [];
const listeners = new Set<() => void>();

function setGroups(next: Group[]) {
  groups = next;
  for (const listener of listeners) listener();
}

/** The name of a pressed key with its modifiers: `ArrowLeft`, `Mod+z`, `Alt+ArrowRight`, `?`. */
export function pressed(event: KeyboardEvent): string {
  const modifiers = `${event.ctrlKey || event.metaKey ? "Mod+" : ""}${event.altKey ? "Alt+" : ""}`;
  const shift = event.shiftKey && (modifiers !== "" || event.key.length > 1) ? "Shift+" : "";
  return modifiers + shift + (event.key.length === 1 ? event.key.toLowerCase() : event.key);
}

/** What edits a figure; a box that takes nothing else (`data-figures`) leaves every other key to the screen. */
const OF_A_FIGURE = /^([0-9.,+−-]|Backspace|Delete|Home|End|Arrow(Left|Right)|Tab|Mod\+(?!k$).*)$/;

function isTyping(target: EventTarget | null, key: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
  const field = target.closest<HTMLElement>("input, textarea, select, [contenteditable]");
  if (field?.dataset.figures !== undefined) return OF_A_FIGURE.test(key) && first === null;
  return field !== null;
}

/** The first key of a pair such as `s 4`, while its second is awaited. */
let first: { name: string; at: number } | null = null;
const PAIR_MS = 1500;

/** Whether a key is the first of a pair. */
export const beginsPair = (key: string, bindings: KeyBinding[]) =>
  bindings.some((each) => each.keys.split(" ").some((keys) => keys.startsWith(`${key}>`)));

/** What a key does: the last binding that has it, which is the room's before the frame's. */
export const boundTo = (key: string, bindings: KeyBinding[]) =>
  bindings.findLast((each) => each.keys.split(" ").includes(key));

function onKeyDown(event: KeyboardEvent) {
  const alone = pressed(event);
  if (first && event.timeStamp - first.at >= PAIR_MS) first = null;
  const name = first ? `${first.name}>${alone}` : alone;
  const typing = isTyping(event.target, alone);
  const inDialog = document.querySelector("[role=dialog]") !== null;
  if (event.defaultPrevented || inDialog || (typing && !name.startsWith("Mod+"))) return;
  if (typing && name !== "Mod+k") return;
  // A focused button or link keeps its own Enter and Space.
  const onControl = event.target instanceof HTMLElement && event.target.closest("button, a") !== null;
  if (onControl && (name === "Enter" || name === " ")) return;
  const bindings = groups.flatMap((group) => group.bindings);
  first = beginsPair(alone, bindings) ? { name: alone, at: event.timeStamp } : null;
  const binding = boundTo(name, bindings);
  if (binding) {
    event.preventDefault();
    // A room's own cursor moves: the link that led here no longer takes Enter.
    if (onControl && name.startsWith("Arrow")) (event.target as HTMLElement).blur();
    binding.run();
  }
}

window.addEventListener("keydown", onKeyDown);

/** Serve these keys while the component is on screen; a room's keys win over those of the `frame` around it. */
export function useKeys(title: string, bindings: KeyBinding[], frame = false) {
  const latest = useRef(bindings);
  latest.current = bindings;
  useLayoutEffect(() => {
    // As soon as the room is drawn: a key that comes before the next idle moment counts.
    const group: Group = {
      title,
      get bindings() {
        return latest.current;
      },
    };
    setGroups(frame ? [group, ...groups] : [...groups, group]);
    return () => setGroups(groups.filter((each) => each !== group));
  }, [title, frame]);
}

export function useKeyGroups(): Group[] {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => groups,
  );
}

const SHOWN: Record<string, string> = {
  ArrowLeft: "←",
  ArrowRight: "→",
  ArrowUp: "↑",
  ArrowDown: "↓",
  Mod: "Ctrl",
  Delete: "Del",
  Escape: "Esc",
};

/** A key's name as it stands on the keyboard; a pair is one key after the other. */
export const keyName = (key: string) =>
  key
    .split(/(?<=.)[+>]/)
    .map((part) => SHOWN[part] ?? part)
    .join(" ");
