/** A job's front page: every circuit as one line with a tiny profile, its loss against the allowance, its verdict. */
import { Button, Text } from "@mantine/core";
import { Fragment, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import {
  type BoardLine,
  type Difference,
  type Finding,
  type Board as JobBoard,
  type Reading,
  useBoard,
  usePlanFindings,
  useReadings,
  useStage,
  useStarters,
  type VerdictWord,
} from "../api/queries";
import { useKeys } from "../app/keys";
import { NewRoute } from "../circuits/NewRoute";
import { Findings } from "../parts/Findings";
import { FAMILY_NAME, type Family, STATE_NAME } from "../parts/families";
import { amps, changedDrops, shortDate, voltage, volts } from "../parts/format";
import { Verdict, verdictText } from "../parts/Verdict";
import { TinyProfile } from "./TinyProfile";

export function Board() {
  const { jobId = "" } = useParams();
  const navigate = useNavigate();
  const board = useBoard(jobId).data;
  const readings = useReadings(jobId).data ?? [];
  useStarters(); // so that they are there when a new circuit is asked for
  const [laying, setLaying] = useState(false);
  const [at, setAt] = useState(0);
  const lines = board?.lines ?? [];
  const open = (line: BoardLine | undefined) =>
    line && navigate(`/jobs/${jobId}/circuits/${line.circuit.id}`);
  useKeys("Line board", [
    { keys: "ArrowDown", does: "next circuit", run: () => setAt(Math.min(at + 1, lines.length - 1)) },
    { keys: "ArrowUp", does: "previous circuit", run: () => setAt(Math.max(at - 1, 0)) },
    { keys: "Enter", does: "open", run: () => void open(lines[at]) },
    { keys: "n", does: "new circuit", run: () => setLaying(true) },
  ]);
  if (!board) return <Text className="page quiet">Reading the job …</Text>;
  return (
    <div className="page">
      <div className="page-head">
        <h1>{lines.length === 1 ? "1 circuit" : `${lines.length} circuits`}</h1>
        <Tally lines={lines} />
        <span className="spring" />
        <Button variant="default" onClick={() => setLaying(true)} rightSection={<kbd>n</kbd>}>
          New circuit
        </Button>
      </div>
      {lines.length === 0 && (
        <p className="empty">
          No circuits yet. Say where the current comes from, what it feeds and how far it is: Percorso lays
          the first wires and sizes them.
        </p>
      )}
      <Noticed board={board} onShow={(finding) => navigate(placeOf(board, finding))} />
      {lines.length > 0 && <Lines lines={lines} readings={readings} at={at} board={board} />}
      {laying && (
        <NewRoute
          board={board}
          onClose={(made) => {
            setLaying(false);
            if (made) navigate(`/jobs/${jobId}/circuits/${made}`);
          }}
        />
      )}
    </div>
  );
}

function Tally({ lines }: { lines: BoardLine[] }) {
  const words: VerdictWord[] = ["fail", "marginal", "pass"];
  return (
    <span className="tally">
      {words.map((word) => {
        const count = lines.filter((line) => line.plan?.word === word).length;
        return count > 0 && <Verdict key={word} word={word} label={`${count} ${verdictText(word)}`} />;
      })}
    </span>
  );
}

/** What the rules notice of the plan, and of the whole vehicle in the state looked at. */
function Noticed({ board, onShow }: { board: JobBoard; onShow: (finding: Finding) => void }) {
  const [open, setOpen] = useState(false);
  const { state, stage, findings, changed } = board.moment;
  const asked = usePlanFindings(board.job.id);
  const plan = asked.data ?? [];
  const as = changed ? `, as ${stage}` : "";
  const lists = [
    { title: `Before anything is switched on${as}`, found: plan },
    { title: `Vehicle ${STATE_NAME[state]}${as}`, found: findings },
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
            <Findings findings={found} onShow={onShow} />
          </section>
        ))}
      </div>
    </details>
  );
}

