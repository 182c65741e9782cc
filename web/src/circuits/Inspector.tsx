/** What one segment carries and loses, what limits it, its ladder and its readings. */
import { Button, Group } from "@mantine/core";
import type { CircuitView, Reading, Rung } from "../api/queries";
import { Confirm } from "../parts/Confirm";
import { Figure } from "../parts/Figure";
import { amps, celsius, milliohms, percent, sizeName, voltage, watts } from "../parts/format";
import { Photos } from "../parts/Photos";
import type { Series } from "./queries";
import { covering, ReadingsHere } from "./ReadingsHere";
import { Checks } from "./SegmentChecks";
import { Heat } from "./SegmentHeat";
import { SizeLadder } from "./SizeLadder";

type Props = {
  view: CircuitView;
  segmentId: string;
  readings: Reading[];
  series: Series | null;
  trying: boolean;
  on: {
    step: (rung: Rung) => void;
    keep: () => void;
    putBack: () => void;
    series: (series: Series) => void;
    edit: () => void;
    insert: () => void;
    remove: () => void;
    split: () => void;
    leadOver: () => void;
    move: (steps: 1 | -1) => void;
    log: () => void;
    correct: (reading: Reading) => void;
  };
};

/** What one segment carries and loses, whether it lies on the route or beside it. */
function partOf(view: CircuitView, segmentId: string) {
  const leg = view.profile.legs.find((each) => each.segment_id === segmentId);
  if (leg) return { ...leg, place: `${leg.side} side` };
  const fork = view.profile.forks.find((each) => each.segment_ids.includes(segmentId));
  const piece = fork?.pieces?.find((each) => each.segment_id === segmentId);
  return piece && { ...piece, place: "beside the route", share: null, resistance_ohm: null };
}

export function Inspector({ view, segmentId, readings, series, trying, on }: Props) {
  const segment = [...view.segments, ...view.beside].find((each) => each.id === segmentId);
  const part = partOf(view, segmentId);
  const ladder = view.ladders.find((each) => each.segment_id === segmentId);
  if (!segment || !part) return null;
  const name = (id: string) => view.points.find((point) => point.id === id)?.name ?? "";
  const { spec } = segment;
  return (
    <aside className="inspector" aria-label="Inspector">
      <p className="quiet">
        {spec.kind === "body" ? "body metal" : spec.kind}, {part.place}
        {segment.origin === "new" && ", new"}
        {segment.fate !== "kept" && `, to be ${segment.fate}`}
        {segment.known !== "seen" && `, ${segment.known}`}
      </p>
      <h2>
        {segment.designation}{" "}
        <span>
          {name("start_point" in part ? part.start_point : segment.from_point)} →{" "}
          {name("end_point" in part ? part.end_point : segment.to_point)}
        </span>
      </h2>
      <p>
        {sizeName(segment.description)}
        {spec.kind === "wire" && `, ${spec.colour ? `${spec.colour}, ` : ""}${spec.zone}`}
        {"resistance_ohm" in spec &&
          (spec.resistance_ohm != null ? ", as measured" : ", typical, measure yours")}
      </p>
      <Group gap={6} my={6} wrap="nowrap">
        <Button size="compact-sm" variant="default" onClick={on.edit} rightSection={<kbd>e</kbd>}>
          Edit
        </Button>
        <Button size="compact-sm" variant="default" onClick={on.insert} rightSection={<kbd>n</kbd>}>
          Insert
        </Button>
        <Button
          size="compact-sm"
          variant="default"
          onClick={() => on.move(-1)}
          aria-label="Move towards the source"
        >
          ◂
        </Button>
        <Button
          size="compact-sm"
          variant="default"
          onClick={() => on.move(1)}
          aria-label="Move away from the source"
        >
          ▸
        </Button>
        <Button size="compact-sm" variant="default" onClick={on.remove}>
          Delete
        </Button>
      </Group>
      {segment.known === "assumed" && (
        <Confirm jobId={view.job_id} designation={segment.designation} part={segment} of="segment" />
      )}
      {spec.kind === "wire" && "start_point" in part && (
        <button type="button" className="link" onClick={on.split}>
          Split it at a new point
        </button>
      )}
      {!("start_point" in part) && (
        <button type="button" className="link" onClick={on.leadOver}>
          Lead the route this way instead
        </button>
      )}
      <div className="figures">
        <Figure what="carries" text={amps(part.current_a)} big />
        <Figure what="lost" text={voltage(part.drop_v)} big />
        {part.share !== null && <Figure what="of the loss" text={percent(part.share)} />}
        {part.resistance_ohm !== null && <Figure what="resistance" text={milliohms(part.resistance_ohm)} />}
        <Figure what="turns to heat" text={watts(part.power_w)} />
        {"copper_c" in part && part.copper_c != null && (
          <Figure what="copper at" text={celsius(part.copper_c)} />
        )}
      </div>
      {segment.shared_with.length > 0 && (
        <p className="quiet">
          {"start_point" in part ? "Shared with" : "Passed by"} {segment.shared_with.join(", ")}: a change
          here changes them too.
        </p>
      )}
      <Heat view={view} segmentId={segmentId} />
      {ladder && (
        <SizeLadder
          ladder={ladder}
          allowed={view.design_allowed_v}
          series={series}
          trying={trying}
          onTry={on.step}
          onKeep={on.keep}
          onPutBack={on.putBack}
          onSeries={on.series}
        />
      )}
      <Checks view={view} segmentId={segmentId} />
      <section aria-label="Readings here">
        <div className="section-head">
          <h3>Readings here</h3>
          <Button size="compact-sm" variant="default" onClick={on.log} rightSection={<kbd>r</kbd>}>
            Log a reading
          </Button>
        </div>
        <Photos jobId={view.job_id} of="segment" subjectId={segment.id} name={segment.designation} />
        <ReadingsHere
          jobId={view.job_id}
          segment={segment}
          readings={covering(view, segmentId, readings)}
          onCorrect={on.correct}
        />
      </section>
    </aside>
  );
}
