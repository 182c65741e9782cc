/** The shop's house rules: the margins every job is judged by, each with what it does. */
import { Button, Select, SimpleGrid, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { type QuantityKind, useHouseRules } from "../api/queries";
import { QuantityInput } from "../parts/QuantityInput";
import { type Choice, choices } from "../parts/specFields";
import { useForm } from "../parts/useForm";

type Rules = Schemas["HouseRulesBody"];
type Name = Exclude<keyof Rules, "version" | "targets" | "floors">;
type Purpose = Schemas["FamilyDefaults"]["purpose"];
type Field = { name: Name; label: string; unit: string; quantity?: QuantityKind; of?: Choice[] };

const FIELDS: Field[] = [
  {
    name: "fuse_load_percent",
    label: "A fuse carries for long, of its rating",
    unit: "%",
    quantity: "share",
  },
  { name: "source_fuse_within_m", label: "A fuse sits within, of its source", unit: "m", quantity: "length" },
  {
    name: "ampacity_rule",
    label: "What a wire may carry, by",
    unit: "",
    of: choices("lower of both", "table", "thermal model"),
  },
  {
    name: "school",
    label: "New sizes are",
    unit: "",
    of: [
      { value: "light", label: "light: the smallest that do" },
      { value: "usual", label: "usual: with margin" },
      { value: "generous", label: "generous: one above usual" },
    ],
  },
  {
    name: "wire_load_percent",
    label: "Usual size: carries for long, of what it may",
    unit: "%",
    quantity: "share",
  },
  { name: "wire_rise_k", label: "Usual size: warmer than the air by, K", unit: "" },
  { name: "thinnest_wire", label: "Thinnest wire", unit: "", quantity: "size" },
  { name: "smallest_fuse_a", label: "Smallest fuse on the shelf", unit: "A", quantity: "current" },
  {
    name: "copper",
    label: "Copper is as warm as",
    unit: "",
    of: [
      { value: "own temperature", label: "its current makes it" },
      { value: "zone temperature", label: "its zone, as in handbooks" },
    ],
  },
  { name: "coldest_morning_c", label: "It must start on mornings of", unit: "°C" },
  {
    name: "joined",
    label: "Terminals are",
    unit: "",
    of: choices("crimped", "crimped and soldered", "soldered"),
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
    label: "An alternator makes more than asked, by",
    unit: "%",
    quantity: "share",
  },
];

const PURPOSES: Record<Purpose, string> = {
  charging: "Charging",
  starting: "Starting",
  ground: "Grounds",
  feed: "Feeds in general",
  "electronics and pumps": "Feeds of electronics and pumps",
  control: "Control",
  exciter: "Exciter",
  sense: "Sense",
};
const TARGETS = Object.keys(PURPOSES) as Purpose[];
const target = (purpose: string) => `targets.${purpose}`;

const floor = (use: string) => `floors.${use}`;

export function HouseRules() {
  const { data: rules, isFetchedAfterMount } = useHouseRules();
  const [saved, setSaved] = useState(false);
  if (!rules || !isFetchedAfterMount) return <p className="page quiet">Reading the house rules …</p>;
  return <Form key={rules.version} {...{ rules, saved, setSaved }} />;
}

type FormProps = { rules: Rules; saved: boolean; setSaved: (saved: boolean) => void };

function Form({ rules, saved, setSaved }: FormProps) {
  const client = useQueryClient();
  const texts = FIELDS.map(({ name, unit }) => [name, `${rules[name]} ${unit}`.trim()]);
  const targets = TARGETS.map((purpose) => {
    const rule = rules.targets?.[purpose];
    return [target(purpose), rule ? `${rule.value} ${rule.kind === "max_drop_v" ? "V" : "%"}` : ""];
  });
  const uses = Object.keys(rules.floors ?? {});
  const floors = uses.map((use) => [floor(use), rules.floors?.[use] ?? ""]);
  const form = useForm<Record<string, string>>(Object.fromEntries([...texts, ...targets, ...floors]));
  const shown = [...FIELDS.map(({ name }) => name as string), ...TARGETS.map(target), ...uses.map(floor)];
  async function send() {
    const { values } = form;
    const body = {
      ...Object.fromEntries(FIELDS.map(({ name }) => [name, values[name]])),
      targets: Object.fromEntries(TARGETS.map((purpose) => [purpose, values[target(purpose)]])),
      floors: Object.fromEntries(uses.map((use) => [use, values[floor(use)]])),
      version: rules.version,
    } as unknown as Rules;
    await answer(api.PUT("/api/house-rules", { body }));
    setSaved(true);
    await client.invalidateQueries();
  }
  return (
    <form
      className="page house-rules"
      noValidate
      onChange={() => setSaved(false)}
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
      <SimpleGrid cols={{ base: 1, sm: 3 }} verticalSpacing={4}>
        {FIELDS.map((field) => (
          <Input key={field.name} field={field} form={form} />
        ))}
      </SimpleGrid>
      <h2>New circuits may lose</h2>
      <SimpleGrid cols={{ base: 2, sm: 4 }} verticalSpacing={4}>
        {TARGETS.map((purpose) => (
          <QuantityInput
            key={purpose}
            kind={form.values[target(purpose)]?.trim().endsWith("%") ? "share" : "voltage"}
            label={PURPOSES[purpose]}
            {...form.field(target(purpose))}
          />
        ))}
      </SimpleGrid>
      <h2>No wire is thinner than</h2>
      <SimpleGrid cols={{ base: 2, sm: 4 }} verticalSpacing={4}>
        {uses.map((use) => (
          <QuantityInput
            key={use}
            kind="size"
            label={use.charAt(0).toUpperCase() + use.slice(1)}
            {...form.field(floor(use))}
          />
        ))}
      </SimpleGrid>
      {form.remark(shown) && (
        <p role="alert" className="problem">
          {form.remark(shown)}
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
  if (!of) return <TextInput label={label} inputMode="decimal" {...form.text(name)} />;
  return (
    <Select
      label={label}
      data={of}
      allowDeselect={false}
      value={form.values[name] ?? ""}
      error={form.field(name).error}
      onChange={(value) => form.set({ [name]: value ?? "" })}
    />
  );
}
