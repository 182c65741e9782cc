/** Adds consumers: picked from what many vehicles have, or one of one's own. */
import { Button, Checkbox, Group, Modal, Stack, TextInput } from "@mantine/core";
import { useState } from "react";
import { ApiError, type Schemas } from "../api/client";
import { change, type Edit } from "../saving/saving";
import { useTypicalConsumers } from "./queries";

type Typical = Schemas["Typical"];
type Props = { jobId: string; known: string[]; onClose: () => void; onOwn: (name: string) => void };

export function AddLoads({ jobId, known, onClose, onOwn }: Props) {
  const list = useTypicalConsumers(jobId);
  const typical = list.data ?? [];
  const [wanted, setWanted] = useState("");
  const [picked, setPicked] = useState<string[]>([]);
  const [at, setAt] = useState(0);
  const [problem, setProblem] = useState("");
  const listed = typical.filter(({ name, group }) =>
    `${name} ${group}`.toLowerCase().includes(wanted.trim().toLowerCase()),
  );
  const here = listed[Math.min(at, listed.length - 1)];
  const pick = (name: string) =>
    setPicked((old) => (old.includes(name) ? old.filter((each) => each !== name) : [...old, name]));

  async function add() {
    if (list.isPending) return;
    const names = picked.length > 0 ? picked : here ? [here.name] : [];
    const chosen = typical.filter(({ name }) => names.includes(name));
    if (chosen.length === 0) {
      onOwn(wanted.trim());
      return;
    }
    const label = chosen.length === 1 ? `add ${chosen[0]?.name}` : `add ${chosen.length} loads`;
    const edits = chosen.map(
      (each): Edit => ({ do: "add device", name: freeName(each.name, known), spec: specOf(each) }),
    );
    try {
      await change(jobId, label, edits, { label });
      onClose();
    } catch (error) {
      setProblem(error instanceof ApiError ? error.message : String(error));
    }
  }

  function onKeyDown(event: React.KeyboardEvent) {
    const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (by) setAt((old) => Math.max(0, Math.min(listed.length - 1, old + by)));
    else if (event.key === " " && here && (wanted === "" || event.ctrlKey)) pick(here.name);
    else if (event.key === "Enter") void add();
    else return;
    event.preventDefault();
  }

  return (
    <Modal
      opened
      onClose={onClose}
      title="Add loads"
      size="lg"
      centered
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <Stack gap="sm">
        <TextInput
          data-autofocus
          aria-label="Find a consumer"
          placeholder="find, or the name of your own"
          value={wanted}
          onChange={(event) => {
            setWanted(event.currentTarget.value);
            setAt(0);
            setProblem("");
          }}
          onKeyDown={onKeyDown}
        />
        <p className="quiet">
          Typical, from memory: measure yours. <kbd>Enter</kbd> adds the one marked, or all you picked with{" "}
          <kbd>Ctrl</kbd> <kbd>Space</kbd>.
        </p>
        <ul className="typical" aria-label="Typical consumers">
          {listed.map((each, place) => (
            <li key={each.name} className={place === at ? "at" : ""} aria-current={place === at}>
              <Checkbox
                size="sm"
                label={each.name}
                checked={picked.includes(each.name)}
                onChange={() => pick(each.name)}
              />
              <span className="quiet">{known.includes(each.name) ? "there already" : each.group}</span>
              <span className="number">
                {each.rated_w} W{each.duty_percent < 100 && `, ${each.duty_percent} %`}
              </span>
            </li>
          ))}
        </ul>
        {problem && (
          <p role="alert" className="problem">
            {problem}
          </p>
        )}
        <Group justify="flex-end">
          <Button variant="default" onClick={() => onOwn(wanted.trim())}>
            One of your own
          </Button>
          <Button onClick={() => void add()}>
            {picked.length > 0 ? `Add ${picked.length}` : here ? `Add ${here.name}` : "Add"}
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}

function specOf({ kind, rated_v, rated_w, duty_percent, used_in, times, seasons, priority, group }: Typical) {
  return { kind, rated_v, rated_w, duty_percent, used_in, times, seasons, priority, group };
}

/** The name, numbered where the ledger has it already. */
function freeName(name: string, known: string[]): string {
  if (!known.includes(name)) return name;
  let number = 2;
  while (known.includes(`${name} ${number}`)) number += 1;
  return `${name} ${number}`;
}
