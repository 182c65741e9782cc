/** Opens a job: on a vehicle that came in, from what is known of it, or on an empty one on which something is built. */
import { SegmentedControl, Select } from "@mantine/core";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { queryClient } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { useForm } from "../parts/useForm";
import { save } from "../saving/saving";
import { CameIn } from "./CameIn";
import { JobTexts } from "./JobTexts";
import type { Answers } from "./queries";

const NOMINAL = ["6", "12", "16", "24", "48"].map((value) => ({ value, label: `${value} V` }));
const STARTS = [
  { value: "came in", label: "What came in?" },
  { value: "built", label: "What is to be built?" },
];

export function NewJob({ onClose }: { onClose: (opened?: string) => void }) {
  const form = useForm({ name: "", vehicle: "", wish: "" });
  const [start, setStart] = useState("built");
  const [nominal, setNominal] = useState("12");
  const [answers, setAnswers] = useState<Answers>({});
  const [id] = useState(() => crypto.randomUUID());
  const isBuilt = start === "built";

  async function send() {
    const what = `new job ${form.values.name}`;
    if (isBuilt) {
      const nominal_v = Number(nominal) as Schemas["JobValues"]["nominal_v"];
      await save(what, "post", "/api/jobs", {}, { ...form.values, id, nominal_v });
    } else await save(what, "post", "/api/came-in/jobs", {}, { ...form.values, id, answers });
    await queryClient.invalidateQueries({ queryKey: ["jobs"] });
  }

  return (
    <FormModal
      title="New job"
      action={isBuilt ? "Open job" : "Lay it as found"}
      busy={form.busy}
      remark={form.remark(["name", "vehicle", "wish"])}
      onSubmit={() => void form.submit(send, () => onClose(id))}
      onClose={() => onClose()}
      size={isBuilt ? "md" : "76rem"}
    >
      <SegmentedControl data={STARTS} value={start} onChange={setStart} aria-label="The job starts from" />
      <div className={isBuilt ? "" : "came-in-texts"}>
        <JobTexts text={form.text} />
      </div>
      {isBuilt ? (
        <Select
          label="Nominal voltage"
          data={NOMINAL}
          allowDeselect={false}
          value={nominal}
          onChange={(value) => setNominal(value ?? "12")}
        />
      ) : (
        <CameIn answers={answers} onAnswer={setAnswers} />
      )}
    </FormModal>
  );
}
