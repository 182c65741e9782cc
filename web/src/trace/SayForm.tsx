/** What the customer says: where tracing begins. */
import { Select } from "@mantine/core";
import { useState } from "react";
import type { Board } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import type { Said } from "./useCase";

const OF_THE_VEHICLE = [
  "does nothing when cranked",
  "clicks",
  "cranks slowly",
  "not charging",
  "lamp stays on",
  "lamp never lights",
] as const satisfies Said["symptom"][];
const OF_ONE = [
  "device dead",
  "device weak",
  "device runs on",
  "gauges die when the key is turned",
  "module does not answer",
] as const satisfies Said["symptom"][];
const OF_A_FUSE = ["fuse keeps blowing"] as const satisfies Said["symptom"][];
const SAYS: Partial<Record<Said["symptom"], string>> = {
  "device dead": "something is dead",
  "device weak": "something is weak",
  "device runs on": "something runs on",
  "fuse keeps blowing": "a fuse keeps blowing",
};
export const saysOf = (symptom: Said["symptom"]) => SAYS[symptom] ?? symptom;

type Props = { board: Board; onSay: (said: Said) => void; onClose: () => void };

export function SayForm({ board, onSay, onClose }: Props) {
  const [symptom, setSymptom] = useState<Said["symptom"]>("does nothing when cranked");
  const [device, setDevice] = useState<string | null>(null);
  const [remark, setRemark] = useState<string>();
  const ofOne = (OF_ONE as readonly string[]).includes(symptom);
  const ofFuse = (OF_A_FUSE as readonly string[]).includes(symptom);
  const parts = ofFuse
    ? board.segments
        .filter(({ spec }) => ["fuse", "fusible link", "breaker"].includes(spec.kind))
        .map(({ designation, description }) => ({
          value: designation,
          label: `${designation} ${description}`,
        }))
    : board.devices
        .filter(({ terminals }) => Object.keys(terminals).length > 0)
        .map(({ designation, name }) => ({ value: designation, label: `${designation} ${name}` }));
  function say() {
    if ((ofOne || ofFuse) && !device)
      return setRemark(ofFuse ? "Say which fuse it is." : "Say which device it is.");
    onSay({ symptom, device: ofOne || ofFuse ? device : null });
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
        data={[...OF_THE_VEHICLE, ...OF_ONE, ...OF_A_FUSE].map((each) => ({
          value: each,
          label: saysOf(each),
        }))}
        value={symptom}
        onChange={(value) => {
          setSymptom((value ?? symptom) as Said["symptom"]);
          setDevice(null);
        }}
      />
      {(ofOne || ofFuse) && (
        <Select
          label={ofFuse ? "The fuse" : "The device"}
          searchable
          openOnFocus={false}
          data={parts}
          value={device}
          onChange={setDevice}
        />
      )}
    </FormModal>
  );
}
