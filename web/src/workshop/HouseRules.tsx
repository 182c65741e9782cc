/** The shop's house rules: the margins every job is judged by, each with what it does. */
import { Button, Select, SimpleGrid, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { useHouseRules } from "../api/queries";
import { QuantityInput } from "../parts/QuantityInput";
import { useForm } from "../parts/useForm";
import { FIELDS, type Field, floor, PURPOSES, type Rules, TARGETS, target } from "./houseRuleFields";

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
