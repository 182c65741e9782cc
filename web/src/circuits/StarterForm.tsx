/** The few questions of a route starter; what they describe is laid and sized at once. */
import { Button, SegmentedControl, SimpleGrid } from "@mantine/core";
import type { Board, RouteStarter } from "../api/queries";
import { view as look } from "../app/viewing";
import { FormModal } from "../parts/FormModal";
import { SpecFields } from "../parts/SpecFields";
import { startOf, type Values } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change } from "../saving/saving";
import type { Series } from "./queries";

type Props = {
  board: Board;
  starter: RouteStarter;
  onBack: () => void;
  onClose: (made?: string) => void;
};

const UNITS = "percorso.sizes-in";

export function StarterForm({ board, starter, onBack, onClose }: Props) {
  const { questions } = starter;
  const form = useForm<Values>({
    ...startOf(questions),
    series: localStorage.getItem(UNITS) ?? "metric",
  });
  const { series, ...answers } = form.values;
  const id = crypto.randomUUID();

  function send() {
    localStorage.setItem(UNITS, series ?? "metric");
    const route = { starter: starter.id, answers, series: series as Series, id };
    return change(board.job.id, `lay ${starter.title}`, [{ do: "start route", ...route }]);
  }

  return (
    <FormModal
      title={starter.title}
      action="Add it"
      size="lg"
      busy={form.busy}
      remark={form.remark(questions.map((each) => each.name))}
      onSubmit={() =>
        void form.submit(send, () => {
          look(board.job.id, { basis: "design" }); // as it was sized, whatever runs in the state looked at
          onClose(id);
        })
      }
      onClose={() => onClose()}
    >
      <p>{starter.says} Points and grounds this job has are used; what is missing is laid with it.</p>
      <SimpleGrid cols={2} verticalSpacing="xs">
        <SpecFields fields={questions} form={form} within="" />
        <div>
          <p className="label">Sizes in</p>
          <SegmentedControl
            aria-label="Sizes in"
            data={[
              { value: "metric", label: "mm²" },
              { value: "awg", label: "AWG" },
            ]}
            value={series ?? "metric"}
            onChange={(value) => form.set({ series: value })}
          />
        </div>
      </SimpleGrid>
      <Button variant="subtle" size="compact-sm" onClick={onBack} className="back">
        ◂ Another kind of route
      </Button>
    </FormModal>
  );
}
