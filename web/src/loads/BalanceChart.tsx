/** Demand against capability, scenario by scenario: bars that end at what the alternator makes, or run beyond it. */
import type { Balance, VerdictWord } from "../api/queries";
import { amps, volts } from "../parts/format";
import { Verdict } from "../parts/Verdict";

const PRIORITIES = ["engine", "safety", "work", "comfort"] as const;
const SAYS = { engine: "engine", safety: "seeing and safety", work: "the work", comfort: "comfort" };
const WIDTH = 640;
const NAME = 138;
const VERDICT = 158;
const ROW = 18;
const BAR = 11;
const HEAD = 18;

type Props = { balances: Balance[]; before: Balance[] | null };

export function BalanceChart({ balances, before }: Props) {
  const groups = grouped(balances);
  const most = Math.max(
    40,
    ...[...balances, ...(before ?? [])].map((each) => Math.max(each.demand_a, each.capability_a)),
  );
  const scale = (ampere: number) => NAME + ((WIDTH - NAME - VERDICT) * ampere) / (most * 1.04);
  const steps = ticks(most);
  let y = 0;
  const rows = groups.map(({ id, title, listed }) => {
    const top = y;
    y += HEAD + listed.length * ROW + 4;
    return { id, title, listed, top };
  });
  const height = y + 16;
  return (
    <figure className="balance-chart">
      <figcaption className="legend">
        {PRIORITIES.map((each) => (
          <span key={each}>
            <i className={`swatch ${each}`} /> {SAYS[each]}
          </span>
        ))}
        <span>
          <i className="swatch makes" /> what it makes
        </span>
      </figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label="Demand against capability by scenario">
        <defs>
          <pattern
            id="short"
            width="5"
            height="5"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="5" height="5" className="short-ground" />
            <line x1="0" y1="0" x2="0" y2="5" className="short-line" />
          </pattern>
        </defs>
        {steps.map((each) => (
          <g key={each} className="grid-line">
            <line x1={scale(each)} x2={scale(each)} y1={0} y2={height - 14} />
            <text x={scale(each)} y={height - 3} textAnchor="middle">
              {each}
              {each === steps.at(-1) && " A"}
            </text>
          </g>
        ))}
        {rows.map(({ id, title, listed, top }) => (
          <g key={id}>
            <text x={0} y={top + 14} className="row-title">
              {title}
            </text>
            {listed.map((each, place) => (
              <Row
                key={each.scenario.id}
                balance={each}
                before={before?.find(({ scenario }) => scenario.id === each.scenario.id)}
                y={top + HEAD + place * ROW}
                scale={scale}
              />
            ))}
          </g>
        ))}
      </svg>
    </figure>
  );
}

type RowProps = {
  balance: Balance;
  before: Balance | undefined;
  y: number;
  scale: (ampere: number) => number;
};

function Row({ balance, before, y, scale }: RowProps) {
  const { scenario, demand_a, capability_a, by_priority } = balance;
  let from = 0;
  const pieces = PRIORITIES.map((priority) => {
    const start = from;
    from += by_priority[priority] ?? 0;
    return { priority, start, end: from };
  });
  const gives = balance.verdict !== "unknown";
  return (
    <g className="balance-row">
      <title>
        {`${scenario.name}: needs ${amps(demand_a)}, makes ${amps(capability_a)}; ${balance.battery_v.toFixed(2)} V at the battery, ${amps(balance.battery_a)} into it`}
      </title>
      <text x={NAME - 8} y={y + 12} textAnchor="end">
        {rowName(balance)}
      </text>
      {pieces.map(({ priority, start, end }) => (
        <rect
          key={priority}
          className={`stack ${priority}`}
          x={scale(start)}
          y={y + 2}
          width={Math.max(0, scale(end) - scale(start))}
          height={BAR}
        />
      ))}
      {gives && demand_a > capability_a && (
        <rect
          className="beyond"
          x={scale(capability_a)}
          y={y + 2}
          width={scale(demand_a) - scale(capability_a)}
          height={BAR}
          fill="url(#short)"
        />
      )}
      {before && gives && Math.abs(before.capability_a - capability_a) > 0.05 && (
        <line
          className="made-before"
          x1={scale(before.capability_a)}
          x2={scale(before.capability_a)}
          y1={y + 1}
          y2={y + BAR + 5}
        />
      )}
      {gives && (
        <line className="makes" x1={scale(capability_a)} x2={scale(capability_a)} y1={y} y2={y + BAR + 4} />
      )}
      <foreignObject x={WIDTH - VERDICT + 4} y={y} width={VERDICT - 6} height={ROW}>
        <Verdict word={balance.verdict as VerdictWord} label={verdictText(balance)} />
        <span className="row-volts">{volts(balance.battery_v, 1)} V</span>
      </foreignObject>
    </g>
  );
}

function verdictText({ verdict, margin_a, demand_a }: Balance): string {
  if (verdict === "unknown") return `takes ${amps(demand_a)}`;
  return margin_a < 0 ? `short ${amps(-margin_a)}` : `spare ${amps(margin_a)}`;
}

/** What tells the rows of one group apart; the job's own scenarios have names of their own. */
const rowName = ({ scenario }: Balance) => scenario.name.replace(/^(idle|road), /, "");

function grouped(balances: Balance[]) {
  const standard = (state: string) =>
    balances.filter(({ scenario }) => scenario.id.startsWith(`${state}-`) && scenario.state === state);
  const idle = standard("idle");
  const road = standard("road");
  const own = balances.filter((each) => !idle.includes(each) && !road.includes(each));
  const rpm = (listed: Balance[]) =>
    listed[0]?.rpm ? `, alternator at ${Math.round(listed[0].rpm)} rpm` : "";
  return [
    { id: "idle", title: `Idle${rpm(idle)}`, listed: idle },
    { id: "road", title: `Road${rpm(road)}`, listed: road },
    { id: "own", title: "Your own", listed: own },
  ].filter(({ listed }) => listed.length > 0);
}

/** Round figures along the axis, about five of them. */
function ticks(most: number): number[] {
  const step = [5, 10, 20, 25, 50, 100, 200].find((each) => most / each <= 6) ?? 500;
  return Array.from({ length: Math.floor(most / step) + 1 }, (_, place) => place * step);
}
