/** Above the map: which look it has, a part to find, the drawing to keep, and how close it is. */
import { Button, SegmentedControl, Select } from "@mantine/core";
import type { RefObject } from "react";
import { asQuery, useViewing } from "../app/viewing";
import { LOOKS, type Look } from "./looks";
import type { Picture } from "./queries";

type Props = {
  jobId: string;
  picture: Picture;
  look: Look;
  onLook: (look: Look) => void;
  finder: RefObject<HTMLInputElement | null>;
  onFind: (part: string) => void;
  onCloser: (steps: number) => void;
  onWhole: () => void;
};

export function MapBar({ jobId, picture, look, onLook, finder, onFind, onCloser, onWhole }: Props) {
  const { state, stage, inputs } = asQuery(useViewing(jobId));
  const asked = new URLSearchParams([
    ["state", state],
    ["stage", stage],
    ...inputs.map((one) => ["inputs", one]),
  ]);
  return (
    <div className="map-bar no-print">
      <SegmentedControl
        aria-label="Look"
        size="xs"
        data={[...LOOKS]}
        value={look}
        onChange={(value) => onLook(value as Look)}
      />
      <Select
        ref={finder}
        aria-label="Find a part"
        placeholder="find a part"
        size="xs"
        searchable
        value={null}
        data={partsOf(picture)}
        onChange={(part) => part && onFind(part)}
        nothingFoundMessage="no such part at this stage"
      />
      <span className="spring" />
      <a className="link" href={`/api/jobs/${jobId}/map.svg?${asked}`} download>
        Keep as a drawing
      </a>
      <Button variant="default" size="compact-sm" onClick={() => onCloser(-1)} aria-label="Farther">
        −
      </Button>
      <Button variant="default" size="compact-sm" onClick={() => onCloser(1)} aria-label="Closer">
        +
      </Button>
      <Button variant="default" size="compact-sm" onClick={onWhole}>
        Whole
      </Button>
    </div>
  );
}

function partsOf({ segments, rows }: Picture) {
  const devices = rows.filter(({ is_main }) => is_main);
  return [
    ...devices.map(({ device, designation, name }) => ({ value: device, label: `${designation} ${name}` })),
    ...segments.map(({ id, designation, description }) => ({
      value: id,
      label: `${designation}, ${description}`,
    })),
  ];
}
