/** What the rules notice of the job, the gravest first. */
import { useState } from "react";
import type { Finding, Board as JobBoard } from "../api/queries";
import { Findings } from "../parts/Findings";
import { useWords } from "../parts/useWords";
import { usePlanFindings } from "./queries";

/** What the rules notice of the plan, and of the whole vehicle in the state looked at. */
export function Noticed({ board, onShow }: { board: JobBoard; onShow: (finding: Finding) => void }) {
  const words = useWords();
  const [open, setOpen] = useState(false);
  const { state, stage, findings, changed } = board.moment;
  const asked = usePlanFindings(board.job.id);
  const plan = asked.data ?? [];
  const as = changed ? `, as ${stage}` : "";
  const lists = [
    { title: `Before anything is switched on${as}`, found: plan },
    { title: `Vehicle ${words.state(state)}${as}`, found: findings },
  ].filter(({ found }) => found.length > 0);
  if (lists.length === 0) {
    // Its place is kept: no line of the board jumps away under a pointer when findings come.
    const still = asked.isPending ? "Looking for what is wrong …" : "";
    const none = asked.isSuccess ? "No problems found." : still;
    return board.lines.length > 0 && <p className="noticed nothing quiet">{none}</p>;
  }
  const all = lists.flatMap(({ found }) => found);
  return (
    <details className="noticed" open={open} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>
        <Counted findings={all} />
        {!open && <span className="first-found">{all[0]?.title}</span>}
        <span className="link">{open ? "Less" : "Show all"}</span>
      </summary>
      <div className="noticed-lists">
        {lists.map(({ title, found }) => (
          <section key={title} aria-label={title}>
            <h3>{title}</h3>
            <Findings findings={found} onShow={onShow} jobId={board.job.id} />
          </section>
        ))}
      </div>
    </details>
  );
}

const SEVERITY = [
  ["error", "■", "to fix", "to fix"],
  ["caution", "▲", "caution", "cautions"],
  ["hint", "●", "hint", "hints"],
] as const;

/** How many findings there are of each gravity, by shape, number and word. */
function Counted({ findings }: { findings: Finding[] }) {
  return SEVERITY.map(([severity, shape, one, many]) => {
    const count = findings.filter((each) => each.severity === severity).length;
    return (
      count > 0 && (
        <span key={severity} className={`counted ${severity}`}>
          <span aria-hidden="true">{shape}</span> {count} {count === 1 ? one : many}
        </span>
      )
    );
  });
}

/** Where a finding can be looked at: a circuit that passes its segment or feeds its device, else the vehicle. */
export function placeOf(board: JobBoard, finding: Finding): string {
  const passes = board.lines.find(
    ({ circuit }) =>
      [...circuit.supply, ...circuit.return_path].some((each) => finding.segment_ids.includes(each)) ||
      (finding.device_ids ?? []).includes(circuit.device_id ?? ""),
  );
  const room = passes ? `circuits/${passes.circuit.id}` : "vehicle";
  return `/jobs/${board.job.id}/${room}`;
}
