/** A consumer by its name plate, as measured, and when it runs; wired later, or where its circuit says. */
import { Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import { type Board, type FormField, type Forms, type LedgerLoad, useForms } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { SpecFields } from "../parts/SpecFields";
import { asSpec, asTexts, fieldsOf, startOf, type Values } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change, type Edit } from "../saving/saving";

/** What the ledger asks of a load, in its own order and words; the rest of its kind is asked where it is wired. */
const PLATE = [
  { name: "rated_v", label: "Rated voltage" },
  { name: "rated_a", label: "Draws" },
  { name: "rated_w", label: "Or its power" },
];
const SELDOM = ["efficiency", "inrush_a"];

/** `ratedV` is what a new load is usually for. */
type Props = {
  board: Board;
  load?: LedgerLoad | undefined;
  name: string;
  ratedV: number;
  onClose: () => void;
};

/** The fields of a kind of load that the ledger asks for: its plate, what was measured, when it runs. */
function ledgerFields(forms: Forms, kind: string): FormField[] {
  const all = fieldsOf(forms, kind);
  const plate = PLATE.flatMap(({ name, label }) =>
    all
      .filter((field) => field.name === name)
      .map((field) => ({ ...field, label, more: false, optional: name !== "rated_v" })),
  );
  const asked = all.filter(({ part }) => part !== "").map((field) => ({ ...field, more: false }));
  return [...plate, ...asked, ...all.filter(({ name }) => SELDOM.includes(name))];
}

export function LoadForm(props: Props) {
  const forms = useForms().data;
  return forms ? <Form {...props} forms={forms} /> : null;
}

function Form({ board, load, name, ratedV, onClose, forms }: Props & { forms: Forms }) {
  const [kind, setKind] = useState<string>(load?.spec.kind ?? "constant power");
  const fields = ledgerFields(forms, kind);
  const form = useForm<Values>({
    ...startOf(fields),
    duty_percent: "100",
    rated_v: `${Number(ratedV.toPrecision(3))} V`,
    ...(load ? texts(fields, load) : {}),
    name: load?.name ?? name,
  });
  const kinds = forms.devices.filter((each) => each.is_load && each.kind !== "indicator lamp");

  function send() {
    const said = { name: form.values.name?.trim() ?? "" };
    const spec = asSpec(kind, fields, form.values);
    if (!load) {
      const edit: Edit = { do: "add device", id: crypto.randomUUID(), ...said, spec };
      return change(board.job.id, `add ${said.name}`, [edit]);
    }
    const edit: Edit = { do: "change device", device_id: load.id, ...said, change: spec };
    return change(board.job.id, `change ${load.name}`, [edit], { seen: [load] });
  }

  return (
    <FormModal
      title={load ? load.name : "New load"}
      action={load ? "Save" : "Add it"}
      busy={form.busy}
      size="lg"
      remark={form.remark(["name", ...fields.map((field) => `spec.${field.name}`)])}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      <SimpleGrid cols={2} verticalSpacing="xs">
        <TextInput label="What" {...form.text("name")} data-autofocus={!load && !name} maxLength={80} />
        <Select
          label="Kind"
          data={kinds.map((each) => ({ value: each.kind, label: each.label }))}
          allowDeselect={false}
          value={kind}
          onChange={(value) => setKind(value ?? kind)}
        />
        <SpecFields fields={fields} form={form} />
      </SimpleGrid>
    </FormModal>
  );
}

/** Of watts and the amperes that follow from them only the watts stand in the form. */
function texts(fields: FormField[], load: LedgerLoad) {
  const all = asTexts(fields, load.spec);
  return all.rated_w ? { ...all, rated_a: "" } : all;
}
