/** Fields as the core asks them, each with the input its kind of answer needs. */
import { MultiSelect, Select, SimpleGrid, Switch, TextInput } from "@mantine/core";
import type { FormField, QuantityKind } from "../api/queries";
import { QuantityInput } from "./QuantityInput";
import type { Choice } from "./specFields";
import type { useForm } from "./useForm";

type TextForm = ReturnType<typeof useForm<Record<string, string>>>;
type Props = {
  fields: FormField[];
  form: TextForm;
  /** What there is to choose from, where the job itself says it. */
  choices?: (field: FormField) => Choice[];
  /** Where the API keeps these values. */
  within?: string;
};

export function SpecFields({ fields, form, choices = (field) => field.choices, within = "spec." }: Props) {
  const more = fields.filter((field) => field.more);
  const one = (field: FormField, focused: boolean) => (
    <OneField
      key={field.name}
      field={field}
      form={form}
      choices={choices(field)}
      path={within + field.name}
      focused={focused}
    />
  );
  return (
    <>
      {fields.filter((field) => !field.more).map((field, index) => one(field, index === 0))}
      {more.length > 0 && (
        <details className="more">
          <summary>
            More: {more.map(({ label }) => label.charAt(0).toLowerCase() + label.slice(1)).join(", ")}
          </summary>
          <SimpleGrid cols={2} verticalSpacing="xs">
            {more.map((field) => one(field, false))}
          </SimpleGrid>
        </details>
      )}
    </>
  );
}

type OneProps = { field: FormField; form: TextForm; choices: Choice[]; path: string; focused: boolean };

function OneField({ field, form, choices, path, focused }: OneProps) {
  const { name, usual, optional } = field;
  const label = field.help ? `${field.label} (${field.help})` : field.label;
  const bound = form.field(name, path);
  const focus = focused ? { "data-autofocus": true } : {};
  switch (field.answer) {
    case "quantity":
      return (
        <QuantityInput
          kind={field.quantity as QuantityKind}
          label={label}
          placeholder={usual}
          {...bound}
          {...focus}
        />
      );
    case "flag":
      return (
        <Switch
          label={label}
          mt={28}
          checked={bound.value !== "false"}
          onChange={(event) => bound.onChange(String(event.currentTarget.checked))}
        />
      );
    case "choice":
      return (
        <Select
          label={label}
          data={choices}
          allowDeselect={optional}
          placeholder={usual}
          value={bound.value || null}
          error={bound.error}
          onChange={(value) => bound.onChange(value ?? "")}
          {...focus}
        />
      );
    case "many":
      return (
        <MultiSelect
          label={label}
          data={choices}
          placeholder={bound.value ? "" : usual}
          value={bound.value ? bound.value.split(",") : []}
          error={bound.error}
          onChange={(values) => bound.onChange(values.join(","))}
        />
      );
    default:
      return <TextInput label={label} placeholder={usual} {...form.text(name, path)} {...focus} />;
  }
}
