/** A consumer by its name plate, as measured, and when it runs; wired later, or where its circuit says. */
import { Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Board, LedgerLoad } from "../api/queries";
import { save } from "../api/saving";
import { FormModal } from "../parts/FormModal";
import { SpecFields } from "../parts/SpecFields";
import { asSpec, asTexts, quantity, type SpecField } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { DEVICES, type DeviceKind, DUTY, MEASURED } from "../vehicle/deviceKinds";

const KINDS: DeviceKind[] = ["resistive", "motor", "filament lamp", "constant power", "constant current"];
const CHOICES = KINDS.map((value) => ({ value, label: DEVICES[value].label }));
const FIELDS: SpecField[] = [
  quantity("voltage", "rated_v", "Rated voltage", "13.5 V"),
  quantity("current", "rated_a", "Draws", "5 A", true),
  quantity("power", "rated_w", "Or its power", "55 W", true),
  ...MEASURED,
  ...DUTY,
  { as: "number", name: "efficiency", label: "Efficiency, 0 to 1", usual: "1", more: true },
  { ...quantity("current", "inrush_a", "Inrush, if measured", "usual for its kind", true), more: true },
];
const START = { duty_percent: "100", times: "day,night", seasons: "summer,winter,rain", priority: "work" };

type Props = { board: Board; load?: LedgerLoad | undefined; name: string; onClose: () => void };

export function LoadForm({ board, load, name, onClose }: Props) {
  const [kind, setKind] = useState<DeviceKind>(load?.spec.kind ?? "constant power");
  const form = useForm<Record<string, string>>({
    ...START,
    rated_v: `${(1.125 * board.job.nominal_v).toFixed(1)} V`,
    ...(load ? texts(load) : {}),
    name: load?.name ?? name,
  });

  function send() {
    const body = { name: form.values.name?.trim() ?? "", spec: asSpec(kind, FIELDS, form.values) };
    if (!load) {
      const path = `/api/jobs/${board.job.id}/devices`;
      return save({
        what: `add ${body.name}`,
        method: "POST",
        path,
        body: { ...body, id: crypto.randomUUID() },
      });
    }
    const { id: row, version } = load;
    return save({
      what: `change ${load.name}`,
      method: "PATCH",
      path: `/api/devices/${row}`,
      row,
      version,
      body,
    });
  }

  return (
    <FormModal
      title={load ? load.name : "New load"}
      action={load ? "Save" : "Add it"}
      busy={form.busy}
      size="lg"
      remark={form.remark(["name", ...FIELDS.map((field) => `spec.${field.name}`)])}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      <SimpleGrid cols={2} verticalSpacing="xs">
        <TextInput label="What" {...form.text("name")} data-autofocus={!load && !name} maxLength={80} />
        <Select
          label="Kind"
          data={CHOICES}
          allowDeselect={false}
          value={kind}
          onChange={(value) => setKind((value as DeviceKind) ?? kind)}
        />
        <SpecFields fields={FIELDS} form={form} />
      </SimpleGrid>
    </FormModal>
  );
}

/** Of watts and the amperes that follow from them only the watts stand in the form. */
function texts(load: LedgerLoad) {
  const all = asTexts(FIELDS, load.spec);
  return all.rated_w ? { ...all, rated_a: "" } : all;
}
