/** Adds a device, or changes one: what it is, its values, and the points its terminals are on. */
import { Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Board, Device } from "../api/queries";
import { save } from "../api/saving";
import { FormModal } from "../parts/FormModal";
import { PartStage } from "../parts/PartStage";
import { PointInput } from "../parts/PointInput";
import { SpecFields } from "../parts/SpecFields";
import { asSpec, asTexts } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { DEVICES, type DeviceKind, fieldsOf, START } from "./deviceKinds";

const KINDS = Object.entries(DEVICES).map(([value, { label }]) => ({ value, label }));
const field = (mark: string) => `terminal ${mark}`;

/** `kind` is what a new device starts as. */
type Props = { board: Board; device?: Device | undefined; kind?: DeviceKind; onClose: () => void };

export function DeviceForm({ board, device, kind: first, onClose }: Props) {
  const [kind, setKind] = useState<DeviceKind>(device?.spec.kind ?? first ?? "battery");
  const { terminals, open } = DEVICES[kind];
  const fields = fieldsOf(
    kind,
    board.devices.filter((each) => each.id !== device?.id),
  );
  const pointName = (id: string) => board.points.find((point) => point.id === id)?.name ?? "";
  const placed = Object.entries(device?.terminals ?? {}).map(([mark, id]) => [field(mark), pointName(id)]);
  const form = useForm<Record<string, string>>({
    ...START,
    ...(device ? asTexts(fields, device.spec) : {}),
    ...Object.fromEntries(placed),
    designation: device?.designation ?? "",
    name: device?.name ?? "",
    origin: device?.origin ?? "existing",
    fate: device?.fate ?? "kept",
  });
  const { values } = form;
  const id = crypto.randomUUID();
  const marks = [...terminals, ...open];

  async function send() {
    const named = marks.map((mark) => [mark, values[field(mark)]?.trim()]).filter(([, point]) => point);
    const body = {
      designation: values.designation?.trim() || undefined,
      name: values.name?.trim() || DEVICES[kind].label,
      terminals: Object.fromEntries(named),
      origin: values.origin,
      fate: values.fate,
      spec: asSpec(kind, fields, values),
    };
    if (device) {
      const { id: row, version } = device;
      await save({
        what: `change ${device.name}`,
        method: "PATCH",
        path: `/api/devices/${row}`,
        row,
        version,
        body,
      });
    } else {
      const path = `/api/jobs/${board.job.id}/devices`;
      await save({ what: `add ${body.name}`, method: "POST", path, body: { ...body, id } });
    }
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
          data={KINDS}
          allowDeselect={false}
          value={kind}
          onChange={(value) => setKind(value as DeviceKind)}
        />
        <TextInput label="Name" placeholder={DEVICES[kind].label} {...form.text("name")} />
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
        <SpecFields key={kind} fields={fields} form={form} />
        <PartStage values={values} set={form.set} />
      </SimpleGrid>
    </FormModal>
  );
}
