/** A file of measurements, looked at line by line before anything is written. */
import { answer, api, type Schemas } from "../api/client";
import { refreshAll } from "../api/queries";
import { FilePreview } from "../parts/FilePreview";

const MOST_BYTES = 1_000_000; // 2 000 lines have less
const DOES = { add: "new", leave: "here already" };

type Preview = Schemas["LineOut"][];
type Props = { jobId: string; file: File; onClose: () => void };

export function ImportMeasurements({ jobId, file, onClose }: Props) {
  const params = { path: { job_id: jobId } };
  return (
    <FilePreview<Preview>
      title="Measurements"
      file={file}
      mostBytes={MOST_BYTES}
      read={(text) => answer(api.POST("/api/jobs/{job_id}/measurements/preview", { params, body: { text } }))}
      lines={(preview) =>
        preview.map(({ line, said, name, does }) => ({ line, name, does: DOES[does], said }))
      }
      changes={(preview) => preview.filter(({ does }) => does === "add").length}
      nothing="Nothing new"
      write={async (_, text) => {
        await answer(api.POST("/api/jobs/{job_id}/measurements", { params, body: { text } }));
        await refreshAll();
      }}
      onClose={onClose}
    />
  );
}
