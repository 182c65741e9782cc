/** Which of the tests are listed. */
export type Only = "all" | "open" | "over";

export const ONLY: { value: Only; label: string }[] = [
  { value: "all", label: "every test" },
  { value: "open", label: "open tests" },
  { value: "over", label: "not as expected" },
];