const SEVERITY = [
  ["error", "■", "to mend", "to mend"],
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
function placeOf(board: JobBoard, finding: Finding): string {
  const passes = board.lines.find(
    ({ circuit }) =>
      [...circuit.supply, ...circuit.return_path].some((each) => finding.segment_ids.includes(each)) ||
      (finding.device_ids ?? []).includes(circuit.device_id ?? ""),
  );
  const room = passes ? `circuits/${passes.circuit.id}` : "vehicle";
  return `/jobs/${board.job.id}/${room}`;
}

function Lines(props: { lines: BoardLine[]; readings: Reading[]; at: number; board: JobBoard }) {
  const { lines, readings, at, board } = props;
  const { state, is_fed } = board.moment;
  const stage = useStage(board.job.id);
  const families = [...new Set(lines.map((line) => line.circuit.family))];
  return (
    <table className="rows board">
      <thead>
        <tr>
          <th>family</th>
          <th>circuit</th>
          <th>route and profile{is_fed && `, ${STATE_NAME[state]}`}</th>
          <th>lost / allowed</th>
          <th className="number">volts</th>
          <th>last reading</th>
          <th className="last" title="at design current">
            plan
          </th>
        </tr>
      </thead>
      <tbody>
        {families.map((family: Family) => (
          <Fragment key={family}>
            {lines
              .filter((line) => line.circuit.family === family)
              .map((line, place) => (
                <Line
                  key={line.circuit.id}
                  line={line}
                  family={place === 0 ? FAMILY_NAME[family] : ""}
                  reading={readings.find(
                    ({ circuit_id, measurement, judged, superseded }) =>
                      circuit_id === line.circuit.id &&
                      measurement.situation?.stage === stage &&
                      judged.drop &&
                      !superseded,
                  )}
                  chosen={line === lines[at]}
                  fed={is_fed}
                  to={`/jobs/${board.job.id}/circuits/${line.circuit.id}`}
                />
              ))}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

type LineProps = {
  line: BoardLine;
  family: string;
  reading: Reading | undefined;
  chosen: boolean;
  fed: boolean;
  to: string;
};

function Line({ line, family, reading, chosen, fed, to }: LineProps) {
  const { circuit, plan, shown, silent } = line;
  return (
    <tr className={`line${chosen ? " at" : ""}${family ? " first" : ""}`}>
      <td className="family">{family}</td>
      <td title={`${circuit.name}: ${circuit.device}`}>
        <Link to={to}>{circuit.name}</Link>
        <span className="quiet">
          {circuit.device}, {amps(circuit.design_current_a)} {STATE_NAME[circuit.state]}
        </span>
      </td>
      {shown ? (
        <>
          <td>
            <TinyProfile of={shown} />
          </td>
          <td>
            <LossBar
              lost={shown.total_drop_v}
              allowed={shown.allowed_drop_v}
              word={shown.verdict.word}
              said={shown.verdict.reason}
            />
          </td>
          <td className="number">
            {volts(shown.total_drop_v)}
            {fed && line.difference && <Changed difference={line.difference} />}
          </td>
        </>
      ) : (
        <td colSpan={3} className="quiet">
          ○ {silent}
          {fed && line.difference && <Changed difference={line.difference} />}
        </td>
      )}
      <td>{reading ? <LastReading reading={reading} /> : <span className="quiet">not measured</span>}</td>
      <td className="last">
        {plan ? <Verdict word={plan.word} /> : <Verdict word="unknown" label="not there" />}
      </td>
    </tr>
  );
}

/** What the work changes of a loss, where it changes it: what it is at the other stage. */
function Changed({ difference }: { difference: Difference }) {
  const { jobId = "" } = useParams();
  const stage = useStage(jobId);
  const drops = changedDrops(difference);
  if (!drops) return null;
  const [other, value] = stage === "planned" ? ["found", drops.found] : ["planned", drops.planned];
  return (
    <span className="changed-by">
      {other} {value.startsWith("−") ? "reversed" : `${value} V`}
    </span>
  );
}

type LossBarProps = { lost: number; allowed: number; word: VerdictWord; said: string };

function LossBar({ lost, allowed, word, said }: LossBarProps) {
  // The mark of the allowance stands at four fifths, so that what is over still shows.
  const share = allowed > 0 ? Math.min((Math.max(lost, 0) / allowed) * 80, 100) : 100;
  return (
    <svg className="loss-bar" viewBox="0 0 100 10" preserveAspectRatio="none" role="img" aria-label={said}>
      <title>{said}</title>
      <rect width="100" height="6" y="2" className="trough" />
      <rect width={share} height="6" y="2" className={`fill ${word}`} />
      <rect x="79.5" width="1" height="10" className="mark" />
    </svg>
  );
}

function LastReading({ reading }: { reading: Reading }) {
  const { drop } = reading.judged;
  if (!drop) return <span className="quiet">no drop of this route</span>;
  const { projected_v, compared, verdict } = drop;
  return (
    <span className="measured">
      ◆ {voltage(projected_v)} <span className="quiet">{shortDate(reading.taken_at)},</span>{" "}
      {verdict.word === "fail" ? <Verdict word="fail" label="over with it" /> : compared}
    </span>
  );
}
