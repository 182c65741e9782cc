/** A part that is assumed: one tap says that it is so. */
import { Button } from "@mantine/core";
import { useKeys } from "../app/keys";
import { attempt, change } from "../saving/saving";

type Props = {
  jobId: string;
  designation: string;
  part: { id: string; version: number } | undefined;
  of: "segment" | "device";
};

export function Confirm({ jobId, designation, part, of }: Props) {
  function confirm() {
    if (!part) return;
    const edit =
      of === "segment"
        ? ({ do: "change segment", segment_id: part.id, known: "seen" } as const)
        : ({ do: "change device", device_id: part.id, known: "seen" } as const);
    void attempt(change(jobId, `confirm ${designation}`, [edit], { seen: [part] }));
  }
  useKeys("Assumed part", [{ keys: "u", does: "it is as assumed", run: confirm }]);
  return (
    <p className="assumed-line">
      What is usual, nobody looked yet.{" "}
      <Button size="compact-sm" variant="default" onClick={confirm} rightSection={<kbd>u</kbd>}>
        It is as assumed
      </Button>
    </p>
  );
}
