import type { Board, Budget, LedgerLoad } from "../api/queries";
import { DeviceForm } from "../vehicle/DeviceForm";
import { AddLoads } from "./AddLoads";
import { BulkForm } from "./BulkForm";
import { DriveForm } from "./DriveForm";
import type { Dialog } from "./dialog";
import { ImportLedger } from "./ImportLedger";
import { LoadForm } from "./LoadForm";
import { MeasuredForm } from "./MeasuredForm";
import { ScenarioForm } from "./ScenarioForm";

type Props = {
  dialog: Dialog | null;
  board: Board;
  base: Budget;
  loads: LedgerLoad[];
  setDialog: (dialog: Dialog | null) => void;
  setDrive: (id: string) => void;
};

export function LoadsDialogs({ dialog, board, base, loads, setDialog, setDrive }: Props) {
  const close = () => setDialog(null);
  return (
    <>
      {dialog?.what === "add" && (
        <AddLoads
          jobId={board.job.id}
          known={loads.map(({ name }) => name)}
          onClose={close}
          onOwn={(name) => setDialog({ what: "load", name })}
        />
      )}
      {dialog?.what === "load" && (
        <LoadForm
          board={board}
          load={dialog.load}
          name={dialog.name ?? ""}
          ratedV={base.rated_v}
          onClose={close}
        />
      )}
      {dialog?.what === "measured" && (
        <MeasuredForm jobId={board.job.id} load={dialog.load} onClose={close} />
      )}
      {dialog?.what === "bulk" && <BulkForm jobId={board.job.id} loads={dialog.loads} onClose={close} />}
      {dialog?.what === "source" && (
        <DeviceForm
          board={board}
          kind={dialog.kind}
          device={board.devices.find(({ id }) => id === dialog.id)}
          onClose={close}
        />
      )}
      {dialog?.what === "drive" && (
        <DriveForm
          jobId={board.job.id}
          budget={base}
          driveId={dialog.id}
          onClose={(id) => {
            close();
            if (id) setDrive(id);
          }}
        />
      )}
      {dialog?.what === "scenario" && (
        <ScenarioForm jobId={board.job.id} budget={base} scenarioId={dialog.id} onClose={close} />
      )}
      {dialog?.what === "import" && <ImportLedger jobId={board.job.id} file={dialog.file} onClose={close} />}
    </>
  );
}
