/** A ledger file, looked at line by line before anything is written. */
import { answer, api, type Schemas } from "../api/client";
import { FilePreview } from "../parts/FilePreview";
import { amps } from "../parts/format";
import { change } from "../saving/saving";

const MOST_BYTES = 1_000_000; // a ledger of 500 consumers has less
const DOES = { add: "new", change: "changed", leave: "as it is" };

type Preview = Schemas["LedgerPreview"];
type Props = { jobId: string; file: File; onClose: () => void };

export function ImportLedger({ jobId, file, onClose }: Props) {
  const params = { path: { job_id: jobId } };
  function write({ edits, seen: versions }: Preview) {
    const label = `import ${edits.length} loads`;
    const seen = Object.entries(versions).map(([id, version]) => ({ id, version }));
    return change(jobId, label, edits, { seen, label });
  }
  return (
    <FilePreview<Preview>
      title="Ledger"
      file={file}
      mostBytes={MOST_BYTES}
      read={(text) => answer(api.POST("/api/jobs/{job_id}/loads/preview", { params, body: { text } }))}
      lines={({ lines }) =>
        lines.map(({ line, name, does, drawn_a }) => ({ line, name, does: DOES[does], said: amps(drawn_a) }))
      }
      changes={({ edits }) => edits.length}
      nothing="Nothing changes"
      write={write}
      onClose={onClose}
    />
  );
}
