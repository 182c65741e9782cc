/** A job's front page: every circuit as one line with a tiny profile, its loss against the allowance, its verdict. */
import { Button, Text } from "@mantine/core";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { type BoardLine, useBoard, useReadings, type VerdictWord } from "../api/queries";
import { useKeys } from "../app/keys";
import { NewRoute } from "../circuits/NewRoute";
import { useStarters } from "../circuits/queries";
import { Verdict, verdictText } from "../parts/Verdict";
import { Lines } from "./Lines";
import { Noticed, placeOf } from "./Noticed";

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
  useKeys("Overview", [
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
      {laying && <NewRoute board={board} onClose={() => setLaying(false)} />}
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
