/** A ledger file: what each line will do, or all that is wrong with it, before anything is written. */
import { Button, Group, Modal, Stack } from "@mantine/core";
import { useEffect, useState } from "react";
import { ApiError, answer, api, type Schemas } from "../api/client";
import { save } from "../api/saving";
import { FileProblems } from "../parts/FileProblems";
import { amps } from "../parts/format";

type Line = Schemas["LedgerLineOut"];
const MOST_BYTES = 1_000_000;
const DOES = { add: "new", change: "changed", leave: "as it is" };

export function ImportLedger({ jobId, file, onClose }: { jobId: string; file: File; onClose: () => void }) {
  const [text, setText] = useState("");
  const [lines, setLines] = useState<Line[] | null>(null);
  const [error, setError] = useState<ApiError | null>(null);
  const [busy, setBusy] = useState(false);

  useEffect(() => {
    async function read() {
      if (file.size > MOST_BYTES) {
        const size = `the file has ${Math.ceil(file.size / 1e6)} MB; a ledger of 500 consumers has less than one`;
        throw new ApiError(422, "ledger", size);
      }
      const content = await file.text();
      setText(content);
      const path = { job_id: jobId };
      setLines(
        await answer(
          api.POST("/api/jobs/{job_id}/loads/preview", { params: { path }, body: { text: content } }),
        ),
      );
    }
    read().catch(setError);
  }, [file, jobId]);

  async function write() {
    setBusy(true);
    try {
      await save({
        what: "import loads",
        method: "POST",
        path: `/api/jobs/${jobId}/loads/import`,
        body: { text },
      });
      onClose();
    } catch (problem) {
      if (!(problem instanceof ApiError)) throw problem;
      setError(problem);
    } finally {
      setBusy(false);
    }
  }

  const changes = lines?.filter(({ does }) => does !== "leave").length ?? 0;
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
          {lines && !error && (
            <Button
              onClick={() => void write()}
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
