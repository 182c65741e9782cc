/** What families and states are called, as the core says it. */
import type { Schemas } from "../api/client";
import { useForms } from "../api/queries";

export type Family = Schemas["CircuitOut"]["family"];
export type Words = ReturnType<typeof useWords>;

/** A state is said of the vehicle here, "idling"; where it is chosen its own word stands. */
export function useWords() {
  const forms = useForms().data;
  return {
    family: (family: Family) => forms?.families[family] ?? family,
    state: (state: Schemas["CircuitOut"]["state"]) => forms?.states[state] ?? state,
  };
}
