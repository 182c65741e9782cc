/** The switches and sensors as they stand in the state that is looked at. */
import type { Schemas } from "../api/client";
import { SwitchLines } from "../app/StateControl";
import { useViewing } from "../app/viewing";
import { useWords } from "../parts/useWords";

type Props = { jobId: string; inputs: Schemas["InputOut"][] };

export function Switches({ jobId, inputs }: Props) {
  const words = useWords();
  const { state } = useViewing(jobId);
  if (inputs.length === 0) return null;
  return (
    <>
      <h3>Switches, {words.state(state)}</h3>
      <SwitchLines jobId={jobId} inputs={inputs} />
    </>
  );
}
