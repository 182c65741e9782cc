/** Every point of the job: add, rename, say how one gets there, and delete those nothing ends on. */
import { ActionIcon, Button, Group, Modal, Stack, Text, TextInput } from "@mantine/core";
import { IconTrash } from "@tabler/icons-react";
import { useState } from "react";
import { ApiError } from "../api/client";
import type { CircuitView } from "../api/queries";
import { AccessSelect, accessEdits } from "../parts/Access";
import { Photos } from "../parts/Photos";
import { change, type Edit } from "../saving/saving";

type Point = CircuitView["points"][number];

export function PointsPanel({
  jobId,
  points,
  onClose,
}: {
  jobId: string;
  points: Point[];
  onClose: () => void;
}) {
  const [name, setName] = useState("");
  const [problem, setProblem] = useState<string>();

  /** Carry out a change and say what stood in its way. */
  async function attempt(changing: Promise<unknown>, done?: () => void) {
    try {
      await changing;
      setProblem(undefined);
      done?.();
    } catch (error) {
      setProblem(error instanceof ApiError ? error.message : String(error));
    }
  }

  const add = () =>
    attempt(change(jobId, `add point ${name}`, [{ do: "add point", name }]), () =>
      setName((now) => (now === name ? "" : now)),
    );

  return (
    <Modal opened onClose={onClose} title="Points" size="xl" closeButtonProps={{ "aria-label": "Close" }}>
      <Stack gap="xs">
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void add();
          }}
        >
          <Group align="flex-end" gap="xs">
            <TextInput
              label="New point"
              placeholder="GND6 tailgate lug"
              value={name}
              onChange={(event) => setName(event.currentTarget.value)}
              className="grow"
              data-autofocus
            />
            <Button type="submit" variant="default">
              Add
            </Button>
          </Group>
        </form>
        {problem && (
          <Text role="alert" className="problem">
            {problem}
          </Text>
        )}
        {points.map((point) => (
          <PointLine key={`${point.id} ${point.version}`} jobId={jobId} point={point} attempt={attempt} />
        ))}
      </Stack>
    </Modal>
  );
}

type LineProps = { jobId: string; point: Point; attempt: (changing: Promise<unknown>) => Promise<void> };

function PointLine({ jobId, point, attempt }: LineProps) {
  const [name, setName] = useState(point.name);
  const of = { seen: [point] };
  const rename = () => {
    if (name.trim() === point.name) return;
    const edit: Edit = { do: "rename point", point_id: point.id, name };
    void attempt(change(jobId, `rename point ${point.name}`, [edit], of));
  };
  const reach = (chosen: string) => {
    const edits = accessEdits("point", point.id, point.access, chosen);
    if (edits.length > 0) void attempt(change(jobId, `way to ${point.name}`, edits, of));
  };
  const remove = () =>
    attempt(change(jobId, `delete point ${point.name}`, [{ do: "remove point", point_id: point.id }], of));
  return (
    <Group gap="xs">
      <TextInput
        aria-label={`Name of ${point.name}`}
        className="grow"
        value={name}
        onChange={(event) => setName(event.currentTarget.value)}
        onBlur={rename}
        onKeyDown={(event) => event.key === "Enter" && rename()}
      />
      <AccessSelect
        label={`Way to ${point.name}`}
        value={point.access ?? ""}
        reached={point.reached}
        onChange={reach}
      />
      <Photos jobId={jobId} of="point" subjectId={point.id} name={point.name} />
      <ActionIcon
        variant="subtle"
        size="lg"
        aria-label={`Delete ${point.name}`}
        onClick={() => void remove()}
      >
        <IconTrash size={18} />
      </ActionIcon>
    </Group>
  );
}
