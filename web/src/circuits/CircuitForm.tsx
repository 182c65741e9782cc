/** Lays out a new circuit, or changes what an existing one is for and must meet. */
import { Autocomplete, Select, SimpleGrid, TextInput } from "@mantine/core";
import { type Board, type CircuitView, type Forms, useForms } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { PointInput } from "../parts/PointInput";
import { QuantityInput } from "../parts/QuantityInput";
import type { Values } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change, type Edit } from "../saving/saving";
import { FIELDS, LENGTHS, present, usual, WHAT_FOR, type WhatFor } from "./circuitFields";

type Props = { board: Board; view?: CircuitView; onClose: (made?: string) => void };

export function CircuitForm(props: Props) {
  const forms = useForms().data;
  return forms ? <Form {...props} forms={forms} /> : null;
}

function Form({ board, forms, view, onClose }: Props & { forms: Forms }) {
  const form = useForm<Values>({
    name: "",
    device: "",
    design_current_a: "",
    source: "",
    ground: "",
    supply_length_m: "",
    return_length_m: "",
    zone: "cabin",
    series: "metric",
    device_kind: "resistive",
    origin: "new",
    ...(view ? present(view) : usual(board, "feed", "resistive")),
  });
  const { values } = form;
  const isGround = values.family === "ground";
  const isKnown = board.devices.some((each) => each.name === values.device);
  const asksKind = !view && !isGround && !isKnown;
  const id = crypto.randomUUID();
  const asked = (name: string) => forms.circuit.find((each) => each.name === name);

  function send() {
    const { source, supply_length_m, device_id, device_kind, ground, return_length_m, zone, series, origin } =
      values;
    const said = Object.fromEntries(WHAT_FOR.map((name) => [name, values[name] ?? ""])) as WhatFor;
    if (view) {
      const edit: Edit = {
        do: "change circuit",
        circuit_id: view.circuit.id,
        ...said,
        device_id: device_id || null,
      };
      return change(board.job.id, `change ${values.name}`, [edit], { seen: [view.circuit] });
    }
    const way = isGround ? {} : { source: source || null, supply_length_m };
    const rest = {
      ground,
      return_length_m,
      zone,
      series,
      origin,
      device_kind: asksKind ? device_kind : null,
    };
    const edit = { do: "lay circuit", id, ...said, ...way, ...rest } as Edit;
    return change(board.job.id, `lay ${values.name}`, [edit]);
  }

  const choose = (name: string) => ({
    label: asked(name)?.label,
    data: asked(name)?.choices ?? [],
    value: values[name] ?? "",
    allowDeselect: false,
    onChange: (value: string | null) => form.set({ [name]: value ?? "" }),
  });

  return (
    <FormModal
      title={view ? `Change ${view.circuit.name}` : "New circuit"}
      action={view ? "Save" : "Add it"}
      size="lg"
      busy={form.busy}
      remark={form.remark([...FIELDS, ...LENGTHS])}
      onSubmit={() => void form.submit(send, () => onClose(view ? undefined : id))}
      onClose={() => onClose()}
    >
      <SimpleGrid cols={2} verticalSpacing="xs">
        <TextInput label="Circuit" placeholder={asked("name")?.usual} data-autofocus {...form.text("name")} />
        <Select
          {...choose("family")}
          onChange={(value) =>
            form.set(
              view ? { family: value ?? "feed" } : usual(board, value ?? "feed", values.device_kind ?? ""),
            )
          }
        />
        <Autocomplete
          label={isGround ? "What is grounded" : "Device"}
          placeholder="Cold box"
          data={board.devices.map((each) => each.name)}
          limit={8}
          maxLength={80}
          {...form.field("device")}
        />
        {view && (
          <Select
            label="In the network it is"
            placeholder="no device"
            clearable
            data={board.devices.map((each) => ({
              value: each.id,
              label: `${each.designation} ${each.name}`,
            }))}
            value={values.device_id || null}
            error={form.field("device_id").error}
            onChange={(value) => form.set({ device_id: value ?? "" })}
          />
        )}
        {asksKind && (
          <Select
            {...choose("device_kind")}
            onChange={(value) =>
              form.set({
                ...usual(board, values.family ?? "feed", value ?? ""),
                device_kind: value ?? "resistive",
              })
            }
          />
        )}
        <QuantityInput
          kind="current"
          label={asked("design_current_a")?.label}
          placeholder={asked("design_current_a")?.usual ?? ""}
          {...form.field("design_current_a")}
        />
        <QuantityInput kind="voltage" label="Voltage at the source" {...form.field("source_v")} />
        <Select {...choose("state")} />
        <Select
          {...choose("target_kind")}
          onChange={(value) => form.set({ target_kind: value ?? "max_drop_v", target_value: "" })}
        />
        <QuantityInput
          kind={values.target_kind === "max_drop_percent" ? "share" : "voltage"}
          label="Target"
          {...form.field("target_value")}
        />
      </SimpleGrid>
      {!view && (
        <SimpleGrid cols={2} verticalSpacing="xs">
          {!isGround && (
            <>
              <PointInput
                label={asked("source")?.label ?? ""}
                placeholder={asked("source")?.usual ?? ""}
                points={board.points}
                {...form.field("source")}
              />
              <QuantityInput
                kind="length"
                label={asked("supply_length_m")?.label}
                placeholder={asked("supply_length_m")?.usual ?? ""}
                {...form.field("supply_length_m")}
              />
            </>
          )}
          <PointInput
            label={asked("ground")?.label ?? ""}
            placeholder={asked("ground")?.usual ?? ""}
            points={board.points}
            {...form.field("ground")}
          />
          <QuantityInput
            kind="length"
            label={asked("return_length_m")?.label}
            placeholder={asked("return_length_m")?.usual ?? ""}
            {...form.field("return_length_m")}
          />
          <Select {...choose("zone")} />
          <Select {...choose("origin")} />
          <Select {...choose("series")} />
        </SimpleGrid>
      )}
    </FormModal>
  );
}
