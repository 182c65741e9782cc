/** The whole vehicle: its map, and every device, switch, segment and point, and what each does in the state looked at. */
import { Button, Tabs, Text } from "@mantine/core";
import { useState } from "react";
import { useParams } from "react-router";
import { useBoard } from "../api/queries";
import { useKeys } from "../app/keys";
import { NewRoute } from "../circuits/NewRoute";
import { PointsPanel } from "../circuits/PointsPanel";
import { useStarters } from "../circuits/queries";
import { SegmentForm } from "../circuits/SegmentForm";
import { VehicleMap } from "../map/VehicleMap";
import { volts } from "../parts/format";
import { DeviceForm } from "./DeviceForm";
import { Devices } from "./Devices";
import { InputForm } from "./InputForm";
import { Inputs } from "./Inputs";
import type { Dialog, ListProps } from "./rows";
import { Segments } from "./Segments";

export function VehicleRoom() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  useStarters(); // so that they are there when a new circuit is asked for
  const [laying, setLaying] = useState(false);
  const [dialog, setDialog] = useState<Dialog | null>(null);
  useKeys("Vehicle", [
    { keys: "c", does: "new circuit", run: () => setLaying(true) },
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
        <Button variant="default" onClick={() => setLaying(true)} rightSection={<kbd>c</kbd>}>
          New circuit
        </Button>
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
      <Tabs defaultValue="map" keepMounted={false}>
        <Tabs.List>
          <Tabs.Tab value="map">map</Tabs.Tab>
          <Tabs.Tab value="devices">{board.devices.length} devices</Tabs.Tab>
          <Tabs.Tab value="segments">{board.segments.length} segments</Tabs.Tab>
          <Tabs.Tab value="inputs">{board.moment.inputs.length} switches and conditions</Tabs.Tab>
          <Tabs.Tab value="points">{board.points.length} points</Tabs.Tab>
        </Tabs.List>
        <Tabs.Panel value="map">
          <VehicleMap board={board} show={setDialog} />
        </Tabs.Panel>
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
      {laying && <NewRoute board={board} onClose={() => setLaying(false)} />}
      {dialog?.what === "device" && <DeviceForm board={board} device={dialog.device} onClose={close} />}
      {dialog?.what === "input" && <InputForm board={board} input={dialog.input} onClose={close} />}
      {dialog?.what === "segment" && <SegmentForm jobId={jobId} task={dialog.task} onClose={close} />}
      {dialog?.what === "points" && <PointsPanel jobId={jobId} points={board.points} onClose={close} />}
    </div>
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
