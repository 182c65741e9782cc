/** The shop's house rules: the margins every job is judged by, each with what it does. */
import { Button, Select, SimpleGrid } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { type QuantityKind, useHouseRules } from "../api/queries";
import { QuantityInput } from "../parts/QuantityInput";
import { choices } from "../parts/specFields";
import { useForm } from "../parts/useForm";

type Rules = Schemas["HouseRulesBody"];
type Name = Exclude<keyof Rules, "version">;
type Field = { name: Name; label: string; unit: string; quantity?: QuantityKind; of?: string[] };

const FIELDS: Field[] = [
  {
    name: "fuse_load_percent",
    label: "A fuse carries for long, of its rating",
    unit: "%",
    quantity: "share",
  },
  { name: "source_fuse_within_m", label: "A fuse sits within, of its source", unit: "m", quantity: "length" },
  { name: "ampacity_rule", label: "What a wire may carry, by", unit: "", of: ["table", "thermal model"] },
  { name: "thinnest_wire", label: "Thinnest wire", unit: "", quantity: "size" },
  {
    name: "joined",
    label: "Terminals are",
    unit: "",
    of: ["crimped", "crimped and soldered", "soldered"],
  },
  { name: "slack_percent", label: "Cut longer, of the length", unit: "%", quantity: "share" },
  { name: "slack_m", label: "Cut longer besides", unit: "m", quantity: "length" },
  { name: "close_percent", label: "Close, from this much of the allowance", unit: "%", quantity: "share" },
  {
    name: "min_test_current_percent",
    label: "A drop test needs, of the design current",
    unit: "%",
    quantity: "share",
  },
  {
    name: "expected_tolerance_percent",
    label: "A reading is as expected within",
    unit: "%",
    quantity: "share",
  },
  {
    name: "charging_reserve_percent",
    label: "An alternator makes more than is asked, to charge with",
    unit: "%",
    quantity: "share",
  },
];

export function HouseRules() {
  const rules = useHouseRules().data;
  if (!rules) return <p className="page quiet">Reading the house rules …</p>;
  return <Form key={rules.version} rules={rules} />;
}

function Form({ rules }: { rules: Rules }) {
  const client = useQueryClient();
  const [saved, setSaved] = useState(false);
  const texts = FIELDS.map(({ name, unit }) => [name, `${rules[name]} ${unit}`.trim()]);
  const form = useForm<Record<string, string>>(Object.fromEntries(texts));
  async function send() {
    const body = { ...form.values, version: rules.version } as unknown as Rules;
    await answer(api.PUT("/api/house-rules", { body }));
    setSaved(true);
    await client.invalidateQueries();
  }
  return (
    <form
      className="page house-rules"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void form.submit(send, () => undefined);
      }}
    >
      <div className="page-head">
        <h1>House rules</h1>
      </div>
      <p>
        Common practice unless you change it. Every job of this shop is judged by these; the vehicle maker’s
        data and local codes come first.
      </p>
      <SimpleGrid cols={{ base: 1, sm: 2 }} verticalSpacing="xs">
        {FIELDS.map((field) => (
          <Input key={field.name} field={field} form={form} />
        ))}
      </SimpleGrid>
      {form.remark(FIELDS.map(({ name }) => name)) && (
        <p role="alert" className="problem">
          {form.remark(FIELDS.map(({ name }) => name))}
        </p>
      )}
      <Button type="submit" loading={form.busy} mt="md">
        Save the rules
      </Button>
      {saved && <span role="status"> saved</span>}
    </form>
  );
}

type InputProps = { field: Field; form: ReturnType<typeof useForm<Record<string, string>>> };

function Input({ field, form }: InputProps) {
  const { name, label, quantity, of } = field;
  if (quantity) return <QuantityInput kind={quantity} label={label} {...form.field(name)} />;
  return (
    <Select
      label={label}
      data={choices(...(of ?? []))}
      allowDeselect={false}
      value={form.values[name] ?? ""}
      error={form.field(name).error}
      onChange={(value) => form.set({ [name]: value ?? "" })}
    />
  );
}
