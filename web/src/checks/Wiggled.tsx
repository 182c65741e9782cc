/** With which pieces a reading moves, and one more of them. */
import { NativeSelect } from "@mantine/core";
import type { AskedTest, Stage } from "../api/queries";
import { useWaiting } from "../saving/store";
import { aboutWiggle } from "./say";

export function Wiggled({
  test,
  stage,
  onWiggle,
}: {
  test: AskedTest;
  stage: Stage;
  onWiggle: (segment: string) => void;
}) {
  const waiting = useWaiting();
  const moves = test.path.filter(
    ({ id }) => test.moves_with.includes(id) || waiting.has(aboutWiggle(test, stage, id)),
  );
  const still = test.path.filter((each) => !moves.includes(each));
  return (
    <>
      <NativeSelect
        aria-label="It moves when I wiggle"
        value=""
        data={[
          { value: "", label: "it moves when I wiggle …" },
          ...still.map(({ id, designation }) => ({ value: id, label: designation })),
        ]}
        onChange={(event) => event.currentTarget.value && onWiggle(event.currentTarget.value)}
      />
      {moves.length > 0 && (
        <span className="verdict marginal">
          <span aria-hidden="true">▲</span> moves with{" "}
          {moves.map(({ designation }) => designation).join(", ")}
        </span>
      )}
    </>
  );
}
