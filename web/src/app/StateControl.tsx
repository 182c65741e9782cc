/** Which state is looked at, with which switches, as found or as planned: it rules everything on the screen. */
import { Button, Menu, SegmentedControl } from "@mantine/core";
import { Link } from "react-router";
import type { Board, Input } from "../api/queries";
import { STATES, type Stage, type State, useViewing, type Viewing, view } from "./viewing";

const STAGES: { value: Stage; label: string }[] = [
  { value: "found", label: "as found" },
  { value: "planned", label: "as planned" },
];

export function StateControl({ board }: { board: Board }) {
  const jobId = board.job.id;
  const viewing = useViewing(jobId);
  const { is_fed, changed, inputs } = board.moment;
  return (
    <>
      {changed && (
        <SegmentedControl
          aria-label="Stage"
          size="xs"
          data={STAGES}
          value={viewing.stage}
          onChange={(stage) => view(jobId, { stage: stage as Stage })}
        />
      )}
      {is_fed ? (
        <SegmentedControl
          aria-label="Operating state"
          size="xs"
          data={STATES}
          value={viewing.state}
          onChange={(state) => view(jobId, { state: state as State, basis: "state" })}
        />
      ) : (
        <Link to={`/jobs/${jobId}/vehicle`} className="quiet">
          {board.devices.some(({ spec }) => spec.kind === "battery")
            ? "Battery not wired yet: say where its posts are"
            : "No battery yet: say what the vehicle has"}
        </Link>
      )}
      {inputs.length > 0 && <Switches jobId={jobId} inputs={inputs} viewing={viewing} />}
    </>
  );
}

function Switches({ jobId, inputs, viewing }: { jobId: string; inputs: Input[]; viewing: Viewing }) {
  const set = Object.keys(viewing.inputs).length;
  return (
    <Menu closeOnItemClick={false} position="bottom-end" width={340}>
      <Menu.Target>
        <Button variant="default" size="compact-md">
          Switches{set > 0 && `, ${set} set`}
        </Button>
      </Menu.Target>
      <Menu.Dropdown className="switches">
        <Menu.Label>Each stands as usual in this state, unless set here</Menu.Label>
        <SwitchLines jobId={jobId} inputs={inputs} />
        {set > 0 && <Menu.Item onClick={() => view(jobId, { inputs: {} })}>All as usual</Menu.Item>}
      </Menu.Dropdown>
    </Menu>
  );
}

/** Every switch with its positions; one that is put where it usually stands goes along with the state again. */
export function SwitchLines({ jobId, inputs }: { jobId: string; inputs: Input[] }) {
  const viewing = useViewing(jobId);
  function put(input: Input, position: string) {
    const usual = input.by_state[viewing.state] ?? input.positions[0];
    const { [input.key]: _, ...others } = viewing.inputs;
    view(jobId, { inputs: position === usual ? others : { ...others, [input.key]: position } });
  }
  return inputs.map((input) => (
    <div key={input.key} className="switch-line">
      <span>{input.name}</span>
      <SegmentedControl
        aria-label={input.name}
        size="xs"
        data={input.positions.map((value) => ({ value, label: value.replaceAll("_", " ") }))}
        value={input.position}
        onChange={(position) => put(input, position)}
      />
    </div>
  ));
}
