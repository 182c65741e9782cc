/** Inserts a segment into the route, or changes one: what it is, its values, where it ends. */
import { Autocomplete, SegmentedControl, Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import type { CircuitView, Segment } from "../api/queries";
import { save } from "../api/saving";
import { FormModal } from "../parts/FormModal";
import { QuantityInput } from "../parts/QuantityInput";
import { useForm } from "../parts/useForm";
import { ZONES } from "./zones";

type Kind = Segment["spec"]["kind"];
type Props = { view: CircuitView; beside: Segment; way: "insert" | "edit"; onClose: (made?: string) => void };

const KINDS: { value: Kind; label: string }[] = [
  { value: "wire", label: "Wire" },
  { value: "fuse", label: "Fuse" },
  { value: "connector", label: "Connector" },
  { value: "contact", label: "Contact" },
  { value: "joint", label: "Joint" },
  { value: "body", label: "Body metal" },
];
const CONDITIONS: Record<Exclude<Kind, "wire" | "fuse">, string[]> = {
  connector: ["new blade", "tired blade", "bulkhead pair"],
  contact: ["relay", "switch"],
  joint: ["ring on clean stud", "crimped splice", "lug on paint or rust"],
  body: ["seam path"],
};
/** The fields each kind has, in order. */
const FIELDS: Record<Kind, string[]> = {
  wire: ["size", "length_m", "zone", "colour"],
  fuse: ["rating_a", "family", "resistance_ohm"],
  connector: ["condition", "resistance_ohm"],
  contact: ["condition", "rated_a", "resistance_ohm"],
  joint: ["condition", "resistance_ohm"],
  body: ["condition", "resistance_ohm"],
};
const UNIT: Record<string, string> = { length_m: "m", rating_a: "A", rated_a: "A", resistance_ohm: "ohm" };
const CHOICES = new Set(["zone", "family", "condition", "size", "colour"]);

/** The values of a spec as text in the fields, as they were typed where that is known. */
function asText(spec: Segment["spec"]): Record<string, string> {
  const values = Object.entries(spec).filter(([name, value]) => name !== "typed" && value != null);
  return Object.fromEntries(
    values.map(([name, value]) => [
      name,
      spec.typed?.[name] ?? (UNIT[name] ? `${value} ${UNIT[name]}` : `${value}`),
    ]),
  );
}

export function SegmentForm({ view, beside, way, onClose }: Props) {
  const editing = way === "edit";
  const [kind, setKind] = useState<Kind>(editing ? beside.spec.kind : "fuse");
  const [after, setAfter] = useState("after");
  const pointName = (id: string) => view.points.find((point) => point.id === id)?.name ?? "";
  const form = useForm<Record<string, string>>({
    zone: "cabin",
    family: "blade",
    condition: "",
    ...(editing ? asText(beside.spec) : {}),
    designation: editing ? beside.designation : "",
    point_name: "",
    from_point: pointName(beside.from_point),
    to_point: pointName(beside.to_point),
  });
  const { values } = form;
  const id = crypto.randomUUID();

  function spec() {
    const filled = FIELDS[kind].map((name) => [
      name,
      values[name]?.trim() || (name === "condition" ? CONDITIONS[kind as "joint"]?.[0] : ""),
    ]);
    const given = Object.fromEntries(
      filled.filter(([name, value]) => value || (editing && !CHOICES.has(name ?? ""))),
    );
    return {
      kind,
      ...Object.fromEntries(Object.entries(given).map(([name, value]) => [name, value || null])),
    };
  }

  async function send() {
    const designation = values.designation?.trim() || undefined;
    if (!editing) {
      await save({
        what: `insert ${designation ?? kind}`,
        method: "POST",
        path: `/api/circuits/${view.circuit.id}/segments`,
        body: {
          id,
          designation,
          spec: spec(),
          beside: beside.id,
          after: after === "after",
          point_name: values.point_name?.trim() || undefined,
        },
      });
      return;
    }
    await save({
      what: `change ${beside.designation}`,
      method: "PATCH",
      path: `/api/segments/${beside.id}`,
      row: beside.id,
      version: beside.version,
      body: { designation, spec: spec(), ...movedEnds() },
    });
  }

  /** The ends that were given another existing point. */
  function movedEnds() {
    const idOf = (name: string) => view.points.find((point) => point.name === name)?.id;
    return Object.fromEntries(
      (["from_point", "to_point"] as const)
        .filter((end) => values[end] !== pointName(beside[end]))
        .map((end) => [end, idOf(values[end] ?? "") ?? "no such point"]),
    );
  }

  const shown = [
    "designation",
    "point_name",
    "from_point",
    "to_point",
    ...FIELDS[kind].map((name) => `spec.${name}`),
  ];
  return (
    <FormModal
      title={editing ? `Edit ${beside.designation}` : `Insert beside ${beside.designation}`}
      action={editing ? "Save" : "Insert"}
      busy={form.busy}
      remark={form.remark(shown)}
      onSubmit={() => void form.submit(send, () => onClose(editing ? undefined : id))}
      onClose={() => onClose()}
    >
      <SegmentedControl
        aria-label="Kind of segment"
        data={KINDS}
        value={kind}
        onChange={(value) => {
          setKind(value as Kind);
          form.set({ condition: "" });
        }}
        fullWidth
        size="xs"
      />
      {!editing && (
        <SegmentedControl
          aria-label="Where"
          data={[
            { value: "before", label: `before ${beside.designation}` },
            { value: "after", label: `after ${beside.designation}` },
          ]}
          value={after}
          onChange={setAfter}
          size="xs"
        />
      )}
      <SimpleGrid cols={2} verticalSpacing="xs">
        {kind === "wire" && (
          <>
            <QuantityInput
              kind="size"
              label="Size"
              placeholder="10 AWG or 6 mm2"
              data-autofocus
              {...form.field("size", "spec.size")}
            />
            <QuantityInput
              kind="length"
              label="Length"
              placeholder="13 ft or 4.1 m"
              {...form.field("length_m", "spec.length_m")}
            />
            <Select
              label="Through"
              data={ZONES}
              allowDeselect={false}
              value={values.zone ?? "cabin"}
              onChange={(value) => form.set({ zone: value ?? "" })}
            />
            <TextInput label="Colour" placeholder="RD or WH/RD" {...form.text("colour", "spec.colour")} />
          </>
        )}
        {kind === "fuse" && (
          <>
            <QuantityInput
              kind="current"
              label="Rating"
              placeholder="25 A"
              data-autofocus
              {...form.field("rating_a", "spec.rating_a")}
            />
            <Select
              label="Family"
              data={["blade", "bolt-down", "strip"]}
              allowDeselect={false}
              value={values.family ?? "blade"}
              onChange={(value) => form.set({ family: value ?? "" })}
            />
          </>
        )}
        {kind !== "wire" && kind !== "fuse" && (
          <Select
            label="Which"
            data={CONDITIONS[kind]}
            allowDeselect={false}
            value={values.condition || CONDITIONS[kind][0] || null}
            onChange={(value) => form.set({ condition: value ?? "" })}
          />
        )}
        {kind === "contact" && (
          <QuantityInput
            kind="current"
            label="Rated"
            placeholder="40 A"
            {...form.field("rated_a", "spec.rated_a")}
          />
        )}
        {kind !== "wire" && (
          <QuantityInput
            kind="resistance"
            label="Resistance, if measured"
            placeholder="typical"
            {...form.field("resistance_ohm", "spec.resistance_ohm")}
          />
        )}
        <TextInput label="Designation" placeholder="the next free one" {...form.text("designation")} />
        {!editing && (
          <TextInput
            label="New point between them"
            placeholder="named after it"
            {...form.text("point_name")}
          />
        )}
        {editing &&
          (["from_point", "to_point"] as const).map((end) => (
            <Autocomplete
              key={end}
              label={end === "from_point" ? "From point" : "To point"}
              data={view.points.map((point) => point.name)}
              limit={8}
              {...form.field(end)}
            />
          ))}
      </SimpleGrid>
    </FormModal>
  );
}
