/** Inserts a segment into a route, lays one between two points, or changes one: its kind, its values, its ends. */
import { SegmentedControl, Select, SimpleGrid, TextInput } from "@mantine/core";
import { useState } from "react";
import { type Board, type Segment, useBoard } from "../api/queries";
import { save } from "../api/saving";
import { FormModal } from "../parts/FormModal";
import { PartStage } from "../parts/PartStage";
import { PointInput } from "../parts/PointInput";
import { SpecFields } from "../parts/SpecFields";
import { asSpec, asTexts } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { fieldsOf, SEGMENT_KINDS, type SegmentKind, START } from "./segmentKinds";

export type SegmentTask =
  | { way: "insert"; beside: Segment; circuitId: string }
  | { way: "edit"; segment: Segment }
  | { way: "lay" };
type Props = { jobId: string; task: SegmentTask; onClose: (made?: string) => void };

export function SegmentForm(props: Props) {
  const board = useBoard(props.jobId).data;
  return board ? <Form {...props} board={board} /> : null;
}

function Form({ jobId, task, board, onClose }: Props & { board: Board }) {
  const edited = task.way === "edit" ? task.segment : undefined;
  const [kind, setKind] = useState<SegmentKind>(edited?.spec.kind ?? (task.way === "lay" ? "wire" : "fuse"));
  const [after, setAfter] = useState("after");
  const pointName = (id: string) => board.points.find((point) => point.id === id)?.name ?? "";
  const form = useForm<Record<string, string>>({
    ...START,
    ...(edited ? asTexts(fieldsOf(kind, board, ""), edited.spec) : {}),
    designation: edited?.designation ?? "",
    origin: edited?.origin ?? "existing",
    fate: edited?.fate ?? "kept",
    point_name: "",
    from_point: edited ? pointName(edited.from_point) : "",
    to_point: edited ? pointName(edited.to_point) : "",
  });
  const { values } = form;
  const fields = fieldsOf(kind, board, values.input ?? "key");
  const id = crypto.randomUUID();
  const idOf = (name: string | undefined) =>
    board.points.find((point) => point.name === name)?.id ?? "no such point";

  async function send() {
    const designation = values.designation?.trim() || undefined;
    const common = {
      designation,
      origin: values.origin,
      fate: values.fate,
      spec: asSpec(kind, fields, values),
    };
    const what = `${task.way} ${designation ?? kind}`;
    if (task.way === "edit") {
      const { id: row, version } = task.segment;
      const body = { ...common, ...movedEnds(task.segment) };
      await save({ what, method: "PATCH", path: `/api/segments/${row}`, row, version, body });
    } else if (task.way === "insert") {
      const place = {
        beside: task.beside.id,
        after: after === "after",
        point_name: values.point_name?.trim() || undefined,
      };
      const path = `/api/circuits/${task.circuitId}/segments`;
      await save({ what, method: "POST", path, body: { ...common, ...place, id } });
    } else {
      const ends = { from_point: idOf(values.from_point), to_point: idOf(values.to_point) };
      await save({
        what,
        method: "POST",
        path: `/api/jobs/${jobId}/segments`,
        body: { ...common, ...ends, id },
      });
    }
  }

  /** The ends that were given another existing point. */
  function movedEnds(segment: Segment) {
    return Object.fromEntries(
      (["from_point", "to_point"] as const)
        .filter((end) => values[end] !== pointName(segment[end]))
        .map((end) => [end, idOf(values[end])]),
    );
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
          data={SEGMENT_KINDS}
          allowDeselect={false}
          value={kind}
          onChange={(value) => {
            setKind(value as SegmentKind);
            form.set({ condition: "", resistance_ohm: "" });
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
        <SpecFields key={kind} fields={fields} form={form} />
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
