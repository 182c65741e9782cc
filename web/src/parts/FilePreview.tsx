/** A file before it is taken in: what each line will do, or all that is wrong with it; nothing is written until then. */
import { Button, Group, Modal, Stack } from "@mantine/core";
import { useEffect, useState } from "react";
import { ApiError } from "../api/client";
import { FileProblems } from "./FileProblems";

export type PreviewLine = { line: number; name: string; does: string; said: string };
type Props<Preview> = {
  title: string;
  file: File;
  mostBytes: number;
  /** What the server says of the text; rejects with every problem. */
  read: (text: string) => Promise<Preview>;
  lines: (preview: Preview) => PreviewLine[];
  changes: (preview: Preview) => number;
  nothing: string;
  write: (preview: Preview, text: string) => Promise<unknown>;
  onClose: () => void;
};

export function FilePreview<Preview>(props: Props<Preview>) {
  const { title, file, mostBytes, lines, changes, nothing, write, onClose } = props;
  const [seen, setSeen] = useState<{ preview: Preview; text: string } | null>(null);
  const [error, setError] = useState<ApiError | null>(null);
  const [busy, setBusy] = useState(false);
  const limit = `no such list has more than ${mostBytes / 1e6}`;

  // biome-ignore lint/correctness/useExhaustiveDependencies: a file is read once; who asks may be made anew meanwhile
  useEffect(() => {
    async function look() {
      if (file.size > mostBytes)
        throw new ApiError(422, "file", `the file has ${Math.ceil(file.size / 1e6)} MB; ${limit}`);
      const text = await file.text();
      setSeen({ preview: await props.read(text), text });
    }
    look().catch(setError);
  }, [file]);

  async function take({ preview, text }: { preview: Preview; text: string }) {
    setBusy(true);
    try {
      await write(preview, text);
      onClose();
    } catch (problem) {
      if (!(problem instanceof ApiError)) throw problem;
      setError(problem);
    } finally {
      setBusy(false);
    }
  }

  const count = seen ? changes(seen.preview) : 0;
  return (
    <Modal
      opened
      onClose={onClose}
      title={`${title} ${file.name}`}
      size="lg"
      centered
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack gap="sm">
        {!seen && !error && <p className="quiet">Reading the file …</p>}
        {error && <FileProblems error={error} />}
        {seen && !error && (
          <ul className="typical" aria-label="Lines">
            {lines(seen.preview).map(({ line, name, does, said }) => (
              <li key={line}>
                <span>{name}</span>
                <span className="quiet">{does}</span>
                <span className="number">{said}</span>
              </li>
            ))}
          </ul>
        )}
        <Group justify="flex-end">
          <Button variant="default" onClick={onClose}>
            Cancel
          </Button>
          {seen && !error && (
            <Button
              onClick={() => void take(seen)}
              loading={busy}
              disabled={count === 0}
              ref={(button) => button?.focus()}
            >
              {count === 0 ? nothing : `Import ${count}`}
            </Button>
          )}
        </Group>
      </Stack>
    </Modal>
  );
}
