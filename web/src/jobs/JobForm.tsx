/** Opens, renames or duplicates a job. */
import { Select, Textarea, TextInput } from "@mantine/core";
import type { Schemas } from "../api/client";
import { type Job, queryClient } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { useForm } from "../parts/useForm";
import { save } from "../saving/saving";

export type JobTask = { way: "new" } | { way: "rename"; job: Job } | { way: "duplicate"; job: Job };

const TITLE = { new: "New job", rename: "Rename job", duplicate: "Duplicate job" };
const ACTION = { new: "Open job", rename: "Rename", duplicate: "Duplicate" };
const NOMINAL = ["6", "12", "16", "24", "48"].map((value) => ({ value, label: `${value} V` }));

export function JobForm({ task, onClose }: { task: JobTask; onClose: (opened?: string) => void }) {
  const job = task.way === "new" ? undefined : task.job;
  const form = useForm({
    name: task.way === "duplicate" ? `${task.job.name}, copy` : (job?.name ?? ""),
    vehicle: job?.vehicle ?? "",
    wish: job?.wish ?? "",
    nominal_v: String(job?.nominal_v ?? 12),
  });
  const id = crypto.randomUUID();

  async function send() {
    const { nominal_v, ...texts } = form.values;
    const what = `${task.way} job ${texts.name}`;
    if (task.way === "rename") {
      const { id: job_id, version } = task.job;
      await save(what, "patch", "/api/jobs/{job_id}", { job_id }, { ...texts, version });
    } else if (task.way === "new") {
      const body = { ...texts, id, nominal_v: Number(nominal_v) as Schemas["JobValues"]["nominal_v"] };
      await save(what, "post", "/api/jobs", {}, body);
    } else {
      const body = { ...texts, id };
      await save(what, "post", "/api/jobs/{job_id}/duplicate", { job_id: task.job.id }, body);
    }
    await queryClient.invalidateQueries({ queryKey: ["jobs"] });
  }

  return (
    <FormModal
      title={TITLE[task.way]}
      action={ACTION[task.way]}
      busy={form.busy}
      remark={form.remark(["name", "vehicle", "wish"])}
      onSubmit={() => void form.submit(send, () => onClose(task.way === "new" ? id : undefined))}
      onClose={() => onClose()}
    >
      <TextInput label="Job" placeholder="what is to be done" data-autofocus {...form.text("name")} />
      <TextInput label="Vehicle" placeholder="as you call it in the shop" {...form.text("vehicle")} />
      <Textarea label="Complaint or wish" autosize minRows={2} {...form.text("wish")} />
      {task.way === "new" && (
        <Select
          label="Nominal voltage"
          data={NOMINAL}
          allowDeselect={false}
          value={form.values.nominal_v}
          onChange={(value) => form.set({ nominal_v: value ?? "12" })}
        />
      )}
    </FormModal>
  );
}
