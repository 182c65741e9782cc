/** The segments of the vehicle, with what flows in each. */
import { TextInput } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import type { Segment } from "../api/queries";
import { amps, celsius, sizeName, voltage, watts } from "../parts/format";
import { Actions, Fate, type ListProps, remove } from "./rows";

export function Segments({ board, show }: ListProps) {
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
            <th className="number">lost</th>
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
