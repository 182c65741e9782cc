/** The dialogs of a circuit. */
export type Dialog = "reading" | "insert" | "edit" | "split" | "circuit" | "points" | "extend" | null;
