/** Every standard step of a segment, with what it does and why it is refused; stepping computes at once. */
import { Button, Group, SegmentedControl } from "@mantine/core";
import { useEffect, useRef } from "react";
import type { Ladder, Rung } from "../api/queries";
import { grams, sizeName, volts } from "../parts/format";
import type { Series } from "./queries";

type Props = {
  ladder: Ladder;
  allowed: number;
  series: Series | null;
  trying: boolean;
  onTry: (rung: Rung) => void;
  onKeep: () => void;
  onPutBack: () => void;
  onSeries: (series: Series) => void;
};

export function SizeLadder(props: Props) {
  const { ladder, allowed, series, trying, onTry, onKeep, onPutBack, onSeries } = props;
  const isWire = ladder.rungs.some((rung) => rung.area_mm2 != null);
  return (
    <section aria-label="Size">
      <div className="section-head">
        <h3>
          {isWire ? "Size" : "Rating"} <span className="quiet">at design current</span>
        </h3>
        {isWire && (
          <SegmentedControl
            size="xs"
            aria-label="Sizes in"
            data={[
              { value: "awg", label: "AWG" },
              { value: "metric", label: "mm²" },
            ]}
            value={series ?? (ladder.rungs.some((rung) => rung.label.endsWith("AWG")) ? "awg" : "metric")}
            onChange={(value) => onSeries(value as Series)}
          />
        )}
      </div>
      <div className="ladder" role="listbox" aria-label="Size ladder" tabIndex={0}>
        {ladder.rungs.map((rung) => (
          <RungLine
            key={rung.label}
            rung={rung}
            school={ladder.school}
            allowed={allowed}
            onTry={() => onTry(rung)}
          />
        ))}
      </div>
      {trying ? (
        <Group gap="xs" mt="xs">
          <Button size="compact-md" onClick={onKeep} rightSection={<kbd>Enter</kbd>}>
            Keep it
          </Button>
          <Button size="compact-md" variant="default" onClick={onPutBack} rightSection={<kbd>Esc</kbd>}>
            Put back
          </Button>
        </Group>
      ) : (
        <p className="governed">{sizeName(ladder.summary)}.</p>
      )}
    </section>
  );
}

type RungProps = { rung: Rung; school: Ladder["school"]; allowed: number; onTry: () => void };

function RungLine({ rung, school, allowed, onTry }: RungProps) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const ladder = line.current?.parentElement;
    if (rung.present && line.current && ladder) {
      ladder.scrollTop = line.current.offsetTop - (ladder.clientHeight - line.current.offsetHeight) / 2;
    }
  }, [rung.present]);
  const refused = rung.refused.length > 0;
  const share = Math.min(rung.drop_v / Math.max(allowed, 1e-9), 1.25) / 1.25;
  const [size = "", unit = ""] = sizeName(rung.label).split(" ");
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the arrow keys of the room step the ladder
    <div
      ref={line}
      role="option"
      tabIndex={-1}
      aria-selected={rung.present}
      className={`rung${rung.present ? " present" : ""}${refused ? " refused" : ""}`}
      onClick={onTry}
    >
      <span className="rung-size">
        <b>{size}</b> {unit}
        {unit === "AWG" && rung.area_mm2 != null && <small>{area(rung.area_mm2)} mm²</small>}
      </span>
      <span className="rung-drop">{volts(rung.drop_v)} V</span>
      <svg className="rung-bar" viewBox="0 0 100 8" preserveAspectRatio="none" aria-hidden="true">
        <rect width={share * 100} height="8" className={rung.drop_v > allowed ? "fill fail" : "fill pass"} />
        <rect x="79.5" width="1.5" height="8" className="mark" />
      </svg>
      <span className="rung-why">{whyOf(rung, school)}</span>
    </div>
  );
}

const area = (mm2: number) => (mm2 < 10 ? mm2.toPrecision(2) : mm2.toFixed(0));

const CHOSEN = {
  light: "light: smallest that meets all",
  usual: "usual: smallest with the house’s margins",
  generous: "generous: one above usual",
};

function whyOf(rung: Rung, school: Ladder["school"]): string {
  if (rung.refused.length > 0) return rung.refused.join("; ");
  const copper = Math.abs(rung.extra_copper_kg) > 5e-4 ? `, ${grams(rung.extra_copper_kg)} copper` : "";
  if (rung.recommended) return `● ${school ? CHOSEN[school] : "smallest that does both"}${copper}`;
  if (rung.gained_v > 0.0005) return `meets it, buys ${volts(rung.gained_v)} V${copper}`;
  return `meets it${copper}`;
}
