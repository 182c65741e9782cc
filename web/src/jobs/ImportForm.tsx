/** Reads a job file: says what it holds, or all that is wrong with it, before anything is written. */
import { Button, Group, Modal, Stack, Text } from "@mantine/core";
import { useEffect, useState } from "react";
import { ApiError, csrfToken, errorFrom, type Schemas } from "../api/client";
import { queryClient } from "../api/queries";
import { FileProblems } from "../parts/FileProblems";

type Preview = Schemas["Preview"];
const MOST_BYTES = 5_000_000;

async function send<T>(file: File, path: string): Promise<T> {
  if (file.size > MOST_BYTES) {
    throw new ApiError(
      422,
      "job-file",
      `the file has ${Math.round(file.size / 1e6)} MB; a job has at most 5 MB`,
    );
  }
  const headers = { "Content-Type": "application/json", "X-CSRFToken": csrfToken() };
  const response = await fetch(path, {
    method: "POST",
    credentials: "same-origin",
    headers,
    body: file,
  }).catch(() => {
    throw new ApiError(0, "offline", "the server does not answer");
  });
  if (!response.ok) throw await errorFrom(response);
  return response.json();
}

type Props = { file: File; onClose: (opened?: string) => void };

export function ImportForm({ file, onClose }: Props) {
  const [preview, setPreview] = useState<Preview | null>(null);
  const [error, setError] = useState<ApiError | null>(null);
  const [busy, setBusy] = useState(false);
  const [id] = useState(() => crypto.randomUUID());

  useEffect(() => {
    send<Preview>(file, "/api/job-files/preview").then(setPreview, setError);
  }, [file]);

  async function write() {
    setBusy(true);
    setError(null);
    try {
      await send(file, `/api/job-files?id=${id}`);
      await queryClient.invalidateQueries({ queryKey: ["jobs"] });
      onClose(id);
    } catch (problem) {
      if (!(problem instanceof ApiError)) throw problem;
      setError(problem);
    } finally {
      setBusy(false);
    }
  }

  return (
    <Modal
      opened
      onClose={() => onClose()}
      title={`Job file ${file.name}`}
      size="lg"
      centered
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack gap="sm">
        {!preview && !error && <Text className="quiet">Reading the file …</Text>}
        {error && <FileProblems error={error} />}
        {preview && <Holds preview={preview} />}
        <Group justify="flex-end">
          <Button variant="default" onClick={() => onClose()}>
            Cancel
          </Button>
          {preview && (
            <Button onClick={() => void write()} loading={busy} ref={(button) => button?.focus()}>
              Open it as a new job
            </Button>
          )}
        </Group>
      </Stack>
    </Modal>
  );
}

function Holds({ preview }: { preview: Preview }) {
  const { circuits, devices, inputs } = preview;
  const lists = [
    ["circuits", circuits],
    ["devices", devices],
    ["switches", inputs],
  ] as const;
  return (
    <div>
      <h3>
        {preview.vehicle}, {preview.nominal_v} V
      </h3>
      <p>{preview.name}</p>
      <p className="quiet">{preview.wish}</p>
      <dl className="holds">
        {lists.map(([name, items]) => (
          <div key={name}>
            <dt>
              {items.length} {name}
            </dt>
            <dd className="quiet">{items.join(", ") || "none"}</dd>
          </div>
        ))}
        <div>
          <dt>
            {preview.segments} segments, {preview.points} points, {preview.readings} readings
          </dt>
        </div>
      </dl>
    </div>
  );
}
