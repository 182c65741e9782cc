/** The whole vehicle: every device, switch, segment and point, and what each does in the state looked at. */
import { Button, Tabs, Text, TextInput } from "@mantine/core";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { type Board, type Device, type Input, type Segment, useBoard, useForms } from "../api/queries";
import { attempt, change, type Edit } from "../api/saving";
import { useKeys } from "../app/keys";
import { PointsPanel } from "../circuits/PointsPanel";
import { SegmentForm, type SegmentTask } from "../circuits/SegmentForm";
import { STATE_LABEL } from "../parts/families";
import { amps, celsius, sizeName, voltage, volts, watts } from "../parts/format";
import { DeviceForm } from "./DeviceForm";
import { InputForm } from "./InputForm";

type Dialog =
  | { what: "device"; device?: Device }
  | { what: "input"; input?: Input }
  | { what: "segment"; task: SegmentTask }
  | { what: "points" };
type Show = (dialog: Dialog) => void;

export function VehicleRoom() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  const [dialog, setDialog] = useState<Dialog | null>(null);
  useKeys("Vehicle", [
    { keys: "n", does: "new device", run: () => setDialog({ what: "device" }) },
    { keys: "w", does: "new segment", run: () => setDialog({ what: "segment", task: { way: "lay" } }) },
    { keys: "i", does: "new switch", run: () => setDialog({ what: "input" }) },
    { keys: "p", does: "points", run: () => setDialog({ what: "points" }) },
  ]);
  if (!board) return <Text className="page quiet">Reading the vehicle …</Text>;
  const close = () => setDialog(null);
  return (
    <div className="page">
      <div className="page-head">
        <h1>{board.job.vehicle}</h1>
        <span className="quiet">{board.job.nominal_v} V</span>
        <span className="spring" />
        <Button variant="default" onClick={() => setDialog({ what: "device" })} rightSection={<kbd>n</kbd>}>
          New device
        </Button>
        <Button
          variant="default"
          onClick={() => setDialog({ what: "segment", task: { way: "lay" } })}
          rightSection={<kbd>w</kbd>}
        >
          New segment
        </Button>
        <Button variant="default" onClick={() => setDialog({ what: "input" })} rightSection={<kbd>i</kbd>}>
          New switch
        </Button>
      </div>
      <Tabs defaultValue="devices" keepMounted={false}>
        <Tabs.List>
          <Tabs.Tab value="devices">{board.devices.length} devices</Tabs.Tab>
          <Tabs.Tab value="segments">{board.segments.length} segments</Tabs.Tab>
          <Tabs.Tab value="inputs">{board.moment.inputs.length} switches and conditions</Tabs.Tab>
          <Tabs.Tab value="points">{board.points.length} points</Tabs.Tab>
        </Tabs.List>
        <Tabs.Panel value="devices">
          <Devices board={board} show={setDialog} />
        </Tabs.Panel>
        <Tabs.Panel value="segments">
          <Segments board={board} show={setDialog} />
        </Tabs.Panel>
        <Tabs.Panel value="inputs">
          <Inputs board={board} show={setDialog} />
        </Tabs.Panel>
        <Tabs.Panel value="points">
          <Points board={board} show={setDialog} />
        </Tabs.Panel>
      </Tabs>
      {dialog?.what === "device" && <DeviceForm board={board} device={dialog.device} onClose={close} />}
      {dialog?.what === "input" && <InputForm board={board} input={dialog.input} onClose={close} />}
      {dialog?.what === "segment" && <SegmentForm jobId={jobId} task={dialog.task} onClose={close} />}
      {dialog?.what === "points" && <PointsPanel jobId={jobId} points={board.points} onClose={close} />}
    </div>
  );
}

const remove = (board: Board, what: string, edit: Edit, row: { id: string; version: number }) =>
  void attempt(change(board.job.id, `delete ${what}`, [edit], { seen: [row] }));

type ListProps = { board: Board; show: Show };

