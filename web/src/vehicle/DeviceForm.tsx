/** Adds a device, or changes one: what it is, its values, and the points its terminals are on. */
import { Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import { type Board, type Device, type Forms, useForms } from "../api/queries";
import { accessEdits } from "../parts/Access";
import { FormModal } from "../parts/FormModal";
import { PartStage, stageOf } from "../parts/PartStage";
import { Photos } from "../parts/Photos";
import { PointInput } from "../parts/PointInput";
import { SpecFields } from "../parts/SpecFields";
import { asSpec, asTexts, choicesOf, fieldsOf, startOf, type Values } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change, type Edit } from "../saving/saving";

const field = (mark: string) => `terminal ${mark}`;

/** `kind` is what a new device starts as. */
type Props = { board: Board; device?: Device | undefined; kind?: string; onClose: () => void };

export function DeviceForm(props: Props) {
  const forms = useForms().data;
  return forms ? <Form {...props} forms={forms} /> : null;
}

function Form({ board, forms, device, kind: first, onClose }: Props & { forms: Forms }) {
  const [kind, setKind] = useState<string>(device?.spec.kind ?? first ?? "battery");
  const look = forms.devices.find((each) => each.kind === kind);
  const fields = look?.fields ?? [];
  const open = look?.open_terminals ?? [];
  const marks = [...(look?.terminals ?? []), ...open];
  const pointName = (id: string) => board.points.find((point) => point.id === id)?.name ?? "";
  const placed = Object.entries(device?.terminals ?? {}).map(([mark, id]) => [field(mark), pointName(id)]);
  const form = useForm<Values>({
    ...startOf(fields),
    ...(device ? asTexts(fields, device.spec) : {}),
    ...Object.fromEntries(placed),
    designation: device?.designation ?? "",
    name: device?.name ?? "",
    origin: device?.origin ?? "existing",
    fate: device?.fate ?? "kept",
    access: device?.access ?? "",
  });
  const { values } = form;
  const id = crypto.randomUUID();
  const others = { ...board, devices: board.devices.filter((each) => each.id !== device?.id) };

  function send() {
    const named = marks.map((mark) => [mark, values[field(mark)]?.trim()]).filter(([, point]) => point);
    const common = {
      designation: values.designation?.trim() || null,
      name: values.name?.trim() || look?.label || kind,
      terminals: Object.fromEntries(named),
      ...stageOf(values),
    };
    const spec = asSpec(kind, fields, values);
    const reached = accessEdits("device", device?.id ?? id, device?.access, values.access);
    if (!device) {
      const edit: Edit = { do: "add device", id, ...common, spec };
      return change(board.job.id, `add ${common.name}`, [edit, ...reached]);
    }
    const edit: Edit = { do: "change device", device_id: device.id, change: spec, ...common };
    return change(board.job.id, `change ${device.name}`, [edit, ...reached], { seen: [device] });
  }

  const shown = [
    "designation",
    "name",
    ...marks.map((mark) => `terminals.${mark}`),
    ...fields.map(({ name }) => `spec.${name}`),
  ];
  return (
    <FormModal
      title={device ? `Change ${device.name}` : "New device"}
      action={device ? "Save" : "Add it"}
      size="lg"
      busy={form.busy}
      remark={form.remark(shown)}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      <SimpleGrid cols={3} verticalSpacing="xs">
        <Select
          label="Kind of device"
          data-autofocus
          openOnFocus={false}
          data={forms.devices.map((each) => ({ value: each.kind, label: each.label }))}
          allowDeselect={false}
          value={kind}
          onChange={(value) => {
            setKind(value ?? kind);
            form.set({ ...startOf(fieldsOf(forms, value ?? kind)), ...values });
          }}
        />
        <TextInput label="Name" placeholder={look?.label ?? ""} {...form.text("name")} />
        <TextInput label="Designation" placeholder="the next free one" {...form.text("designation")} />
        {marks.map((mark) => (
          <PointInput
            key={mark}
            label={`Terminal ${mark}${open.includes(mark) ? ", if wired" : ""}`}
            placeholder="a point; none: not wired yet"
            points={board.points}
            {...form.field(field(mark), `terminals.${mark}`)}
          />
        ))}
        <SpecFields
          key={kind}
          fields={fields}
          form={form}
          choices={(each) => choicesOf(each, others, forms, values)}
        />
        <PartStage values={values} set={form.set} />
      </SimpleGrid>
      {device && <Photos jobId={board.job.id} of="device" subjectId={device.id} name={device.name} />}
    </FormModal>
  );
}
