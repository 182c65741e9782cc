import type { Board, CircuitView, Reading } from "../api/queries";
import { CircuitForm } from "./CircuitForm";
import type { Dialog } from "./dialog";
import { ExtendForm } from "./ExtendForm";
import { PointsPanel } from "./PointsPanel";
import { ReadingForm } from "./ReadingForm";
import { SegmentForm } from "./SegmentForm";
import { SplitForm } from "./SplitForm";

type Props = {
  dialog: Dialog;
  base: CircuitView;
  board: Board | undefined;
  segment: CircuitView["segments"][number] | undefined;
  chosen: string;
  corrects: Reading | null;
  /** With the id of a segment that was made. */
  onClose: (made?: string) => void;
};

export function CircuitDialogs({ dialog, base, board, segment, chosen, corrects, onClose }: Props) {
  return (
    <>
      {dialog === "reading" && (
        <ReadingForm view={base} segmentId={chosen} corrects={corrects} onClose={() => onClose()} />
      )}
      {(dialog === "insert" || dialog === "edit") && segment && (
        <SegmentForm
          jobId={base.job_id}
          task={
            dialog === "edit"
              ? { way: "edit", segment }
              : { way: "insert", beside: segment, circuitId: base.circuit.id }
          }
          onClose={onClose}
        />
      )}
      {dialog === "split" && segment && (
        <SplitForm jobId={base.job_id} segment={segment} onClose={() => onClose()} />
      )}
      {dialog === "circuit" && board && <CircuitForm board={board} view={base} onClose={() => onClose()} />}
      {dialog === "points" && (
        <PointsPanel jobId={base.job_id} points={base.points} onClose={() => onClose()} />
      )}
      {dialog === "extend" && <ExtendForm view={base} onClose={() => onClose()} />}
    </>
  );
}
