/** The few questions of a route starter; what they describe is laid and sized at once. */
import { Button, SegmentedControl, Select, SimpleGrid, TextInput } from "@mantine/core";
import type { Board, QuantityKind, RouteStarter, Series } from "../api/queries";
import { save } from "../api/saving";
import { view as look } from "../app/viewing";
import { FormModal } from "../parts/FormModal";
import { QuantityInput } from "../parts/QuantityInput";
import { useForm } from "../parts/useForm";

type Props = {
  board: Board;
  starter: RouteStarter;
  onBack: () => void;
  onClose: (made?: string) => void;
};
type Question = RouteStarter["questions"][number];

const UNITS = "percorso.sizes-in";

export function StarterForm({ board, starter, onBack, onClose }: Props) {
  const { questions } = starter;
  const usual = Object.fromEntries(questions.map(({ name, usual }) => [name, usual]));
  const form = useForm<Record<string, string>>({
    ...usual,
    series: localStorage.getItem(UNITS) ?? "metric",
  });
  const { series, ...answers } = form.values;
  const id = crypto.randomUUID();

  async function send() {
    localStorage.setItem(UNITS, series ?? "metric");
    await save({
      what: `lay ${starter.title}`,
      method: "POST",
      path: `/api/jobs/${board.job.id}/starters/${starter.id}`,
      body: { answers, series: series as Series, circuit_id: id },
    });
  }

  return (
    <FormModal
      title={starter.title}
      action="Lay it out"
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
        {questions.map((question, index) => (
          <Asked key={question.name} question={question} first={index === 0} form={form} />
        ))}
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

type AskedProps = {
  question: Question;
  first: boolean;
  form: ReturnType<typeof useForm<Record<string, string>>>;
};

function Asked({ question, first, form }: AskedProps) {
  const { name, label, hint, quantity, choices } = question;
  const focus = first ? { "data-autofocus": true } : {};
  if (choices) {
    return (
      <Select
        label={label}
        data={choices}
        allowDeselect={false}
        value={form.values[name] ?? ""}
        error={form.field(name).error}
        onChange={(value) => form.set({ [name]: value ?? "" })}
        {...focus}
      />
    );
  }
  if (quantity) {
    const shown = hint ? `${label} (${hint})` : label;
    return <QuantityInput kind={quantity as QuantityKind} label={shown} {...form.field(name)} {...focus} />;
  }
  return <TextInput label={label} description={hint} maxLength={60} {...form.text(name)} {...focus} />;
}
