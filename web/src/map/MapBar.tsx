/** Above the map: which look it has, a part to find, what is shown alone, paper, and how close it is. */
import { Button, Menu, SegmentedControl, Select } from "@mantine/core";
import { type RefObject, useState } from "react";
import type { Board } from "../api/queries";
import { useWords, type Words } from "../parts/useWords";
import { LOOKS, type Look } from "./looks";
import type { Paper, Picture } from "./queries";

type Props = {
  board: Board;
  picture: Picture;
  look: Look;
  onLook: (look: Look) => void;
  finder: RefObject<HTMLInputElement | null>;
  onFind: (part: string) => void;
  isAlone: boolean;
  /** All other circuits, by their ids; with none of them the whole vehicle is shown. */
  onAlone: (others: string[], alone: boolean) => void;
  drawing: string;
  onPrint: (paper: Paper) => void;
  onCloser: (steps: number) => void;
  onWhole: () => void;
};

export function MapBar({
  board,
  picture,
  look,
  onLook,
  finder,
  onFind,
  isAlone,
  onAlone,
  drawing,
  onPrint,
  onCloser,
  onWhole,
}: Props) {
  const groups = groupsOf(board, useWords());
  const [alone, setAlone] = useState<string | null>(null);
  const papers: Paper[] = ["A4", "A3"];
  const parts = partsOf(picture);
  function find(part: string | null) {
    if (part) onFind(part);
    finder.current?.blur(); // the keys are the map's again
  }
  return (
    <div className="map-bar no-print">
      <SegmentedControl
        aria-label="Look"
        size="xs"
        data={[...LOOKS]}
        value={look}
        onChange={(value) => {
          onLook(value as Look);
          (document.activeElement as HTMLElement | null)?.blur(); // the arrows are the map's again
        }}
      />
      <Select
        ref={finder}
        aria-label="Find a part"
        placeholder="find a part"
        size="xs"
        w={130}
        searchable
        selectFirstOptionOnChange
        value={null}
        data={parts}
        onKeyDown={(event) => {
          // Enter may come before the list is open and its first entry marked.
          const text = event.currentTarget.value.trim().toLowerCase();
          if (event.key !== "Enter" || text === "" || document.querySelector("[data-combobox-selected]"))
            return;
          find(parts.find(({ label }) => label.toLowerCase().startsWith(text))?.value ?? null);
        }}
        onChange={find}
        nothingFoundMessage="no such part at this stage"
      />
      <Select
        aria-label="Shown alone"
        placeholder="whole vehicle"
        size="xs"
        w={130}
        clearable
        data={groups.map(({ name }) => name)}
        value={isAlone ? alone : null}
        onChange={(name) => {
          setAlone(name);
          const chosen = groups.find((each) => each.name === name)?.circuits;
          const all = board.lines.map(({ circuit }) => circuit.id);
          onAlone(chosen ? all.filter((each) => !chosen.includes(each)) : [], chosen !== undefined);
        }}
      />
      <span className="spring" />
      <Menu position="bottom-end">
        <Menu.Target>
          <Button variant="default" size="compact-sm">
            Paper ▾
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {papers.map((paper) => (
            <Menu.Item key={paper} onClick={() => onPrint(paper)}>
              Print on {paper}
            </Menu.Item>
          ))}
          <Menu.Item component="a" href={drawing} download>
            Keep as a drawing
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <Button variant="default" size="compact-sm" onClick={() => onCloser(-1)} aria-label="Farther">
        −
      </Button>
      <Button variant="default" size="compact-sm" onClick={() => onCloser(1)} aria-label="Closer">
        +
      </Button>
      <Button variant="default" size="compact-sm" onClick={onWhole}>
        Whole
      </Button>
    </div>
  );
}

/** The families and the zones of a vehicle, with the circuits of each. */
function groupsOf({ lines, segments }: Board, words: Words) {
  const zones = new Map(segments.flatMap(({ id, spec }) => (spec.kind === "wire" ? [[id, spec.zone]] : [])));
  const groups = new Map<string, string[]>();
  for (const { circuit } of lines) {
    const path = [...circuit.supply, ...circuit.return_path];
    const through = new Set(path.flatMap((each) => zones.get(each) ?? []));
    for (const name of [words.family(circuit.family), ...[...through].map((zone) => `through ${zone}`)])
      groups.set(name, [...(groups.get(name) ?? []), circuit.id]);
  }
  return [...groups]
    .map(([name, circuits]) => ({ name, circuits }))
    .sort(
      (one, other) => Number(one.name.startsWith("through ")) - Number(other.name.startsWith("through ")),
    );
}

function partsOf({ segments, rows }: Picture) {
  const devices = rows.filter(({ is_main }) => is_main);
  return [
    ...devices.map(({ device, designation, name }) => ({ value: device, label: `${designation} ${name}` })),
    ...segments.map(({ id, designation, description }) => ({
      value: id,
      label: `${designation}, ${description}`,
    })),
  ].sort((one, other) => one.label.localeCompare(other.label, "en", { numeric: true }));
}
