/** How one gets at a point or a part: what a measurement there costs in minutes. */
import { Select } from "@mantine/core";
import type { Schemas } from "../api/client";
import type { Edit } from "../saving/saving";

type SetAccess = Schemas["SetAccess"];
type Access = SetAccess["access"];
const ACCESSES = ["open", "panel", "under the vehicle", "inside the loom"] as const satisfies Access[];
const USUAL = "as is usual for it";

/** `reached` is how one gets there as things are. */
type Props = {
  value: string;
  reached?: Exclude<Access, null>;
  label?: string;
  onChange: (value: string) => void;
};

export function AccessSelect({ value, reached, label, onChange }: Props) {
  const usual = reached && value === "" ? `usual: ${SAYS[reached]}` : USUAL;
  return (
    <Select
      {...(label ? { "aria-label": label } : { label: "Access" })}
      data={[{ value: "", label: usual }, ...ACCESSES.map((each) => ({ value: each, label: SAYS[each] }))]}
      allowDeselect={false}
      value={value}
      onChange={(chosen) => onChange(chosen ?? "")}
    />
  );
}

const SAYS = {
  open: "openly",
  panel: "behind a panel",
  "under the vehicle": "under the vehicle",
  "inside the loom": "inside the harness",
};

/** What to write where somebody chose another way to a part than it had. */
export function accessEdits(of: SetAccess["of"], id: string, was: Access | undefined, chosen = ""): Edit[] {
  if (chosen === (was ?? "")) return [];
  return [{ do: "set access", of, id, access: (chosen || null) as Access }];
}
