/** How cold it may be for a starter still to crank: volts and speed over temperature, what limits it, and the cures. */

import { Modal } from "@mantine/core";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useViewing } from "../app/viewing";
import { celsius, percent, volts } from "../parts/format";
import { useCold } from "./queries";

const WIDTH = 700;
const HEIGHT = 190;
const LEFT = 48;
const RIGHT = 60;
const TOP = 14;
const BOTTOM = 26;

type Cold = Schemas["InTheCold"];
type Starter = Schemas["ColdStart"];

export function ColdStart({ jobId, circuitId }: { jobId: string; circuitId: string }) {
  const { stage } = useViewing(jobId);
  const [opened, setOpened] = useState(false);
  const cold = useCold(circuitId, stage).data;
  if (!cold?.starter) return null;
  const { coldest_c, limit, why } = cold.starter;
  const enough = coldest_c !== null && coldest_c <= cold.coldest_morning_c;
  const title = coldest_c === null ? "It cranks on no morning" : `Cranks down to ${celsius(coldest_c)}`;
  return (
    <section aria-label="Starting in the cold">
      <p>
        <b>{title}</b>; the house asks for {celsius(cold.coldest_morning_c)}
        {!enough && ": not enough"}. {limit && `Limited by the ${limit}: `}
        {why}{" "}
        <button type="button" className="link" onClick={() => setOpened(true)}>
          Colder and warmer
        </button>
      </p>
      <Modal
        opened={opened}
        onClose={() => setOpened(false)}
        title={title}
        size="xl"
        closeButtonProps={{ "aria-label": "Close" }}
      >
        <Picture cold={cold} starter={cold.starter} />
      </Modal>
    </section>
  );
}

function Picture({ cold, starter }: { cold: Cold; starter: Starter }) {
  return (
    <>
      <Chart cold={cold} starter={starter} />
      <p className="quiet">
        <span className="cold-key posts">━</span> volts at the battery’s posts{" "}
        <span className="cold-key speed">━</span> speed, of that at its running point; dashed the least of
        each, dotted the house’s coldest morning
      </p>
      {starter.wins.length > 0 && (
        <ul className="wins">
          {starter.wins.map(({ what, kelvin }) => (
            <li key={what}>
              {what.replaceAll("mm2", "mm²")}: <b>{Math.round(kelvin)} K</b> colder
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

function Chart({ cold, starter }: { cold: Cold; starter: Starter }) {
  const { curve, coldest_c } = starter;
  const [warm, frost] = [curve[0]?.outside_c ?? 0, curve.at(-1)?.outside_c ?? 0];
  const most = Math.ceil(Math.max(...curve.map(({ posts_v }) => posts_v ?? 0), cold.least_posts_v));
  const fastest = Math.max(1, ...curve.map(({ speed }) => speed ?? 0));
  const x = (outside: number) => LEFT + ((WIDTH - LEFT - RIGHT) * (outside - frost)) / (warm - frost);
  const y = (share: number) => TOP + (HEIGHT - TOP - BOTTOM) * (1 - share);
  const line = (share: (each: Schemas["Cranking"]) => number | null) =>
    curve
      .filter((each) => share(each) !== null)
      .map((each, place) => `${place ? "L" : "M"}${x(each.outside_c)},${y(share(each) ?? 0)}`)
      .join("");
  const until = coldest_c === null ? "on no morning" : `down to ${celsius(coldest_c)}`;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="cold-chart"
      role="img"
      aria-label={`Volts at the battery and speed of the starter over temperature; it cranks ${until}`}
    >
      {coldest_c !== null && (
        <rect
          className="starts"
          x={x(coldest_c)}
          y={TOP}
          width={x(warm) - x(coldest_c)}
          height={y(0) - TOP}
        />
      )}
      {curve
        .filter(({ outside_c }) => outside_c % 10 === 0)
        .map(({ outside_c }) => (
          <g key={outside_c}>
            <line className="grid" x1={x(outside_c)} x2={x(outside_c)} y1={TOP} y2={y(0)} />
            <text x={x(outside_c)} y={HEIGHT - 8} textAnchor="middle" className="figure">
              {celsius(outside_c)}
            </text>
          </g>
        ))}
      <Level y={y(cold.least_posts_v / most)} text={`${volts(cold.least_posts_v, 1)} V`} kind="posts" left />
      <Level y={y(cold.least_speed / fastest)} text={percent(cold.least_speed)} kind="speed" />
      <line
        className="morning"
        x1={x(cold.coldest_morning_c)}
        x2={x(cold.coldest_morning_c)}
        y1={TOP}
        y2={y(0)}
      />
      <path className="curve posts" d={line(({ posts_v }) => (posts_v === null ? null : posts_v / most))} />
      <path className="curve speed" d={line(({ speed }) => (speed === null ? null : speed / fastest))} />
      <text x={LEFT - 6} y={TOP + 4} textAnchor="end" className="figure posts">
        {most} V
      </text>
      <text x={WIDTH - RIGHT + 6} y={TOP + 4} className="figure speed">
        {percent(fastest)}
      </text>
    </svg>
  );
}

type LevelProps = { y: number; text: string; kind: "posts" | "speed"; left?: boolean };

/** What there must be at least. */
function Level({ y, text, kind, left }: LevelProps) {
  return (
    <g>
      <line className={`least ${kind}`} x1={LEFT} x2={WIDTH - RIGHT} y1={y} y2={y} />
      <text
        x={left ? LEFT - 6 : WIDTH - RIGHT + 6}
        y={y + 4}
        textAnchor={left ? "end" : "start"}
        className={`figure ${kind}`}
      >
        {text}
      </text>
    </g>
  );
}
