/** A drive of the job's own: spells of time, each under a scenario. */
import { ActionIcon, Button, Group, Select, TextInput } from "@mantine/core";
import { IconTrash } from "@tabler/icons-react";
import { useState } from "react";
import type { Budget } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { asNumber } from "../parts/specFields";
import { useForm } from "../parts/useForm";
import { change, type Edit } from "../saving/saving";

type Spell = { name: string; minutes: string; scenario: string };
const NEW: Spell = { name: "", minutes: "", scenario: "road-day-summer" };
type Props = {
  jobId: string;
  budget: Budget;
  driveId?: string | undefined;
  onClose: (made?: string) => void;
};

export function DriveForm({ jobId, budget, driveId, onClose }: Props) {
  const drive = budget.drives.find(({ id }) => id === driveId);
  const [id] = useState(() => driveId ?? crypto.randomUUID());
  const form = useForm({ name: drive?.name ?? "", from_percent: drive?.from_percent?.toString() ?? "" });
  const [spells, setSpells] = useState<Spell[]>(
    drive?.spells.map((each) => ({ ...each, minutes: String(each.minutes) })) ?? [NEW],
  );
  const scenarios = budget.scenarios.map(({ scenario }) => ({ value: scenario.id, label: scenario.name }));
  const alter = (place: number, part: Partial<Spell>) =>
    setSpells((old) => old.map((each, index) => (index === place ? { ...each, ...part } : each)));

  function send() {
    const name = form.values.name.trim();
    const from = form.values.from_percent.trim();
    const edit: Edit = {
      do: "set drive",
      drive_id: id,
      name,
      from_percent: from ? asNumber(from) : null,
      spells: spells.map((spell) => ({
        name: spell.name.trim() || (scenarios.find(({ value }) => value === spell.scenario)?.label ?? ""),
        minutes: asNumber(spell.minutes),
        scenario: spell.scenario,
      })),
    };
    return change(jobId, `drive ${name}`, [edit], { seen: drive ? [drive] : [] });
  }

  async function remove() {
    if (!drive) return;
    await change(jobId, `delete ${drive.name}`, [{ do: "remove drive", drive_id: id }], { seen: [drive] });
  }

  const shown = ["name", "from_percent", ...spells.flatMap((_, place) => spellFields(place))];
  return (
    <FormModal
      title={drive ? drive.name : "New drive"}
      action="Save"
      size="lg"
      busy={form.busy}
      remark={form.remark(shown)}
      onSubmit={() => void form.submit(send, () => onClose(id))}
      onClose={() => onClose()}
    >
      <Group grow>
        <TextInput label="Drive" {...form.text("name")} data-autofocus maxLength={80} />
        <TextInput
          label="Battery at the start, %"
          placeholder="as it is charged"
          {...form.text("from_percent")}
        />
      </Group>
      {spells.map((spell, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a spell has nothing but its place
        <div className="spell-line" key={place}>
          <TextInput
            aria-label={`Spell ${place + 1}`}
            placeholder="what happens"
            value={spell.name}
            error={form.field("name", `spells.${place}.name`).error}
            onChange={(event) => alter(place, { name: event.currentTarget.value })}
          />
          <TextInput
            aria-label={`Minutes of spell ${place + 1}`}
            placeholder="minutes"
            value={spell.minutes}
            error={form.field("name", `spells.${place}.minutes`).error}
            onChange={(event) => alter(place, { minutes: event.currentTarget.value })}
          />
          <Select
            aria-label={`Scenario of spell ${place + 1}`}
            data={scenarios}
            searchable
            allowDeselect={false}
            value={spell.scenario}
            onChange={(scenario) => scenario && alter(place, { scenario })}
          />
          <ActionIcon
            variant="subtle"
            size="lg"
            aria-label={`Leave out spell ${place + 1}`}
            disabled={spells.length === 1}
            onClick={() => setSpells((old) => old.filter((_, index) => index !== place))}
          >
            <IconTrash size={18} />
          </ActionIcon>
        </div>
      ))}
      <Group>
        <Button variant="default" size="compact-md" onClick={() => setSpells((old) => [...old, NEW])}>
          Another spell
        </Button>
        {drive && (
          <Button
            variant="subtle"
            size="compact-md"
            onClick={() => void form.submit(remove, () => onClose("town-winter-night"))}
          >
            Delete this drive
          </Button>
        )}
      </Group>
    </FormModal>
  );
}

const spellFields = (place: number) => [`spells.${place}.name`, `spells.${place}.minutes`];
