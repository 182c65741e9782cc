/** Inserts a segment into a route, lays one between two points, or changes one: its kind, its values, its ends. */
import { SegmentedControl, Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import { type Board, type Forms, type Segment, useBoard, useForms } from "../api/queries";
import { accessEdits } from "../parts/Access";
import { FormModal } from "../parts/FormModal";
import { PartStage, stageOf } from "../parts/PartStage";
import { PointInput } from "../parts/PointInput";
import { SpecFields } from "../parts/SpecFields";
import { asSpec, asTexts, choicesOf, fieldsOf, startOf, type Values } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change, type Edit } from "../saving/saving";

export type SegmentTask =
  | { way: "insert"; beside: Segment; circuitId: string }
  | { way: "edit"; segment: Segment }
  | { way: "lay" };
type Props = { jobId: string; task: SegmentTask; onClose: (made?: string) => void };

export function SegmentForm(props: Props) {
  const board = useBoard(props.jobId).data;
  const forms = useForms().data;
  return board && forms ? <Form {...props} board={board} forms={forms} /> : null;
}

function Form({ jobId, task, board, forms, onClose }: Props & { board: Board; forms: Forms }) {
  const edited = task.way === "edit" ? task.segment : undefined;
  const [kind, setKind] = useState<string>(edited?.spec.kind ?? (task.way === "lay" ? "wire" : "fuse"));
  const [after, setAfter] = useState("after");
  const fields = fieldsOf(forms, kind);
  const pointName = (id: string) => board.points.find((point) => point.id === id)?.name ?? "";
  const form = useForm<Values>({
    ...startOf(fields),
    ...(edited ? asTexts(fields, edited.spec) : {}),
    designation: edited?.designation ?? "",
    origin: edited?.origin ?? "existing",
    fate: edited?.fate ?? "kept",
    access: edited?.access ?? "",
    point_name: "",
    from_point: edited ? pointName(edited.from_point) : "",
    to_point: edited ? pointName(edited.to_point) : "",
  });
  const { values } = form;
  const id = crypto.randomUUID();
  const idOf = (name: string | undefined) =>
    board.points.find((point) => point.name === name)?.id ?? "no-such-point";

  function send() {
    const designation = values.designation?.trim() || null;
    const common = { designation, ...stageOf(values) };
    const spec = asSpec(kind, fields, values);
    const reached = accessEdits("segment", edited?.id ?? id, edited?.access, values.access);
    const what = `${task.way} ${designation ?? kind}`;
    if (task.way === "edit") {
      const { segment } = task;
      const ends = { ...movedEnd(segment, "from_point"), ...movedEnd(segment, "to_point") };
      const edit: Edit = { do: "change segment", segment_id: segment.id, change: spec, ...common, ...ends };
      return change(jobId, what, [edit, ...reached], { seen: [segment] });
    }
    if (task.way === "insert") {
      const place = { circuit_id: task.circuitId, beside: task.beside.id, after: after === "after" };
      const point_name = values.point_name?.trim() || null;
      const edit: Edit = { do: "insert segment", id, ...place, point_name, ...common, spec };
      return change(jobId, what, [edit, ...reached]);
    }
    const ends = { from_point: idOf(values.from_point), to_point: idOf(values.to_point) };
    return change(jobId, what, [{ do: "add segment", id, ...ends, ...common, spec }, ...reached]);
  }

  /** The end, where it was given another existing point. */
  function movedEnd(segment: Segment, end: "from_point" | "to_point") {
    return values[end] === pointName(segment[end]) ? {} : { [end]: idOf(values[end]) };
  }

  const shown = [
    "designation",
    "point_name",
    "from_point",
    "to_point",
    ...fields.map(({ name }) => `spec.${name}`),
  ];
  const title = { insert: "Insert beside", edit: "Edit", lay: "New segment" }[task.way];
  const beside = task.way === "insert" ? task.beside : edited;
  return (
    <FormModal
      title={`${title} ${beside?.designation ?? ""}`}
      action={{ insert: "Insert", edit: "Save", lay: "Lay it" }[task.way]}
      busy={form.busy}
      remark={form.remark(shown)}
      onSubmit={() => void form.submit(send, () => onClose(edited ? undefined : id))}
      onClose={() => onClose()}
    >
      <SimpleGrid cols={2} verticalSpacing="xs">
        <Select
          label="Kind of segment"
          data={forms.segments.map((each) => ({ value: each.kind, label: each.label }))}
          allowDeselect={false}
          value={kind}
          onChange={(value) => {
            setKind(value ?? kind);
            form.set({ condition: "", resistance_ohm: "", ...startOf(fieldsOf(forms, value ?? kind)) });
          }}
        />
        {task.way === "insert" && (
          <SegmentedControl
            aria-label="Where"
            mt={26}
            data={[
              { value: "before", label: `before ${task.beside.designation}` },
              { value: "after", label: `after ${task.beside.designation}` },
            ]}
            value={after}
            onChange={setAfter}
            size="xs"
          />
        )}
      </SimpleGrid>
      <SimpleGrid cols={2} verticalSpacing="xs">
        <SpecFields
          key={kind}
          fields={fields}
          form={form}
          choices={(field) => choicesOf(field, board, forms, values)}
        />
        <TextInput label="Designation" placeholder="the next free one" {...form.text("designation")} />
        {task.way === "insert" ? (
          <TextInput
            label="New point between them"
            placeholder="named after it"
            {...form.text("point_name")}
          />
        ) : (
          (["from_point", "to_point"] as const).map((end) => (
            <PointInput
              key={end}
              label={end === "from_point" ? "From point" : "To point"}
              points={board.points}
              {...form.field(end)}
            />
          ))
        )}
        <PartStage values={values} set={form.set} />
      </SimpleGrid>
    </FormModal>
  );
}
