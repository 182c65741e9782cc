/** The shop's house rules: the margins every job is judged by, each with what it does. */
import { Button, SimpleGrid } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { type FormField, useForms } from "../api/queries";
import { QuantityInput } from "../parts/QuantityInput";
import { SpecFields } from "../parts/SpecFields";
import { asSpec, asTexts } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { useHouseRules, useRuleFields } from "./queries";

type Rules = Schemas["HouseRulesBody"];
type Purpose = Schemas["FamilyDefaults"]["purpose"];

const target = (purpose: string) => `targets.${purpose}`;
const floor = (use: string) => `floors.${use}`;

export function HouseRules() {
  const { data: rules, isFetchedAfterMount } = useHouseRules();
  const fields = useRuleFields().data;
  const purposes = useForms().data?.purposes;
  const [saved, setSaved] = useState(false);
  if (!rules || !fields || !purposes || !isFetchedAfterMount)
    return <p className="page quiet">Reading the house rules …</p>;
  return <Form key={rules.version} {...{ rules, fields, purposes, saved, setSaved }} />;
}

type FormProps = {
  rules: Rules;
  fields: FormField[];
  purposes: Record<string, string>;
  saved: boolean;
  setSaved: (saved: boolean) => void;
};

function Form({ rules, fields, purposes, saved, setSaved }: FormProps) {
  const client = useQueryClient();
  const targets = Object.keys(purposes).map((purpose) => {
    const rule = rules.targets?.[purpose as Purpose];
    return [target(purpose), rule ? `${rule.value} ${rule.kind === "max_drop_v" ? "V" : "%"}` : ""];
  });
  const uses = Object.keys(rules.floors ?? {});
  const floors = uses.map((use) => [floor(use), rules.floors?.[use] ?? ""]);
  const form = useForm<Record<string, string>>({
    ...asTexts(fields, rules),
    ...Object.fromEntries([...targets, ...floors]),
  });
  const shown = [...fields.map(({ name }) => name), ...Object.keys(purposes).map(target), ...uses.map(floor)];
  async function send() {
    const { values } = form;
    const { kind: _, ...said } = asSpec("", fields, values);
    const body = {
      ...said,
      targets: Object.fromEntries(Object.keys(purposes).map((purpose) => [purpose, values[target(purpose)]])),
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
        data and local regulations come first.
      </p>
      <SimpleGrid cols={{ base: 1, sm: 3 }} verticalSpacing={4}>
        <SpecFields fields={fields} form={form} within="" />
      </SimpleGrid>
      <h2>New circuits may lose</h2>
      <SimpleGrid cols={{ base: 2, sm: 4 }} verticalSpacing={4}>
        {Object.entries(purposes).map(([purpose, name]) => (
          <QuantityInput
            key={purpose}
            kind={form.values[target(purpose)]?.trim().endsWith("%") ? "share" : "voltage"}
            label={name}
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
