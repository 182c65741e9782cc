/** A ledger file: what each line will do, or all that is wrong with it, before anything is written. */
import { Button, Group, Modal, Stack } from "@mantine/core";
import { useEffect, useState } from "react";
import { ApiError, answer, api, type Schemas } from "../api/client";
import { change } from "../api/saving";
import { FileProblems } from "../parts/FileProblems";
import { amps } from "../parts/format";

const MOST_BYTES = 1_000_000;
const DOES = { add: "new", change: "changed", leave: "as it is" };

export function ImportLedger({ jobId, file, onClose }: { jobId: string; file: File; onClose: () => void }) {
  const [preview, setPreview] = useState<Schemas["LedgerPreview"] | null>(null);
  const [error, setError] = useState<ApiError | null>(null);
  const [busy, setBusy] = useState(false);

  useEffect(() => {
    async function read() {
      if (file.size > MOST_BYTES) {
        const size = `the file has ${Math.ceil(file.size / 1e6)} MB; a ledger of 500 consumers has less than one`;
        throw new ApiError(422, "ledger", size);
      }
      const body = { text: await file.text() };
      const params = { path: { job_id: jobId } };
      setPreview(await answer(api.POST("/api/jobs/{job_id}/loads/preview", { params, body })));
    }
    read().catch(setError);
  }, [file, jobId]);

  async function write({ edits, seen: versions }: Schemas["LedgerPreview"]) {
    setBusy(true);
    try {
      const label = `import ${edits.length} loads`;
      const seen = Object.entries(versions).map(([id, version]) => ({ id, version }));
      await change(jobId, label, edits, { seen, label });
      onClose();
    } catch (problem) {
      if (!(problem instanceof ApiError)) throw problem;
      setError(problem);
    } finally {
      setBusy(false);
    }
  }

  const lines = preview?.lines;
  const changes = preview?.edits.length ?? 0;
  return (
    <Modal
      opened
      onClose={onClose}
      title={`Ledger ${file.name}`}
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
                <span>{line.name}</span>
                <span className="quiet">{DOES[line.does]}</span>
                <span className="number">{amps(line.drawn_a)}</span>
              </li>
            ))}
          </ul>
        )}
        <Group justify="flex-end">
          <Button variant="default" onClick={onClose}>
            Cancel
          </Button>
          {preview && !error && (
            <Button
              onClick={() => void write(preview)}
              loading={busy}
              disabled={changes === 0}
              ref={(button) => button?.focus()}
            >
              {changes === 0 ? "Nothing changes" : `Import ${changes}`}
            </Button>
          )}
        </Group>
      </Stack>
    </Modal>
  );
}
