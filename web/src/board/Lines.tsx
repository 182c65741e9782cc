/** The lines of the board: a circuit each, with what it loses and what was read last. */
import { Fragment } from "react";
import { Link, useParams } from "react-router";
import {
  type BoardLine,
  type Difference,
  type Board as JobBoard,
  type Reading,
  useStage,
  type VerdictWord,
} from "../api/queries";
import { amps, changedDrops, shortDate, voltage, volts } from "../parts/format";
import { type Family, useWords } from "../parts/useWords";
import { Verdict } from "../parts/Verdict";
import { TinyProfile } from "./TinyProfile";

export function Lines(props: { lines: BoardLine[]; readings: Reading[]; at: number; board: JobBoard }) {
  const { lines, readings, at, board } = props;
  const { state, is_fed } = board.moment;
  const stage = useStage(board.job.id);
  const words = useWords();
  const families = [...new Set(lines.map((line) => line.circuit.family))];
  return (
    <table className="rows board">
      <thead>
        <tr>
          <th>family</th>
          <th>circuit</th>
          <th>route and profile{is_fed && `, ${words.state(state)}`}</th>
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
                  family={place === 0 ? words.family(family) : ""}
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

export function Line({ line, family, reading, chosen, fed, to }: LineProps) {
  const { circuit, plan, shown, silent } = line;
  const words = useWords();
  return (
    <tr className={`line${chosen ? " at" : ""}${family ? " first" : ""}`}>
      <td className="family">{family}</td>
      <td title={`${circuit.name}: ${circuit.device}`}>
        <Link to={to}>{circuit.name}</Link>
        <span className="quiet">
          {circuit.device}, {amps(circuit.design_current_a)} {words.state(circuit.state)}
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
