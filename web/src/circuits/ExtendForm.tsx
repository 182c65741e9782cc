/** Leads a route on over segments the vehicle already has, at either end. */
import { Modal, Stack, Text, UnstyledButton } from "@mantine/core";
import type { CircuitView, Segment } from "../api/queries";
import { useBoard } from "../api/queries";
import { attempt, change, type Edit } from "../api/saving";
import { sizeName } from "../parts/format";

type Path = Pick<CircuitView["circuit"], "source_point" | "supply" | "return_point" | "return_path">;
type Extension = { segment: Segment; says: string; path: Path };

/** Segments that touch the source or the far end of the return, and the path they would make. */
function extensions(view: CircuitView, segments: Segment[]): Extension[] {
  const { circuit } = view;
  const used = new Set([...circuit.supply, ...circuit.return_path]);
  const visited = new Set([...view.supply_stations, ...view.return_stations]);
  const name = (id: string) => view.points.find((point) => point.id === id)?.name ?? "";
  const path = {
    source_point: circuit.source_point,
    supply: circuit.supply,
    return_point: circuit.return_point,
    return_path: circuit.return_path,
  };
  const beyond = (segment: Segment, end: string | undefined | null) => {
    const far =
      segment.from_point === end
        ? segment.to_point
        : segment.to_point === end
          ? segment.from_point
          : undefined;
    return far && !visited.has(far) ? far : undefined;
  };
  return segments
    .filter((segment) => !used.has(segment.id))
    .flatMap((segment) => {
      const found: Extension[] = [];
      const source = beyond(segment, circuit.source_point);
      if (source) {
        const says = `starts at ${name(source)}`;
        found.push({
          segment,
          says,
          path: { ...path, source_point: source, supply: [segment.id, ...circuit.supply] },
        });
      }
      const ground = beyond(segment, view.return_stations.at(-1));
      if (ground) {
        const says = `returns to ${name(ground)}`;
        found.push({ segment, says, path: { ...path, return_path: [...circuit.return_path, segment.id] } });
      }
      return found;
    });
}

export function ExtendForm({ view, onClose }: { view: CircuitView; onClose: () => void }) {
  const board = useBoard(view.job_id).data;
  const found = board ? extensions(view, board.segments) : [];
  async function extend({ segment, path }: Extension) {
    const what = `lead ${view.circuit.name} over ${segment.designation}`;
    const edit: Edit = { do: "route circuit", circuit_id: view.circuit.id, ...path };
    if (await attempt(change(view.job_id, what, [edit], { seen: [view.circuit] }))) onClose();
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
        {found.map((each) => (
          <UnstyledButton
            key={`${each.segment.id} ${each.says}`}
            className="place"
            onClick={() => void extend(each)}
          >
            <strong>{each.segment.designation}</strong> {sizeName(each.segment.description)}{" "}
            <span className="quiet">{each.says}</span>
          </UnstyledButton>
        ))}
        {found.length === 0 && (
          <Text className="quiet">
            No other segment of this vehicle touches the source or the end of the return.
          </Text>
        )}
      </Stack>
    </Modal>
  );
}
