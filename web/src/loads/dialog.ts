/** The dialogs of the loads. */
import type { LedgerLoad } from "../api/queries";

export type Dialog =
  | { what: "add" }
  | { what: "load"; load?: LedgerLoad; name?: string }
  | { what: "measured"; load: LedgerLoad }
  | { what: "bulk"; loads: LedgerLoad[] }
  | { what: "source"; kind: "battery" | "alternator"; id?: string | undefined }
  | { what: "drive"; id?: string }
  | { what: "scenario"; id?: string }
  | { what: "import"; file: File };
