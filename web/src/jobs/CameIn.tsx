/** What is known of a vehicle that came in, question by question, and beside it the map that grows from it. */
import { Chip, Group } from "@mantine/core";
import { useElementSize } from "@mantine/hooks";
import { lookedAt } from "../map/looks";
import { MapDrawing } from "../map/MapDrawing";
import type { Picture } from "../map/queries";
import { type Answers, type Question, useQuestions, useUsualVehicle } from "./queries";

const OPEN = "don’t know";
const CHIP = { size: "sm", radius: "sm", variant: "outline", icon: null } as const;
const NOTHING = { suspicion: null, tests: [], stage: "found" as const };
const NOBODY = new Set<string>();

type Props = { answers: Answers; onAnswer: (answers: Answers) => void };

export function CameIn({ answers, onAnswer }: Props) {
  const questions = useQuestions().data ?? [];
  const { data: laid, error } = useUsualVehicle(answers);
  const open = questions.filter(({ key }) => !(key in answers)).length;
  function answer(key: string, choice: string | null) {
    const { [key]: _, ...others } = answers;
    onAnswer(choice === null ? others : { ...others, [key]: choice });
  }
  return (
    <div className="came-in">
      <div>
        <p className="quiet">
          What you know; leave what you do not. What is usual is laid and marked <i>assumed</i> until somebody
          looked.
        </p>
        {questions.map((question) => (
          <Asked
            key={question.key}
            question={question}
            answer={answers[question.key]}
            takenAs={laid?.taken_as[question.key] ?? question.usual}
            onAnswer={(choice) => answer(question.key, choice)}
          />
        ))}
      </div>
      <div>
        <p className="came-in-laid" role="status">
          {error
            ? error.message
            : laid &&
              `${laid.points} points, ${laid.segments} segments, ${laid.devices} devices, all assumed. ` +
                `${open === 0 ? "No question is" : open === 1 ? "One question is" : `${open} questions are`} open.`}
        </p>
        {laid && <Grown picture={laid.picture as Picture} />}
      </div>
    </div>
  );
}

type AskedProps = {
  question: Question;
  answer: string | undefined;
  takenAs: string;
  onAnswer: (choice: string | null) => void;
};

function Asked({ question: { key, asks, choices, several }, answer, takenAs, onAnswer }: AskedProps) {
  const chips = choices.map((choice) => (
    <Chip key={choice} value={choice} {...CHIP}>
      {choice}
    </Chip>
  ));
  return (
    <div className="came-in-asked">
      <div id={`asked ${key}`}>
        {asks}
        {answer === undefined && !several && <span className="assumed-line">assumed: {takenAs}</span>}
      </div>
      {several ? (
        <Chip.Group
          multiple
          value={(answer ?? takenAs).split(", ")}
          onChange={(chosen) => onAnswer(choices.filter((each) => chosen.includes(each)).join(", "))}
        >
          <Group gap={6} role="group" aria-labelledby={`asked ${key}`}>
            {chips}
          </Group>
        </Chip.Group>
      ) : (
        <Chip.Group value={answer ?? OPEN} onChange={(chosen) => onAnswer(chosen === OPEN ? null : chosen)}>
          <Group gap={6} role="radiogroup" aria-labelledby={`asked ${key}`}>
            {chips}
            <Chip value={OPEN} className="open" {...CHIP}>
              {OPEN}
            </Chip>
          </Group>
        </Chip.Group>
      )}
    </div>
  );
}

/** The map as wide as there is room. */
function Grown({ picture }: { picture: Picture }) {
  const { ref, width } = useElementSize();
  return (
    <div ref={ref} className="came-in-map">
      {width > 0 && (
        <MapDrawing
          picture={picture}
          looks={lookedAt("amps", picture, NOTHING)}
          zoom={width / picture.width}
          isPinned={false}
          chosen={null}
          lit={NOBODY}
          noted={NOBODY}
          probes={[]}
          onChoose={() => {}}
          onProbe={() => {}}
        />
      )}
    </div>
  );
}
