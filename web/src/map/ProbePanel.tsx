/** Two probes on the map: what one should read between them in this state, and what one read. */
import { Button } from "@mantine/core";
import { type Offer, useStage } from "../api/queries";
import { AskedPanel } from "../checks/AskedPanel";
import { useInstruments } from "../checks/queries";
import { about } from "../checks/say";
import { useMeter } from "../checks/useMeter";
import { useWaiting } from "../saving/store";
import { type Picture, useBetween } from "./queries";

type Props = {
  jobId: string;
  picture: Picture;
  probes: string[];
  metal: Offer[];
  /** Puts the black probe on the other end of the part that is chosen. */
  onAcross: (() => void) | null;
  onDone: () => void;
};

export function ProbePanel({ jobId, picture, probes: [red, black], metal, onAcross, onDone }: Props) {
  const name = (id: string) => picture.points.find((each) => each.id === id)?.name;
  return (
    <>
      <div className="section-head">
        <h3>Between two points</h3>
        <Button size="compact-sm" variant="default" onClick={onDone} rightSection={<kbd>Esc</kbd>}>
          Take off
        </Button>
      </div>
      {red && black ? (
        <Between key={`${red} ${black}`} {...{ jobId, metal, onDone }} probes={[red, black]} />
      ) : (
        <>
          <p>Red is on {name(red ?? "")}. Tap the point where the black one goes.</p>
          {onAcross && (
            <Button size="compact-sm" variant="default" onClick={onAcross} rightSection={<kbd>q</kbd>}>
              Across the part that is chosen
            </Button>
          )}
        </>
      )}
    </>
  );
}

type BetweenProps = { jobId: string; probes: [string, string]; metal: Offer[]; onDone: () => void };

function Between({ jobId, probes, metal, onDone }: BetweenProps) {
  const stage = useStage(jobId);
  const asked = useBetween(jobId, probes, metal);
  const test = asked.data;
  const meter = useMeter(jobId, test, useInstruments().data ?? []);
  const waiting = useWaiting();
  if (asked.isError) return <p className="problem">{asked.error.message}</p>;
  if (!test) return <p className="quiet">Working out what one should read …</p>;
  return (
    <AskedPanel
      {...{ jobId, test, stage, meter }}
      waits={waiting.get(about(test, stage)) ?? null}
      place="As the vehicle stands here"
      small={false}
      pieces={null}
      keys={[{ keys: "m", does: "read the meter", run: meter.toggle }]}
      onStep={onDone}
    />
  );
}
