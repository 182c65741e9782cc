/** What is chosen on the map: what it is and does in this state, the circuits over it, and what can be done with it. */
import { Button } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import type { Board, Offer } from "../api/queries";
import { SplitForm } from "../circuits/SplitForm";
import { Confirm } from "../parts/Confirm";
import { amps, celsius, sizeName, voltage, volts, watts } from "../parts/format";
import { type Dialog, remove } from "../vehicle/rows";
import { CircuitPart } from "./CircuitPart";
import type { Picture, Row } from "./queries";
import type { Tried } from "./VehicleMap";

type Props = Tried & {
  board: Board;
  picture: Picture;
  part: string;
  metal: Offer[];
  onTry: (metal: Offer[]) => void;
  onChoose: (part: string) => void;
  onProbe: () => void;
  onFold: (circuit: string) => void;
  show: (dialog: Dialog) => void;
};

export function PartPanel({
  board,
  picture,
  part,
  metal,
  onTry,
  onChoose,
  onProbe,
  onFold,
  show,
  ...tried
}: Props) {
  const piece = picture.segments.find(({ id }) => id === part);
  const row = picture.rows.find(({ device, is_main }) => device === part && is_main);
  const over = board.lines
    .map(({ circuit }) => circuit)
    .filter((circuit) =>
      piece ? [...circuit.supply, ...circuit.return_path].includes(part) : circuit.device_id === part,
    );
  const [asked, setAsked] = useState<string | null>(null);
  const circuit = over.find(({ id }) => id === asked) ?? over[0];
  function askAbout(other: string) {
    setAsked(other);
    tried.setTrial(null);
  }
  const buttons = (
    <>
      {circuit && (
        <Button
          size="compact-sm"
          variant="default"
          component={Link}
          to={`/jobs/${board.job.id}/circuits/${circuit.id}`}
        >
          Open
        </Button>
      )}
      {circuit && (
        <Button size="compact-sm" variant="default" onClick={() => onFold(circuit.id)}>
          Fold away
        </Button>
      )}
      <Button size="compact-sm" variant="default" onClick={onProbe} rightSection={<kbd>q</kbd>}>
        Probe here
      </Button>
    </>
  );
  return (
    <>
      <div className="map-over">
        {over.map(({ id, name }) => (
          <span key={id}>
            {over.length > 1 && id !== circuit?.id ? (
              <button type="button" className="link" onClick={() => askAbout(id)}>
                {name}
              </button>
            ) : (
              <b>{name}</b>
            )}
          </span>
        ))}
      </div>
      {piece && circuit ? (
        <CircuitPart
          key={circuit.id}
          {...{ board, metal, onTry, onChoose, ...tried }}
          circuitId={circuit.id}
          segmentId={part}
          buttons={buttons}
        />
      ) : (
        <div className="map-plain">
          <div className="actions">{buttons}</div>
          <h2>
            {piece?.designation ?? row?.designation}{" "}
            <span>{piece ? sizeName(piece.description) : row?.name}</span>
          </h2>
          {(piece ?? row)?.known === "assumed" && (
            <Confirm
              jobId={board.job.id}
              designation={(piece ?? row)?.designation ?? ""}
              part={[...board.segments, ...board.devices].find(({ id }) => id === part)}
              of={piece ? "segment" : "device"}
            />
          )}
          <p>{piece ? figuresOf(piece.result) : row && deviceFigures(row)}</p>
          {piece && <p className="quiet">On no circuit’s route.</p>}
          <PlainActions {...{ board, part, show }} />
        </div>
      )}
    </>
  );
}

/** What can be done with a part that is no circuit's. */
function PlainActions({ board, part, show }: Pick<Props, "board" | "part" | "show">) {
  const [splitting, setSplitting] = useState(false);
  const segment = board.segments.find(({ id }) => id === part);
  const device = board.devices.find(({ id }) => id === part);
  return (
    <div className="actions">
      {segment && (
        <>
          <Button
            variant="default"
            size="compact-sm"
            onClick={() => show({ what: "segment", task: { way: "edit", segment } })}
          >
            Edit
          </Button>
          {segment.spec.kind === "wire" && (
            <Button variant="default" size="compact-sm" onClick={() => setSplitting(true)}>
              Split
            </Button>
          )}
          <Button
            variant="default"
            size="compact-sm"
            onClick={() =>
              remove(board, segment.designation, { do: "remove segment", segment_id: segment.id }, segment)
            }
          >
            Take out
          </Button>
          {splitting && (
            <SplitForm jobId={board.job.id} segment={segment} onClose={() => setSplitting(false)} />
          )}
        </>
      )}
      {device && (
        <Button variant="default" size="compact-sm" onClick={() => show({ what: "device", device })}>
          Edit
        </Button>
      )}
    </div>
  );
}

function figuresOf({ current_a, drop_v, power_w, copper_c }: Picture["segments"][number]["result"]): string {
  return [
    current_a === null ? null : amps(Math.abs(current_a)),
    drop_v === null ? null : `${voltage(Math.abs(drop_v))} lost`,
    power_w === null ? null : watts(power_w),
    copper_c == null ? null : celsius(copper_c),
  ]
    .filter(Boolean)
    .join(" · ");
}

const deviceFigures = ({ does, current_a, voltage_v }: Row) =>
  [does, current_a === null ? null : amps(current_a), voltage_v === null ? null : `${volts(voltage_v)} V`]
    .filter(Boolean)
    .join(" · ");
