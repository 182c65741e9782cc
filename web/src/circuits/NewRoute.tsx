/** A new circuit: one of the route starters, or a plain wire out and one back. */
import { Modal, TextInput } from "@mantine/core";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Board, RouteStarter } from "../api/queries";
import { useWords } from "../parts/useWords";
import { CircuitForm } from "./CircuitForm";
import { useStarters } from "./queries";
import { StarterForm } from "./StarterForm";

type Props = { board: Board; onClose: () => void };
type Choice = { id: string; title: string; says: string; family: string };

const PLAIN: Choice = {
  id: "plain",
  title: "Plain circuit",
  says: "One wire out to the device and one back; everything else you insert yourself.",
  family: "any family",
};

export function NewRoute({ board, onClose }: Props) {
  const navigate = useNavigate();
  const starters = useStarters().data;
  const [chosen, setChosen] = useState<string | null>(null);
  const starter = starters?.find((each) => each.id === chosen);
  const close = (made?: string) => {
    onClose();
    if (made) navigate(`/jobs/${board.job.id}/circuits/${made}`);
  };
  if (chosen === PLAIN.id) return <CircuitForm board={board} onClose={close} />;
  if (starter) return <StarterForm {...{ board, starter }} onClose={close} onBack={() => setChosen(null)} />;
  return <Chooser starters={starters} onChoose={setChosen} onClose={onClose} />;
}

type ChooserProps = {
  starters: RouteStarter[] | undefined;
  onChoose: (id: string) => void;
  onClose: () => void;
};

function Chooser({ starters, onChoose, onClose }: ChooserProps) {
  const words = useWords();
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const [entered, setEntered] = useState(false);
  const all: Choice[] = starters
    ? [...starters.map((each) => ({ ...each, family: words.family(each.family).toLowerCase() })), PLAIN]
    : [];
  const fits = all
    .filter(({ title, says, family }) => matches(`${title} ${says} ${family}`, text))
    .sort((one, other) => Number(matches(other.title, text)) - Number(matches(one.title, text)));
  const current = Math.min(at, fits.length - 1);
  const marked = fits[current];
  useEffect(() => {
    if (entered && marked) onChoose(marked.id); // Enter may come before the routes do
  });

  function onKey(event: KeyboardEvent) {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) setAt(Math.min(Math.max(current + step, 0), fits.length - 1));
    else if (event.key === "Enter" && marked) onChoose(marked.id);
    else if (event.key === "Enter") setEntered(true);
    else return;
    event.preventDefault();
  }

  return (
    <Modal
      opened
      onClose={onClose}
      title="New circuit"
      size="lg"
      centered
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <TextInput
        label="What are you wiring?"
        placeholder="relay, ground, charge …"
        data-autofocus
        value={text}
        onChange={(event) => {
          setEntered(false);
          setText(event.currentTarget.value);
          setAt(0);
        }}
        onKeyDown={onKey}
        role="combobox"
        aria-expanded
        aria-controls="route-starters"
        aria-activedescendant={marked && `starter-${marked.id}`}
        autoComplete="off"
      />
      <div className="starters" id="route-starters" role="listbox" aria-label="Routes to begin with">
        {fits.map((each, index) => (
          <Line key={each.id} choice={each} marked={index === current} onChoose={() => onChoose(each.id)} />
        ))}
      </div>
      {starters && !marked && <p className="quiet">Nothing by that name. A plain circuit takes anything.</p>}
    </Modal>
  );
}

const matches = (where: string, text: string) =>
  text
    .toLowerCase()
    .split(/\s+/)
    .every((word) => where.toLowerCase().includes(word));

function Line({ choice, marked, onChoose }: { choice: Choice; marked: boolean; onChoose: () => void }) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (marked) line.current?.scrollIntoView({ block: "nearest" });
  }, [marked]);
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the field above steps the list with the arrow keys
    <div
      ref={line}
      id={`starter-${choice.id}`}
      role="option"
      tabIndex={-1}
      aria-selected={marked}
      className={marked ? "starter marked" : "starter"}
      onClick={onChoose}
    >
      <b>{choice.title}</b> <span className="quiet">{choice.family}</span>
      <p>{choice.says}</p>
    </div>
  );
}
