/** Leads a route on over segments the vehicle already has, at either end. */
import { Modal, Stack, Text, UnstyledButton } from "@mantine/core";
import { type CircuitView, useBoard } from "../api/queries";
import { sizeName } from "../parts/format";
import { attempt, change } from "../saving/saving";
import { useExtensions } from "./queries";

export function ExtendForm({ view, onClose }: { view: CircuitView; onClose: () => void }) {
  const segments = useBoard(view.job_id).data?.segments ?? [];
  const found = useExtensions(view.circuit.id).data;
  const offered = (found ?? []).flatMap((each) =>
    segments.filter(({ id }) => id === each.segment_id).map((segment) => ({ ...each, segment })),
  );
  async function extend({ edit, segment }: (typeof offered)[number]) {
    const what = `lead ${view.circuit.name} over ${segment.designation}`;
    if (await attempt(change(view.job_id, what, [edit], { seen: [view.circuit], label: what }))) onClose();
  }
  return (
    <Modal
      opened
      onClose={onClose}
      title="Lead the route on"
      centered
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack gap={4}>
        {offered.map((each) => (
          <UnstyledButton
            key={`${each.segment_id} ${each.says}`}
            className="place"
            onClick={() => void extend(each)}
          >
            <strong>{each.segment.designation}</strong> {sizeName(each.segment.description)}{" "}
            <span className="quiet">{each.says}</span>
          </UnstyledButton>
        ))}
        {found?.length === 0 && (
          <Text className="quiet">
            No other segment of this vehicle touches the source or the end of the return.
          </Text>
        )}
      </Stack>
    </Modal>
  );
}
