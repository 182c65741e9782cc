/** A job's front page: every circuit as one line with a tiny profile, its loss against the allowance, its verdict. */
import { Button, Text } from "@mantine/core";
import { Fragment, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { type BoardLine, type Reading, useBoard, useReadings, type VerdictWord } from "../api/queries";
import { useKeys } from "../app/keys";
import { CircuitForm } from "../circuits/CircuitForm";
import { FAMILY_NAME, type Family, STATE_NAME } from "../parts/families";
import { shortDate, voltage, volts } from "../parts/format";
import { Verdict, verdictText } from "../parts/Verdict";
import { TinyProfile } from "./TinyProfile";

export function Board() {
  const { jobId = "" } = useParams();
  const navigate = useNavigate();
  const board = useBoard(jobId).data;
  const readings = useReadings(jobId).data ?? [];
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
      {lines.length > 0 && <Lines lines={lines} readings={readings} at={at} jobId={jobId} />}
      {laying && (
        <CircuitForm
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
        const count = lines.filter((line) => line.profile.verdict.word === word).length;
        return count > 0 && <Verdict key={word} word={word} label={`${count} ${verdictText(word)}`} />;
      })}
    </span>
  );
}

function Lines(props: { lines: BoardLine[]; readings: Reading[]; at: number; jobId: string }) {
  const { lines, readings, at, jobId } = props;
  const families = [...new Set(lines.map((line) => line.circuit.family))];
  return (
    <table className="board">
      <thead>
        <tr>
          <th>circuit</th>
          <th>route and profile</th>
          <th>lost, of allowed</th>
          <th className="number">volts</th>
          <th>last reading, at design current</th>
          <th className="last">plan</th>
        </tr>
      </thead>
      <tbody>
        {families.map((family: Family) => (
          <Fragment key={family}>
            <tr>
              <th colSpan={6} className="family" scope="rowgroup">
                {FAMILY_NAME[family]}
              </th>
            </tr>
            {lines.map(
              (line, index) =>
                line.circuit.family === family && (
                  <Line
                    key={line.circuit.id}
                    line={line}
                    reading={readings.find((each) => each.circuit_id === line.circuit.id && !each.superseded)}
                    chosen={index === at}
                    to={`/jobs/${jobId}/circuits/${line.circuit.id}`}
                  />
                ),
            )}
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}

type LineProps = { line: BoardLine; reading: Reading | undefined; chosen: boolean; to: string };

function Line({ line, reading, chosen, to }: LineProps) {
  const { circuit, profile } = line;
  return (
    <tr className={chosen ? "line at" : "line"}>
      <td>
        <Link to={to}>{circuit.name}</Link>
        <span className="quiet">
          {circuit.device}, {circuit.design_current_a} A {STATE_NAME[circuit.state]}
        </span>
      </td>
      <td>
        <TinyProfile profile={profile} />
      </td>
      <td>
        <LossBar lost={profile.total_drop_v} allowed={profile.allowed_drop_v} word={profile.verdict.word} />
      </td>
      <td className="number">{volts(profile.total_drop_v)}</td>
      <td>{reading ? <LastReading reading={reading} /> : <span className="quiet">not measured</span>}</td>
      <td className="last">
        <Verdict word={profile.verdict.word} />
      </td>
    </tr>
  );
}

function LossBar({ lost, allowed, word }: { lost: number; allowed: number; word: VerdictWord }) {
  // The mark of the allowance stands at four fifths, so that what is over still shows.
  const share = allowed > 0 ? Math.min((lost / allowed) * 80, 100) : 100;
  return (
    <svg className="loss-bar" viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
      <rect width="100" height="6" y="2" className="trough" />
      <rect width={share} height="6" y="2" className={`fill ${word}`} />
      <rect x="79.5" width="1" height="10" className="mark" />
    </svg>
  );
}

function LastReading({ reading }: { reading: Reading }) {
  if (!reading.judgement) return <span className="quiet">no longer on this route</span>;
  const { projected_v, compared, verdict } = reading.judgement;
  return (
    <span className="measured">
      ◆ {voltage(projected_v)} <span className="quiet">{shortDate(reading.taken_at)},</span>{" "}
      {verdict.word === "fail" ? <Verdict word="fail" label="over with it" /> : compared}
    </span>
  );
}
