/** The switches and sensors of the vehicle, with their position in each state. */
import { Actions, type ListProps, remove } from "./rows";

export function Inputs({ board, show }: ListProps) {
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
          <th>now, {state}</th>
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
