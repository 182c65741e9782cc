/** What of the states is shown. */
export type Shown = "matrix" | "pull" | "time";
export const VIEWS: { value: Shown; label: string }[] = [
  { value: "matrix", label: "matrix" },
  { value: "pull", label: "if pulled" },
  { value: "time", label: "key sequence" },
];