function Devices({ board, show }: ListProps) {
  const kinds = useForms().data?.devices ?? [];
  if (board.devices.length === 0) {
    return (
      <p className="empty">
        No devices yet. Start with the battery and the alternator: from then on every state of the vehicle can
        be solved, and each circuit shows what really flows in it.
      </p>
    );
  }
  const point = (id: string) => board.points.find((each) => each.id === id)?.name ?? "";
  const label = (kind: string) => kinds.find((each) => each.kind === kind)?.label ?? kind;
  return (
    <table className="rows">
      <thead>
        <tr>
          <th>device</th>
          <th>between</th>
          <th className="number">volts</th>
          <th className="number">ampere</th>
          <th>does</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {board.devices.map((device) => (
          <tr key={device.id} className={device.result ? "" : "absent"}>
            <td>
              <b className="mono">{device.designation}</b> {device.name}
              <span className="quiet">
                {" "}
                {label(device.spec.kind).toLowerCase()}
                <Fate part={device} />
              </span>
            </td>
            <td className="quiet">
              {Object.entries(device.terminals)
                .map(([mark, id]) => `${mark} ${point(id)}`)
                .join(", ")}
            </td>
            <td className="number">{figure(device.result?.voltage_v)}</td>
            <td className="number">{figure(device.result?.current_a)}</td>
            <td className="short">{device.doing || whyIdle(device)}</td>
            <td className="last">
              <Actions
                name={device.name}
                onEdit={() => show({ what: "device", device })}
                onDelete={() =>
                  remove(board, device.name, { do: "remove device", device_id: device.id }, device)
                }
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Why a device does nothing at the stage that is looked at. */
const whyIdle = ({ terminals }: Device) =>
  Object.keys(terminals).length === 0 ? "not wired yet" : "not there";

const figure = (value: number | null | undefined) => (value == null ? "–" : volts(value));

function Fate({ part }: { part: { origin: string; fate: string } }) {
  const words = [part.origin === "new" && "new", part.fate !== "kept" && `to be ${part.fate}`].filter(
    Boolean,
  );
  return words.length > 0 ? <>, {words.join(", ")}</> : null;
}

type ActionsProps = { name: string; onEdit: () => void; onDelete: () => void };

function Actions({ name, onEdit, onDelete }: ActionsProps) {
  return (
    <>
      <Button size="compact-sm" variant="default" onClick={onEdit} aria-label={`Edit ${name}`}>
        Edit
      </Button>{" "}
      <Button size="compact-sm" variant="subtle" onClick={onDelete} aria-label={`Delete ${name}`}>
        Delete
      </Button>
    </>
  );
}

function Segments({ board, show }: ListProps) {
  const [wanted, setWanted] = useState("");
  const point = (id: string) => board.points.find((each) => each.id === id)?.name ?? "";
  const listed = board.segments.filter((each) =>
    `${each.designation} ${each.description} ${point(each.from_point)} ${point(each.to_point)}`
      .toLowerCase()
      .includes(wanted.toLowerCase()),
  );
  const circuit = (name: string) => board.lines.find((line) => line.circuit.name === name)?.circuit.id;
  return (
    <>
      <TextInput
        aria-label="Find a segment"
        placeholder="find by designation, size or point"
        value={wanted}
        onChange={(event) => setWanted(event.currentTarget.value)}
        className="find"
      />
      <table className="rows">
        <thead>
          <tr>
            <th>segment</th>
            <th>between</th>
            <th className="number">carries</th>
            <th className="number">loses</th>
            <th className="number">heat</th>
            <th className="number">copper</th>
            <th>on the routes</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {listed.map((segment) => (
            <tr key={segment.id} className={segment.result ? "" : "absent"}>
              <td>
                <b className="mono">{segment.designation}</b> {sizeName(segment.description)}
                <span className="quiet">
                  <Fate part={segment} />
                </span>
              </td>
              <td className="quiet">
                {point(segment.from_point)} – {point(segment.to_point)}
              </td>
              <td className="number">{carried(segment)}</td>
              <td className="number">
                {segment.result?.drop_v == null ? "–" : voltage(Math.abs(segment.result.drop_v))}
              </td>
              <td className="number">
                {segment.result?.power_w == null ? "–" : watts(segment.result.power_w)}
              </td>
              <td className="number">
                {segment.result?.copper_c == null ? "–" : celsius(segment.result.copper_c)}
              </td>
              <td className="quiet">
                {segment.shared_with.length === 0 && "none"}
                {segment.shared_with.map((name, index) => (
                  <span key={name}>
                    {index > 0 && ", "}
                    <Link to={`/jobs/${board.job.id}/circuits/${circuit(name)}`}>{name}</Link>
                  </span>
                ))}
              </td>
              <td className="last">
                <Actions
                  name={segment.designation}
                  onEdit={() => show({ what: "segment", task: { way: "edit", segment } })}
                  onDelete={() =>
                    remove(
                      board,
                      segment.designation,
                      { do: "remove segment", segment_id: segment.id },
                      segment,
                    )
                  }
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function carried({ result }: Segment): string {
  return result?.current_a == null ? "–" : amps(Math.abs(result.current_a));
}

function Inputs({ board, show }: ListProps) {
  const { inputs, state } = board.moment;
  if (inputs.length === 0) {
    return (
      <p className="empty">
        No switches yet besides the key. Name a hand switch, a pressure or a level, say where it usually
        stands in each state, and let switch contacts be driven by it.
      </p>
    );
  }
  return (
    <table className="rows">
      <thead>
        <tr>
          <th>switch or condition</th>
          <th>can be</th>
          <th>now, {STATE_LABEL[state]}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {inputs.map((input) => (
          <tr key={input.key}>
            <td>
              {input.name} <span className="quiet mono">{input.key}</span>
            </td>
            <td>{input.positions.join(", ")}</td>
            <td>
              <b>{input.position}</b>
            </td>
            <td className="last">
              <Actions
                name={input.name}
                onEdit={() => show({ what: "input", input })}
                onDelete={() =>
                  remove(
                    board,
                    input.name,
                    { do: "remove input", input_id: input.key },
                    { id: input.key, version: input.version },
                  )
                }
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Points({ board, show }: ListProps) {
  return (
    <>
      <Button variant="default" size="compact-md" my={8} onClick={() => show({ what: "points" })}>
        Add, rename or delete points
      </Button>
      <ul className="potentials">
        {board.points.map((point) => (
          <li key={point.id}>
            <span>{point.name}</span>
            <b className="mono">
              {point.result?.floating
                ? "floats"
                : point.result?.v == null
                  ? "–"
                  : `${volts(point.result.v)} V`}
            </b>
          </li>
        ))}
      </ul>
    </>
  );
}
