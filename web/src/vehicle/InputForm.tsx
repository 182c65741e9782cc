/** Adds or changes a named condition that drives switches: its positions and where it stands in each state. */
import { MultiSelect, Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Board, Input } from "../api/queries";
import { STATES, type State } from "../app/viewing";
import { FormModal } from "../parts/FormModal";
import { choices } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change } from "../saving/saving";

type Props = { board: Board; input?: Input | undefined; onClose: () => void };

/** An id as the API takes it, from a name. */
const idFrom = (name: string) =>
  name
    .trim()
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, "_")
    .replaceAll(/^_|_$/g, "");

export function InputForm({ board, input, onClose }: Props) {
  const usual = STATES.map((state) => [`in ${state}`, input?.by_state[state] ?? ""]);
  const form = useForm<Record<string, string>>({
    name: input?.name ?? "",
    positions: input?.positions.join(", ") ?? "off, on",
    ...Object.fromEntries(usual),
  });
  const [fixedIn, setFixedIn] = useState<State[]>(input?.fixed_in ?? []);
  const { values } = form;
  const positions = (values.positions ?? "").split(",").map(idFrom).filter(Boolean);

  function send() {
    const name = values.name ?? "";
    const set = STATES.map((state) => [state, values[`in ${state}`]]).filter(([, position]) => position);
    const said = { name, positions, by_state: Object.fromEntries(set), fixed_in: fixedIn };
    const id = input?.key ?? idFrom(name);
    if (!input) return change(board.job.id, `add ${name}`, [{ do: "add input", id, ...said }]);
    const seen = [{ id, version: input.version }];
    return change(board.job.id, `change ${name}`, [{ do: "change input", input_id: id, ...said }], { seen });
  }

  return (
    <FormModal
      title={input ? `Change ${input.name}` : "New switch or condition"}
      action={input ? "Save" : "Add it"}
      busy={form.busy}
      remark={form.remark(["name", "positions"])}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      <TextInput label="Name" placeholder="Oil pressure" data-autofocus {...form.text("name")} />
      <TextInput label="Positions, the resting one first" placeholder="off, on" {...form.text("positions")} />
      <SimpleGrid cols={3} verticalSpacing="xs">
        {STATES.map((state) => (
          <Select
            key={state}
            label={`Usually, ${state}`}
            placeholder={positions[0] ?? ""}
            clearable
            data={choices(...new Set(positions))}
            value={values[`in ${state}`] || null}
            onChange={(position) => form.set({ [`in ${state}`]: position ?? "" })}
          />
        ))}
      </SimpleGrid>
      <MultiSelect
        label="Cannot stand otherwise in"
        description="Nobody drives with the parking brake on: the proof then leaves that out"
        placeholder={fixedIn.length === 0 ? "it can be moved in every state" : ""}
        data={STATES}
        value={fixedIn}
        onChange={(states) => setFixedIn(states as State[])}
      />
    </FormModal>
  );
}
