/** In which states a device must run and in which it must rest. */
import { SegmentedControl } from "@mantine/core";
import type { StateRow } from "../api/queries";
import { STATES, type State } from "../app/viewing";
import { FormModal } from "../parts/FormModal";
import { useForm } from "../parts/useForm";
import { useWords } from "../parts/useWords";
import { change, type Edit } from "../saving/saving";

type Meant = "must" | "may" | "must not";
const CHOICES: { value: Meant; label: string }[] = [
  { value: "must", label: "must run" },
  { value: "may", label: "may" },
  { value: "must not", label: "must rest" },
];

type Props = { jobId: string; row: StateRow; onClose: () => void };

export function MeantForm({ jobId, row, onClose }: Props) {
  const words = useWords();
  const form = useForm<Record<State, Meant>>(
    Object.fromEntries(STATES.map((state) => [state, meantNow(row, state)])) as Record<State, Meant>,
  );
  function send() {
    const states = (meant: Meant) => STATES.filter((state) => form.values[state] === meant);
    const edit: Edit = {
      do: "change device",
      device_id: row.id,
      change: { runs_in: states("must"), rests_in: states("must not") },
    };
    return change(jobId, `set what ${row.name} is meant to do`, [edit], { seen: [row] });
  }
  return (
    <FormModal
      title={`What ${row.name} is meant to do`}
      action="Save"
      busy={form.busy}
      remark={form.remark([])}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      {STATES.map((state) => (
        <div key={state} className="switch-line">
          <span>{words.state(state)}</span>
          <SegmentedControl
            aria-label={words.state(state)}
            size="xs"
            data={CHOICES}
            value={form.values[state]}
            onChange={(meant) => form.set({ [state]: meant as Meant })}
          />
        </div>
      ))}
    </FormModal>
  );
}

const meantNow = (row: StateRow, state: State): Meant =>
  row.runs_in?.includes(state) ? "must" : row.rests_in?.includes(state) ? "must not" : "may";
