/** The fields of a spec, each with the input its kind of value needs. */
import { MultiSelect, Select, SimpleGrid, Switch, TextInput } from "@mantine/core";
import { QuantityInput } from "./QuantityInput";
import type { SpecField } from "./specFields";
import type { useForm } from "./useForm";

type Props = { fields: SpecField[]; form: ReturnType<typeof useForm<Record<string, string>>> };

export function SpecFields({ fields, form }: Props) {
  const more = fields.filter((field) => field.more);
  return (
    <>
      {fields
        .filter((field) => !field.more)
        .map((field, index) => (
          <OneField key={field.name} field={field} form={form} focused={index === 0} />
        ))}
      {more.length > 0 && (
        <details className="more">
          <summary>More: {more.map(({ label }) => label.toLowerCase()).join(", ")}</summary>
          <SimpleGrid cols={2} verticalSpacing="xs">
            {more.map((field) => (
              <OneField key={field.name} field={field} form={form} focused={false} />
            ))}
          </SimpleGrid>
        </details>
      )}
    </>
  );
}

function OneField({ field, form, focused }: { field: SpecField; form: Props["form"]; focused: boolean }) {
  const { name, label } = field;
  const bound = form.field(name, `spec.${name}`);
  const focus = focused ? { "data-autofocus": true } : {};
  switch (field.as) {
    case "quantity":
      return (
        <QuantityInput
          kind={field.quantity}
          label={label}
          placeholder={field.usual ?? ""}
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
          data={field.choices}
          allowDeselect={field.optional ?? false}
          placeholder={field.usual ?? ""}
          value={bound.value || null}
          error={bound.error}
          onChange={(value) => bound.onChange(value ?? "")}
        />
      );
    case "many":
      return (
        <MultiSelect
          label={label}
          data={field.choices}
          placeholder={bound.value ? "" : (field.usual ?? "")}
          value={bound.value ? bound.value.split(",") : []}
          error={bound.error}
          onChange={(values) => bound.onChange(values.join(","))}
        />
      );
    default:
      return (
        <TextInput
          label={label}
          placeholder={field.usual ?? ""}
          {...form.text(name, `spec.${name}`)}
          {...focus}
        />
      );
  }
}
