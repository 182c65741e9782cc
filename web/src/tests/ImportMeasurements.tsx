/** A file of measurements: what each line is, or all that is wrong with it, before anything is written. */
import { Button, Group, Modal, Stack } from "@mantine/core";
import { useEffect, useState } from "react";
import { ApiError, answer, api, type Schemas } from "../api/client";
import { refreshAll } from "../api/queries";
import { FileProblems } from "../parts/FileProblems";

type Props = { jobId: string; file: File; onClose: () => void };

export function ImportMeasurements({ jobId, file, onClose }: Props) {
  const [lines, setLines] = useState<Schemas["LineOut"][] | null>(null);
  const [error, setError] = useState<ApiError | null>(null);
  const [busy, setBusy] = useState(false);
  const params = { path: { job_id: jobId } };

  useEffect(() => {
    async function read() {
      const body = { text: await file.text() };
      const asked = { params: { path: { job_id: jobId } }, body };
      setLines(await answer(api.POST("/api/jobs/{job_id}/measurements/preview", asked)));
    }
    read().catch(setError);
  }, [file, jobId]);

  async function write() {
    setBusy(true);
    try {
      const body = { text: await file.text() };
      await answer(api.POST("/api/jobs/{job_id}/measurements", { params, body }));
      await refreshAll();
      onClose();
    } catch (problem) {
      if (!(problem instanceof ApiError)) throw problem;
      setError(problem);
    } finally {
      setBusy(false);
    }
  }

  const added = lines?.filter(({ does }) => does === "add").length ?? 0;
  return (
    <Modal
      opened
      onClose={onClose}
      title={`Measurements ${file.name}`}
      size="lg"
      centered
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack gap="sm">
        {!lines && !error && <p className="quiet">Reading the file …</p>}
        {error && <FileProblems error={error} />}
        {lines && !error && (
          <ul className="typical" aria-label="Lines">
            {lines.map((line) => (
              <li key={line.line}>
                <span>{line.quantity}</span>
                <span className="quiet">{line.does === "add" ? "new" : "here already"}</span>
                <span className="number">{line.said}</span>
              </li>
            ))}
          </ul>
        )}
        <Group justify="flex-end">
          <Button variant="default" onClick={onClose}>
            Cancel
          </Button>
          {lines && !error && (
            <Button onClick={() => void write()} loading={busy} disabled={added === 0}>
              {added === 0 ? "Nothing new" : `Import ${added}`}
            </Button>
          )}
        </Group>
      </Stack>
    </Modal>
  );
}
