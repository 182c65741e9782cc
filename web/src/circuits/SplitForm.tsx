/** Cuts a wire in two at a new point: for a tap, a fuse or a probe half way. */
import { TextInput } from "@mantine/core";
import type { Segment } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { QuantityInput } from "../parts/QuantityInput";
import { useForm } from "../parts/useForm";
import { change, type Edit } from "../saving/saving";

type Props = { jobId: string; segment: Segment; onClose: () => void };

export function SplitForm({ jobId, segment, onClose }: Props) {
  const form = useForm({ first_m: "", point_name: "" });

  function send() {
    const { first_m, point_name } = form.values;
    const point = point_name.trim() || null;
    const edit: Edit = { do: "split wire", segment_id: segment.id, first_m, point_name: point };
    return change(jobId, `split ${segment.designation}`, [edit], { seen: [segment] });
  }

  return (
    <FormModal
      title={`Split ${segment.designation}, ${segment.description}`}
      action="Split it"
      busy={form.busy}
      remark={form.remark(["first_m", "point_name"])}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      <QuantityInput
        kind="length"
        label="How far from its first point"
        placeholder="1.5 m"
        data-autofocus
        {...form.field("first_m")}
      />
      <TextInput label="New point" placeholder="named after the new piece" {...form.text("point_name")} />
    </FormModal>
  );
}
