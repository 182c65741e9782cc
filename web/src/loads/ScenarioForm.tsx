/** A scenario of the job's own: state, season, temperature, and how much of the time single loads run. */
import { Button, Group, Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Budget } from "../api/queries";
import { STATES } from "../app/viewing";
import { FormModal } from "../parts/FormModal";
import { QuantityInput } from "../parts/QuantityInput";
import { asNumber, choices, type Values } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change, type Edit } from "../saving/saving";

type Props = { jobId: string; budget: Budget; scenarioId?: string | undefined; onClose: () => void };
type Row = Budget["scenarios"][number];

export function ScenarioForm({ jobId, budget, scenarioId, onClose }: Props) {
  const own = budget.scenarios.filter(({ version }) => version > 0);
  const [editing, setEditing] = useState<Row | null>(
    own.find(({ scenario }) => scenario.id === scenarioId) ?? null,
  );
  const [id, setId] = useState(() => editing?.scenario.id ?? crypto.randomUUID());
  const form = useForm<Values>(textsOf(editing, budget));
  const { values } = form;
  const duty = (device: string) => `duty ${device}`;

  function open(row: Row | null) {
    setEditing(row);
    setId(row?.scenario.id ?? crypto.randomUUID());
    form.set(textsOf(row, budget));
  }

  function send() {
    const duties = budget.loads
      .map((load) => [load.id, values[duty(load.id)]?.trim() ?? ""])
      .filter(([, text]) => text !== "");
    const { state, time, season, outside_c = "" } = values;
    const name = values.name?.trim() ?? "";
    const duty_percent = Object.fromEntries(duties.map(([device, text]) => [device, asNumber(text ?? "")]));
    const edit = {
      ...{ do: "set scenario", scenario_id: id, name, duty_percent },
      ...{ state, time, season, outside_c },
    } as Edit;
    return change(jobId, `scenario ${name}`, [edit], { seen: seen() });
  }

  const seen = () => (editing ? [{ id, version: editing.version }] : []);
  const remove = () =>
    change(jobId, "delete scenario", [{ do: "remove scenario", scenario_id: id }], { seen: seen() });

  const select = (name: string, label: string, ...of: string[]) => (
    <Select
      label={label}
      data={choices(...of)}
      allowDeselect={false}
      value={values[name] ?? ""}
      onChange={(value) => form.set({ [name]: value ?? "" })}
    />
  );
  const shown = ["name", "outside_c", ...budget.loads.map((load) => `duty_percent.${load.id}`)];

  return (
    <FormModal
      title={editing ? editing.scenario.name : "New scenario"}
      action="Save"
      size="lg"
      busy={form.busy}
      remark={form.remark(shown)}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      {own.length > 0 && (
        <p className="quiet">
          Yours:{" "}
          {own.map((row) => (
            <button type="button" className="link" key={row.scenario.id} onClick={() => open(row)}>
              {row.scenario.name}
            </button>
          ))}{" "}
          <button type="button" className="link" onClick={() => open(null)}>
            new
          </button>
        </p>
      )}
      <SimpleGrid cols={2} verticalSpacing="xs">
        <TextInput label="Scenario" {...form.text("name")} data-autofocus maxLength={80} />
        {select("state", "Key and engine", ...STATES)}
        {select("time", "By", "day", "night")}
        {select("season", "Season", "summer", "winter", "rain")}
        <QuantityInput kind="temperature" label="Outside" {...form.field("outside_c")} />
      </SimpleGrid>
      <details className="more">
        <summary>Loads that run otherwise than the ledger says, % of the time</summary>
        <SimpleGrid cols={2} verticalSpacing="xs">
          {budget.loads.map((load) => (
            <TextInput
              key={load.id}
              label={load.name}
              placeholder="as in the ledger"
              {...form.text(duty(load.id), `duty_percent.${load.id}`)}
            />
          ))}
        </SimpleGrid>
      </details>
      {editing && (
        <Group>
          <Button variant="subtle" size="compact-md" onClick={() => void form.submit(remove, onClose)}>
            Delete this scenario
          </Button>
        </Group>
      )}
    </FormModal>
  );
}

function textsOf(row: Row | null, budget: Budget): Values {
  const scenario = row?.scenario;
  const duties = budget.loads.map((load) => [
    `duty ${load.id}`,
    scenario?.duty_percent?.[load.id]?.toString() ?? "",
  ]);
  return {
    name: scenario?.name ?? "",
    state: scenario?.state ?? "idle",
    time: scenario?.time ?? "day",
    season: scenario?.season ?? "winter",
    outside_c: scenario ? `${scenario.outside_c} C` : "-5 C",
    ...Object.fromEntries(duties),
  };
}
