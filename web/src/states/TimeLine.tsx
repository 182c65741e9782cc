/** A drive step by step: what each device gets, and what pulls in, starts charging, comes on and goes off on the way. */
import { TextInput } from "@mantine/core";
import { useState } from "react";
import type { DriveView } from "../api/queries";
import { volts } from "../parts/format";
import { markOf, StateMark } from "./StateMark";

type Props = {
  drive: DriveView | undefined;
  way: string;
  problem: string | undefined;
  onWay: (way: string) => void;
};

export const A_DRIVE = "off, on, cranking, idle, road, off";

export function TimeLine({ drive, way, problem, onWay }: Props) {
  const [text, setText] = useState(way || A_DRIVE);
  return (
    <div className="matrix-frame sheet-frame">
      <form
        className="no-print way-form"
        onSubmit={(event) => {
          event.preventDefault();
          onWay(text);
        }}
      >
        <TextInput
          label="Way, Enter goes it"
          description="States one after the other; switches that do not stand as usual behind them: idle heater=on"
          value={text}
          error={problem}
          onChange={(event) => setText(event.currentTarget.value)}
        />
      </form>
      {drive && !problem && <Steps drive={drive} />}
    </div>
  );
}

function Steps({ drive }: { drive: DriveView }) {
  const heads = drive.steps.map((step, index) => ({ step, key: `${index} ${step.state}` }));
  return (
    <table className="matrix drive" aria-label="Time line">
      <thead>
        <tr>
          <th>device</th>
          {heads.map(({ step, key }) => (
            <th key={key}>
              {step.state}
              {Object.entries(step.chosen ?? {}).map(([input, position]) => (
                <span key={input} className="quiet">
                  {` ${input.replaceAll("_", " ")}: ${position.replaceAll("_", " ")}`}
                </span>
              ))}
              {step.running_on && <b className="verdict fail"> ■ engine runs on</b>}
            </th>
          ))}
        </tr>
        <tr className="events">
          <th>on the way there</th>
          {heads.map(({ step, key }) => (
            <td key={key}>
              {step.events.map((each) => (
                <div key={`${each.device_id} ${each.event}`}>
                  <b>{each.designation}</b> {each.event}
                </div>
              ))}
            </td>
          ))}
        </tr>
      </thead>
      <tbody>
        {drive.rows.map((row) => (
          <tr key={row.id}>
            <th scope="row">
              <b>{row.designation}</b> {row.name}
            </th>
            {heads.map(({ step, key }) => {
              const cell = step.cells.find((each) => each.device_id === row.id);
              return (
                <td key={key}>
                  {cell && <StateMark mark={markOf(cell, undefined)} />}
                  {cell && cell.voltage_v !== null && (
                    <span className="mono">{volts(Math.abs(cell.voltage_v), 1)}</span>
                  )}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
