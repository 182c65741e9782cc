/** The readings across a segment, judged. */
import type { Schemas } from "../api/client";
import type { CircuitView, Reading, Segment } from "../api/queries";
import { amps, milliohms, shortDate, voltage } from "../parts/format";
import { Verdict } from "../parts/Verdict";
import { attempt, change } from "../saving/saving";

type Pinned = Schemas["Pinned"];

/** Readings whose probes have the segment between them. */
export function covering(view: CircuitView, segmentId: string, readings: Reading[]): Reading[] {
  const { legs } = view.profile;
  const at = legs.findIndex((leg) => leg.segment_id === segmentId);
  return readings.filter((reading) => {
    const { quantity, red_point, black_point } = reading.measurement;
    if (quantity !== "voltage") return false;
    const red = legs.findIndex((leg) => leg.start_point === red_point);
    const black = legs.findIndex((leg) => leg.end_point === black_point);
    return red >= 0 && red <= at && at <= black;
  });
}

type Props = {
  jobId: string;
  segment: Segment;
  readings: Reading[];
  onCorrect: (reading: Reading) => void;
};

export function ReadingsHere({ jobId, segment, readings, onCorrect }: Props) {
  if (readings.length === 0)
    return <p className="quiet">None yet. Load the circuit and measure across this piece.</p>;
  return (
    <ul className="readings">
      {readings.map((reading) => (
        <li key={reading.id} className={reading.superseded ? "superseded" : ""}>
          <span className="measured">
            {isBefore(reading) ? "◇ found" : "◆"} <b className="mono">{voltage(reading.net ?? 0)}</b>
          </span>{" "}
          {reading.judged.drop && `at ${amps(reading.judged.drop.current_a)}, `}
          {shortDate(reading.taken_at)}, {reading.taken_by}
          <br />
          <span className="quiet">{Object.values(reading.names).join(" → ")}</span>{" "}
          {reading.judged.drop && <Judged drop={reading.judged.drop} />}
          {reading.judged.why_not && <p className="problem">{reading.judged.why_not}</p>}
          {reading.pins && !reading.superseded && (
            <Pins jobId={jobId} pins={reading.pins} segment={segment} />
          )}
          {reading.note && <p className="quiet">“{reading.note}”</p>}
          {reading.superseded ? (
            <p className="quiet">superseded by a later one</p>
          ) : (
            <button type="button" className="link" onClick={() => onCorrect(reading)}>
              Correct it
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

/** What a reading tells of assumed metal is offered, not taken. */
function Pins({ jobId, pins, segment }: { jobId: string; pins: Pinned; segment: Segment }) {
  if (pins.edit.segment_id !== segment.id) return null;
  const take = () =>
    void attempt(change(jobId, `${segment.designation} as measured`, [pins.edit], { seen: [segment] }));
  return (
    <p className="assumed-line">
      {pins.says}.{" "}
      <button type="button" className="link" onClick={take}>
        Take it as measured
      </button>
    </p>
  );
}

const isBefore = ({ measurement }: Reading) => measurement.situation?.stage === "found";

function Judged({ drop }: { drop: NonNullable<Reading["judged"]["drop"]> }) {
  const { at_design_current, projected_v, expected_v, compared, resistance_ohm, verdict } = drop;
  return (
    <p>
      {!at_design_current && <>as {voltage(projected_v)} at design current, </>}
      {milliohms(resistance_ohm)}; computed {voltage(expected_v)}: <b>{compared}</b>
      <br />
      <Verdict word={verdict.word} />, with it the circuit {verdict.reason}
    </p>
  );
}
