/** Every job of the shop, and what can be done with one. */
import { ActionIcon, Button, Menu, NativeSelect, Switch, Text, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { IconDots } from "@tabler/icons-react";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { pageOwner } from "../api/person";
import { type Job, queryClient } from "../api/queries";
import { useKeys } from "../app/keys";
import { OthersWaiting } from "../app/SavingNotice";
import { shortDate } from "../parts/format";
import { save } from "../saving/saving";
import { remark } from "../saving/store";
import { ImportForm } from "./ImportForm";
import { JobForm, type JobTask } from "./JobForm";
import { NewJob } from "./NewJob";
import { toOpen } from "./OpenJob";
import { useJobs } from "./queries";

const VOLTS = ["6", "12", "16", "24", "48"];

export function JobList() {
  const [archived, setArchived] = useState(false);
  const [search, setSearch] = useState("");
  const [searched] = useDebouncedValue(search, 150);
  const [volts, setVolts] = useState("");
  const searching = useRef<HTMLInputElement>(null);
  const [task, setTask] = useState<JobTask | null>(null);
  const [opening, setOpening] = useState(false);
  const [file, setFile] = useState<File | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  const jobs = useJobs({ archived, search: searched, ...(volts && { nominal_v: Number(volts) }) });
  const rows = jobs.data?.pages.flat() ?? [];
  function step(by: number) {
    const next = Math.min(Math.max(at + by, 0), rows.length - 1);
    setAt(next);
    if (next === rows.length - 1 && jobs.hasNextPage && !jobs.isFetching) void jobs.fetchNextPage();
    document.querySelector(`.jobs > :nth-child(${next + 1})`)?.scrollIntoView({ block: "nearest" });
  }
  const chosen = rows[Math.min(at, rows.length - 1)];
  useKeys("Jobs", [
    { keys: "ArrowDown", does: "next job", run: () => step(1) },
    { keys: "ArrowUp", does: "previous job", run: () => step(-1) },
    { keys: "s", does: "search", run: () => searching.current?.focus() },
    { keys: "Enter", does: "open", run: () => chosen && navigate(toOpen(chosen.id)) },
    { keys: "n", does: "new job", run: () => setOpening(true) },
    { keys: "o", does: "open a job file", run: () => picker.current?.click() },
    { keys: "F2", does: "rename", run: () => chosen && setTask({ way: "rename", job: chosen }) },
    { keys: "d", does: "duplicate", run: () => chosen && setTask({ way: "duplicate", job: chosen }) },
    {
      keys: "a",
      does: archived ? "take out of the archive" : "archive",
      run: () => chosen && void archive(chosen),
    },
  ]);

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping a file here is also the button's work
    <div
      className="page"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        setFile(event.dataTransfer.files[0] ?? null);
      }}
    >
      <OthersWaiting person={pageOwner()} />
      <div className="page-head">
        <h1>Jobs</h1>
        <TextInput
          ref={searching}
          aria-label="Search"
          placeholder="vehicle, part, note …"
          value={search}
          onChange={(event) => {
            setSearch(event.currentTarget.value);
            setAt(0);
          }}
          onKeyDown={(event) => {
            if (event.key === "Escape") setSearch("");
            if (["Escape", "ArrowDown", "Enter"].includes(event.key)) event.currentTarget.blur();
          }}
          rightSection={<kbd>s</kbd>}
        />
        <NativeSelect
          aria-label="Nominal voltage"
          data={[
            { value: "", label: "any voltage" },
            ...VOLTS.map((each) => ({ value: each, label: `${each} V` })),
          ]}
          value={volts}
          onChange={(event) => setVolts(event.currentTarget.value)}
        />
        <Switch
          label="archived"
          checked={archived}
          onChange={(event) => setArchived(event.currentTarget.checked)}
        />
        <span className="spring" />
        <input
          ref={picker}
          type="file"
          accept=".json,application/json"
          aria-label="Job file"
          hidden
          onChange={(event) => {
            setFile(event.currentTarget.files?.[0] ?? null);
            event.currentTarget.value = "";
          }}
        />
        <Button variant="default" onClick={() => picker.current?.click()} rightSection={<kbd>o</kbd>}>
          Open a job file
        </Button>
        <Button variant="default" onClick={() => setOpening(true)} rightSection={<kbd>n</kbd>}>
          New job
        </Button>
      </div>
      {jobs.isPending && <Text className="quiet">Reading the jobs …</Text>}
      {jobs.data && rows.length === 0 && (
        <p className="empty">
          {searched || volts
            ? "No job has all of that. Words are found by how they begin, in vehicles, wishes, circuits, parts, points and notes."
            : archived
              ? "Nothing is archived. A finished job goes here with its readings and comes back when you want it."
              : "No jobs yet. A job is one piece of work on one vehicle: say what came in, or what is to be built."}
        </p>
      )}
      <ul className="jobs">
        {rows.map((job, index) => (
          <li key={job.id} className={index === at ? "job at" : "job"}>
            <Link to={toOpen(job.id)} className="open-job" onFocus={() => setAt(index)}>
              <strong>{job.vehicle}</strong>
              <span>{job.name}</span>
              <span className="quiet wish">{job.wish}</span>
            </Link>
            <span className="mono">{job.nominal_v} V</span>
            <span className="quiet changed">changed {shortDate(job.changed_at)}</span>
            <Menu position="bottom-end">
              <Menu.Target>
                <ActionIcon variant="subtle" size="lg" aria-label={`More about ${job.name}`}>
                  <IconDots size={20} />
                </ActionIcon>
              </Menu.Target>
              <Menu.Dropdown>
                <Menu.Item onClick={() => setTask({ way: "rename", job })}>Rename</Menu.Item>
                <Menu.Item onClick={() => setTask({ way: "duplicate", job })}>Duplicate</Menu.Item>
                <Menu.Item component="a" href={`/api/jobs/${job.id}/file`} download>
                  Save as a job file
                </Menu.Item>
                <Menu.Item onClick={() => void archive(job)}>
                  {job.archived ? "Take out of the archive" : "Archive"}
                </Menu.Item>
              </Menu.Dropdown>
            </Menu>
          </li>
        ))}
      </ul>
      {jobs.hasNextPage && (
        <Button variant="default" loading={jobs.isFetchingNextPage} onClick={() => void jobs.fetchNextPage()}>
          More jobs
        </Button>
      )}
      {file && (
        <ImportForm
          file={file}
          onClose={(opened) => {
            setFile(null);
            if (opened) navigate(toOpen(opened));
          }}
        />
      )}
      {task && <JobForm task={task} onClose={() => setTask(null)} />}
      {opening && (
        <NewJob
          onClose={(opened) => {
            setOpening(false);
            if (opened) navigate(toOpen(opened));
          }}
        />
      )}
    </div>
  );
}

async function archive(job: Job) {
  const what = `${job.archived ? "take out of the archive" : "archive"}: ${job.name}`;
  const { id: job_id, version, archived } = job;
  await save(what, "patch", "/api/jobs/{job_id}", { job_id }, { archived: !archived, version });
  await queryClient.invalidateQueries({ queryKey: ["jobs"] });
  remark(what);
}
