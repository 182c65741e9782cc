/** A circuit's name, what can be done with its route, and the two figures that matter: volts left and volts lost. */
import { Button, Menu, SegmentedControl } from "@mantine/core";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { CircuitView, Difference, useBoard } from "../api/queries";
import { type Basis, view as look, useViewing } from "../app/viewing";
import { amps, changedDrops, volts } from "../parts/format";
import { onTheMap } from "../parts/OnTheMap";
import { useWords } from "../parts/useWords";
import { Verdict } from "../parts/Verdict";
import type { Dialog } from "./dialog";

type HeadingProps = {
  view: CircuitView;
  board: ReturnType<typeof useBoard>["data"];
  onDialog: (which: Dialog) => () => void;
  onSizes: () => void;
  onDelete: () => void;
  children: ReactNode;
};

export function RoomHeading({ view, board, onDialog, onSizes, onDelete, children }: HeadingProps) {
  const { circuit, profile } = view;
  const words = useWords();
  const { state, basis } = useViewing(view.job_id);
  const at = board?.lines.findIndex((line) => line.circuit.id === circuit.id) ?? -1;
  return (
    <div className="room-head">
      <div>
        <p className="quiet">
          {at >= 0 && `${at + 1} of ${board?.lines.length}, `}
          {words.family(circuit.family).toLowerCase()}
        </p>
        <h1>{circuit.name}</h1>
        {view.difference && <Before difference={view.difference} />}
        {view.why_not && board?.moment.is_fed && (
          <p className="quiet why-not">○ {view.why_not}; shown at its design current</p>
        )}
      </div>
      <div className="room-actions">
        <Menu position="bottom-start">
          <Menu.Target>
            <Button variant="default" size="compact-md">
              Circuit ▾
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item
              component={Link}
              to={onTheMap(view.job_id, [...circuit.supply, ...circuit.return_path])}
            >
              Show on the map
            </Menu.Item>
            <Menu.Item onClick={onSizes}>Size the whole route</Menu.Item>
            <Menu.Item onClick={onDialog("circuit")}>Change the circuit</Menu.Item>
            <Menu.Item onClick={onDialog("insert")}>Insert a segment</Menu.Item>
            <Menu.Item onClick={onDialog("extend")}>Lead the route on</Menu.Item>
            <Menu.Item onClick={onDialog("points")}>Points</Menu.Item>
            <Menu.Divider />
            <Menu.Item onClick={onDelete}>Delete the circuit</Menu.Item>
          </Menu.Dropdown>
        </Menu>
        {children}
      </div>
      {board?.moment.is_fed && (
        <SegmentedControl
          aria-label="Shown"
          size="xs"
          data={[
            { value: "state", label: state },
            { value: "design", label: `at ${amps(circuit.design_current_a)}` },
          ]}
          value={basis}
          onChange={(value) => look(view.job_id, { basis: value as Basis })}
        />
      )}
      <span className="spring" />
      {view.supply_stations.length > 0 && (
        <div className="headline">
          <span className="quiet">at the device, from {volts(profile.source_v)} V</span>
          <span className="hero">
            {volts(profile.device_v)}
            <small>V</small>
          </span>
        </div>
      )}
      <div className="headline">
        <span className="quiet" title={profile.verdict.reason}>
          volts lost, {volts(profile.allowed_drop_v)} allowed
        </span>
        <span className="hero">
          {volts(profile.total_drop_v)}
          <small>V</small>
          <Verdict word={profile.verdict.word} />
        </span>
      </div>
    </div>
  );
}

/** What the circuit loses as found and as planned, where the work changes it. */
function Before({ difference }: { difference: Difference }) {
  const drops = changedDrops(difference);
  return (
    drops && (
      <p className="quiet">
        as found {drops.found} V lost, as planned {drops.planned} V
      </p>
    )
  );
}
