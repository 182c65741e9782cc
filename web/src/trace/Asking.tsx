/** The test that is asked for, opened: its reading is logged here. */
import { useMediaQuery } from "@mantine/hooks";
import type { Stage, Traced } from "../api/queries";
import type { KeyBinding } from "../app/keys";
import { AskedPanel, type WhyNot } from "../checks/AskedPanel";
import { useInstruments } from "../checks/queries";
import { about } from "../checks/say";
import { useMeter } from "../checks/useMeter";
import { useWaiting } from "../saving/store";
import type { LeftOut } from "./useCase";

export type Asked = Traced["next"][number]["test"];

type AskingProps = {
  jobId: string;
  test: Asked;
  stage: Stage;
  back: KeyBinding[];
  onDone: () => void;
  onLogged: (reading: string) => void;
  onLeaveOut: (why: WhyNot) => void;
};

/** A test without an answer, as the case keeps it. */
export const leftOut = ({ measurement, reach_min }: Asked, why: WhyNot): LeftOut => ({
  measurement,
  why,
  reach_min,
});

/** The chosen test, asked as in the Tests room. */
export function Asking({ jobId, test, stage, back, onDone, onLogged, onLeaveOut }: AskingProps) {
  const small = useMediaQuery("(max-width: 700px)", undefined, { getInitialValueInEffect: false }) ?? false;
  const meter = useMeter(jobId, test, useInstruments().data ?? []);
  const waits = useWaiting().get(about(test, stage)) ?? null;
  return (
    <AskedPanel
      {...{ jobId, test, stage, waits, small, meter, onLogged }}
      place="The next best test"
      pieces={null}
      keys={[...back, { keys: "m", does: "read the meter", run: meter.toggle }]}
      onStep={onDone}
      onLeaveOut={(why) => {
        onLeaveOut(why);
        onDone();
      }}
    />
  );
}
