/** Whether a piece was found or is new, what becomes of it, and how one gets at it. */
import { Select } from "@mantine/core";
import type { Schemas } from "../api/client";
import { AccessSelect } from "./Access";
import { choices, type Values } from "./specFields";

type Props = { values: Values; set: (change: Values) => void };

export function PartStage({ values, set }: Props) {
  return (
    <>
      <Select
        label="It is"
        data={choices("existing", "new")}
        allowDeselect={false}
        value={values.origin ?? "existing"}
        onChange={(origin) => set({ origin: origin ?? "existing" })}
      />
      <Select
        label="It is to be"
        data={choices("kept", "removed", "stowed")}
        allowDeselect={false}
        value={values.fate ?? "kept"}
        onChange={(fate) => set({ fate: fate ?? "kept" })}
      />
      <AccessSelect value={values.access ?? ""} onChange={(access) => set({ access })} />
    </>
  );
}

/** What was chosen, as the API takes it. */
export const stageOf = ({ origin, fate }: Values) =>
  ({ origin, fate }) as Required<Pick<Schemas["AddSegment"], "origin" | "fate">>;
