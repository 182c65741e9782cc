/** Lays out a new circuit, or changes what an existing one is for and must meet. */
import { Autocomplete, Select, SimpleGrid, TextInput } from "@mantine/core";
import type { Board, CircuitView } from "../api/queries";
import { save } from "../api/saving";
import { FormModal } from "../parts/FormModal";
import { FAMILY_NAME, type Family, STATE_NAME } from "../parts/families";
import { PointInput } from "../parts/PointInput";
import { QuantityInput } from "../parts/QuantityInput";
import { plain } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { ZONES } from "./zones";

type Props = { board: Board; view?: CircuitView; onClose: (made?: string) => void };

const TARGETS = [
  { value: "max_drop_v", label: "lose at most … V" },
  { value: "max_drop_percent", label: "lose at most … % of nominal" },
  { value: "min_device_v", label: "device gets at least … V" },
];
const FAMILIES = Object.entries(FAMILY_NAME).map(([value, label]) => ({ value, label }));
const STATES = Object.entries(STATE_NAME).map(([value, label]) => ({ value, label }));
const LOADS = [
  { value: "resistive", label: "a heater, a coil: resistive" },
  { value: "motor", label: "a motor: fan, blower, lift" },
  { value: "pump", label: "a pump" },
  { value: "filament lamp", label: "a lamp with filament" },
  { value: "constant power", label: "electronics: constant power" },
  { value: "constant current", label: "electronics: constant current" },
];
const FIELDS = [
  "name",
  "device",
  "device_id",
  "design_current_a",
  "source_v",
  "target_value",
  "source",
  "ground",
];
const LENGTHS = ["supply_length_m", "return_length_m"];

/** Feeds that suffer from a low voltage have a target of their own. */
const SENSITIVE = ["pump", "constant power", "constant current"];

/** What a circuit of a family usually starts with by the house's rules, as text in the fields. */
function usual(board: Board, family: Family, deviceKind: string) {
  const purpose = family === "feed" && SENSITIVE.includes(deviceKind) ? "electronics and pumps" : family;
  const found = board.defaults.find((each) => each.purpose === purpose);
  const unit = found?.target_kind === "max_drop_percent" ? "%" : "V";
  return {
    family,
    target_kind: found?.target_kind ?? "max_drop_v",
    target_value: found ? `${found.target_value} ${unit}` : "",
    source_v: found ? `${Number(found.source_v.toFixed(2))} V` : "",
    state: family === "starting" ? "cranking" : "idle",
  };
}

function present(view: CircuitView) {
  const { circuit } = view;
  const unit = circuit.target_kind === "max_drop_percent" ? "%" : "V";
  return {
    family: circuit.family,
    target_kind: circuit.target_kind,
    target_value: circuit.typed.target_value ?? `${plain(circuit.target_value)} ${unit}`,
    source_v: circuit.typed.source_v ?? `${plain(circuit.source_v)} V`,
    state: circuit.state,
    name: circuit.name,
    device: circuit.device,
    device_id: circuit.device_id ?? "",
    design_current_a: circuit.typed.design_current_a ?? `${plain(circuit.design_current_a)} A`,
  };
}

export function CircuitForm({ board, view, onClose }: Props) {
  const form = useForm<Record<string, string>>({
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

  async function send() {
    const {
      source = "",
      ground,
      supply_length_m,
      return_length_m,
      zone,
      series,
      device_kind,
      device_id,
      origin,
      ...circuit
    } = values;
    if (view) {
      const { id: row, version } = view.circuit;
      await save({
        what: `change ${values.name}`,
        method: "PATCH",
        path: `/api/circuits/${row}`,
        row,
        version,
        body: { ...circuit, device_id: device_id || null },
      });
      return;
    }
    const kindSent = asksKind ? (device_kind === "pump" ? "motor" : device_kind) : null;
    const path = isGround
      ? { ground, return_length_m, zone, series, origin }
      : { source: source || null, ground, supply_length_m, return_length_m, zone, series, origin };
    const body = { ...circuit, ...path, id, device_kind: kindSent };
    await save({
      what: `lay ${values.name}`,
      method: "POST",
      path: `/api/jobs/${board.job.id}/circuits`,
      body,
    });
  }

  const choose = (name: string, data: { value: string; label: string }[] | string[]) => ({
    data,
    value: values[name] ?? "",
    allowDeselect: false,
    onChange: (value: string | null) => form.set({ [name]: value ?? "" }),
  });

  return (
    <FormModal
      title={view ? `Change ${view.circuit.name}` : "New circuit"}
      action={view ? "Save" : "Lay it out"}
      size="lg"
      busy={form.busy}
      remark={form.remark([...FIELDS, ...LENGTHS])}
      onSubmit={() => void form.submit(send, () => onClose(view ? undefined : id))}
      onClose={() => onClose()}
    >
      <SimpleGrid cols={2} verticalSpacing="xs">
        <TextInput label="Circuit" placeholder="Cold box feed" data-autofocus {...form.text("name")} />
        <Select
          label="Family"
          {...choose("family", FAMILIES)}
          onChange={(value) =>
            form.set(
              view
                ? { family: value ?? "feed" }
                : usual(board, (value ?? "feed") as Family, values.device_kind ?? ""),
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
            label="It is"
            {...choose("device_kind", LOADS)}
            onChange={(value) =>
              form.set({
                ...usual(board, (values.family ?? "feed") as Family, value ?? ""),
                device_kind: value ?? "resistive",
              })
            }
          />
        )}
        <QuantityInput
          kind="current"
          label="Design current"
          placeholder="18 A"
          {...form.field("design_current_a")}
        />
        <QuantityInput kind="voltage" label="Voltage at the source" {...form.field("source_v")} />
        <Select label="Judged while" {...choose("state", STATES)} />
        <Select
          label="It must"
          {...choose("target_kind", TARGETS)}
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
                label="Takes its current from"
                placeholder="Main stud"
                points={board.points}
                {...form.field("source")}
              />
              <QuantityInput
                kind="length"
                label="Wire out to the device"
                placeholder="13 ft"
                {...form.field("supply_length_m")}
              />
            </>
          )}
          <PointInput
            label="Returns to"
            placeholder="B− post"
            points={board.points}
            {...form.field("ground")}
          />
          <QuantityInput
            kind="length"
            label="Wire back"
            placeholder="0.8 m"
            {...form.field("return_length_m")}
          />
          <Select label="Mostly through" {...choose("zone", ZONES)} />
          <Select
            label="Its wires are"
            {...choose("origin", [
              { value: "new", label: "to be laid, new" },
              { value: "existing", label: "there already" },
            ])}
          />
          <Select
            label="Sizes in"
            {...choose("series", [
              { value: "metric", label: "mm²" },
              { value: "awg", label: "AWG" },
            ])}
          />
        </SimpleGrid>
      )}
    </FormModal>
  );
}
