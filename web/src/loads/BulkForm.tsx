/** Several loads changed together; what is left empty stays as it is with each of them. */
import { Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import type { LedgerLoad } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { asNumber, choices, type Values } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change, type Edit } from "../saving/saving";

const ON = [
  { value: "both", label: "idle and road" },
  { value: "idle", label: "idle only" },
  { value: "road", label: "road only" },
  { value: "neither", label: "neither" },
];
const TURNING = ["idle", "road"] as const;

export function BulkForm({
  jobId,
  loads,
  onClose,
}: {
  jobId: string;
  loads: LedgerLoad[];
  onClose: () => void;
}) {
  const form = useForm<Values>({ duty: "", on: "", priority: "", group: "", times: "", seasons: "" });
  const [asked, setAsked] = useState("");

  function send() {
    const edits = loads.map(
      (load): Edit => ({ do: "change device", device_id: load.id, change: changeOf(load, form.values) }),
    );
    const what = `change ${loads.length} loads`;
    return change(jobId, what, edits, { seen: loads, label: what });
  }

  function submit() {
    if (Object.values(form.values).every((text) => !text)) setAsked("Say what is to change.");
    else void form.submit(send, onClose);
  }

  const select = (name: string, label: string, data: { value: string; label: string }[]) => (
    <Select
      label={label}
      placeholder="as it is"
      data={data}
      value={form.values[name] || null}
      onChange={(value) => form.set({ [name]: value ?? "" })}
    />
  );

  return (
    <FormModal
      title={`${loads.length} loads together`}
      action="Change them"
      busy={form.busy}
      remark={asked || form.remark([])}
      onSubmit={submit}
      onClose={onClose}
    >
      <p className="quiet">{loads.map(({ name }) => name).join(", ")}</p>
      <SimpleGrid cols={2} verticalSpacing="xs">
        <TextInput label="Runs, % of the time" placeholder="as it is" {...form.text("duty")} data-autofocus />
        {select("on", "Counts", ON)}
        {select("times", "At times", [
          ...choices("day", "night"),
          { value: "day,night", label: "day and night" },
        ])}
        {select("seasons", "Seasons", [
          ...choices("summer", "winter", "rain"),
          { value: "winter,rain", label: "winter and rain" },
          { value: "summer,winter,rain", label: "every season" },
        ])}
        {select("priority", "Needed for", choices("engine", "safety", "work", "comfort"))}
        <TextInput label="Listed under" placeholder="as it is" {...form.text("group")} />
      </SimpleGrid>
    </FormModal>
  );
}

function changeOf(load: LedgerLoad, { duty, on, priority, group, times, seasons }: Values) {
  const changed: Record<string, unknown> = {};
  if (duty) changed.duty_percent = asNumber(duty);
  if (on) {
    const others = load.counted_in.filter((state) => state !== "idle" && state !== "road");
    changed.used_in = [...others, ...TURNING.filter((state) => on === "both" || on === state)];
  }
  if (priority) changed.priority = priority;
  if (group) changed.group = group;
  if (times) changed.times = times.split(",");
  if (seasons) changed.seasons = seasons.split(",");
  return changed;
}
