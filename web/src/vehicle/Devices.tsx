/** The devices of the vehicle, with what each does now. */
import { type Device, useForms } from "../api/queries";
import { volts } from "../parts/format";
import { Actions, Fate, type ListProps, remove } from "./rows";

export function Devices({ board, show }: ListProps) {
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
          <th className="number">amps</th>
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
