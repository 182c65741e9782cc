/** Answers that nobody expected, so that a screen says what is missing on it instead of leaving it out in silence. */
import { useSyncExternalStore } from "react";
import { ApiError } from "./client";

const failed = new Map<string, string>();
const listeners = new Set<() => void>();

/** Remember what went wrong with a question; a good answer to it takes that away again. */
export function heard(question: string, message: string | null) {
  if (message === null && !failed.has(question)) return;
  if (message === null) failed.delete(question);
  else failed.set(question, message);
  for (const each of listeners) each();
}

/** Whether an answer is one that its screen knows what to do with: a refusal of what was asked. */
export const isExpected = (error: unknown) =>
  error instanceof ApiError && error.status >= 400 && error.status < 500;

/** What went wrong last and still is, in words. */
export const useUnexpected = () =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => [...failed.values()].at(-1) ?? null,
  );
