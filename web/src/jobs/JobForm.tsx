/** Renames or duplicates a job. */
import { useState } from "react";
import { type Job, queryClient } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { useForm } from "../parts/useForm";
import { save } from "../saving/saving";
import { JobTexts } from "./JobTexts";

export type JobTask = { way: "rename" | "duplicate"; job: Job };

const ACTION = { rename: "Rename", duplicate: "Duplicate" };

export function JobForm({ task: { way, job }, onClose }: { task: JobTask; onClose: () => void }) {
  const name = way === "duplicate" ? `${job.name}, copy` : job.name;
  const [id] = useState(() => crypto.randomUUID()); // sent again after a lost answer it is still one job
  const form = useForm({ name, vehicle: job.vehicle, wish: job.wish });

  async function send() {
    const what = `${way} job ${form.values.name}`;
    const job_id = job.id;
    if (way === "rename") {
      const { version } = job;
      await save(what, "patch", "/api/jobs/{job_id}", { job_id }, { ...form.values, version });
    } else {
      const body = { ...form.values, id };
      await save(what, "post", "/api/jobs/{job_id}/duplicate", { job_id }, body);
    }
    await queryClient.invalidateQueries({ queryKey: ["jobs"] });
  }

  return (
    <FormModal
      title={`${ACTION[way]} job`}
      action={ACTION[way]}
      busy={form.busy}
      remark={form.remark(["name", "vehicle", "wish"])}
      onSubmit={() => void form.submit(send, onClose)}
      onClose={onClose}
    >
      <JobTexts text={form.text} />
    </FormModal>
  );
}
