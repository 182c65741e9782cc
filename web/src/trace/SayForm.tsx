/** What the customer says: where tracing begins. */
import { Select } from "@mantine/core";
import { useState } from "react";
import type { Board } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import type { Said } from "./useCase";
import { useSymptoms } from "./useSymptoms";

const SAYS: Partial<Record<Said["symptom"], string>> = {
  "device dead": "something is dead",
  "device weak": "something is weak",
  "device runs on": "something runs on",
  "fuse keeps blowing": "a fuse keeps blowing",
};
export const saysOf = (symptom: Said["symptom"]) => SAYS[symptom] ?? symptom;
const FLAT = "battery flat in the morning";
const STOOD = [
  { value: "12", label: "one night" },
  { value: "24", label: "a day" },
  { value: "60", label: "a weekend" },
  { value: "168", label: "a week" },
  { value: "336", label: "two weeks or more" },
];
const STILL: { value: NonNullable<Said["still"]>; label: string }[] = [
  { value: "cranked slowly", label: "still cranked, slowly" },
  { value: "clicked", label: "only clicked" },
  { value: "did nothing", label: "did nothing any more" },
];
const FUSES = ["fuse", "fusible link", "breaker"];

type Props = { board: Board; onSay: (said: Said) => void; onClose: () => void };

export function SayForm({ board, onSay, onClose }: Props) {
  const symptoms = useSymptoms().data ?? [];
  const [symptom, setSymptom] = useState<Said["symptom"]>("does nothing when cranked");
  const [device, setDevice] = useState<string | null>(null);
  const [stood, setStood] = useState<string | null>(null);
  const [still, setStill] = useState<Said["still"]>(null);
  const [remark, setRemark] = useState<string>();
  const of = symptoms.find((each) => each.symptom === symptom)?.of ?? "the vehicle";
  const asks = of !== "the vehicle";
  function say() {
    if (asks && !device)
      return setRemark(of === "a fuse" ? "Say which fuse it is." : "Say which device it is.");
    const isFlat = symptom === FLAT;
    const stood_h = isFlat && stood ? Number(stood) : null;
    onSay({ symptom, device: asks ? device : null, stood_h, still: isFlat ? (still ?? null) : null });
    onClose();
  }
  return (
    <FormModal
      title="What does the customer say?"
      action="Begin with it"
      busy={false}
      remark={remark}
      onSubmit={say}
      onClose={onClose}
    >
      <Select
        label="It"
        data-autofocus
        openOnFocus={false}
        allowDeselect={false}
        data={symptoms.map((each) => ({ value: each.symptom, label: saysOf(each.symptom) }))}
        value={symptom}
        onChange={(value) => {
          setSymptom((value ?? symptom) as Said["symptom"]);
          setDevice(null);
        }}
      />
      {asks && (
        <Select
          label={of === "a fuse" ? "The fuse" : "The device"}
          searchable
          openOnFocus={false}
          data={partsOf(board, of)}
          value={device}
          onChange={setDevice}
        />
      )}
      {symptom === FLAT && (
        <>
          <Select
            label="It had stood"
            placeholder="nobody knows how long"
            clearable
            openOnFocus={false}
            data={STOOD}
            value={stood}
            onChange={setStood}
          />
          <Select
            label="And then it"
            placeholder="nobody knows"
            clearable
            openOnFocus={false}
            data={STILL}
            value={still ?? null}
            onChange={(value) => setStill(value as Said["still"])}
          />
        </>
      )}
    </FormModal>
  );
}

/** The fuses or the devices that are wired, by their designations. */
function partsOf(board: Board, of: "a fuse" | "a device") {
  if (of === "a fuse")
    return board.segments
      .filter(({ spec }) => FUSES.includes(spec.kind))
      .map(({ designation, description }) => ({
        value: designation,
        label: `${designation} ${description}`,
      }));
  return board.devices
    .filter(({ terminals }) => Object.keys(terminals).length > 0)
    .map(({ designation, name }) => ({ value: designation, label: `${designation} ${name}` }));
}
