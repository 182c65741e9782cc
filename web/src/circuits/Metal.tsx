/** What is tried on the metal: a fuse out, a wire lifted, a jumper across; never part of the plan, gone at Esc. */
import { Button, Menu, Select } from "@mantine/core";
import { useState } from "react";
import type { CircuitView, Offer } from "../api/queries";
import { FormModal } from "../parts/FormModal";
import { useOffers } from "./queries";

type Point = CircuitView["points"][number];
type MenuProps = {
  jobId: string;
  circuitId: string;
  segmentId: string;
  points: Point[];
  opened: boolean;
  onOpen: (opened: boolean) => void;
  onTry: (offer: Offer) => void;
};

/** What can be done to the chosen segment, to the device and to the battery, and a jumper between any two points. */
export function MetalMenu({ jobId, circuitId, segmentId, points, opened, onOpen, onTry }: MenuProps) {
  const [bridging, setBridging] = useState(false);
  const offers = useOffers(jobId, circuitId).data ?? [];
  const here = offers.filter((each) => each.segment_id === segmentId);
  const besides = offers.filter((each) => each.segment_id === null);
  return (
    <>
      <Menu position="bottom-start" opened={opened} onChange={onOpen}>
        <Menu.Target>
          <Button variant="default" size="compact-md">
            Try ▾
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>Try on the vehicle; the plan stays as it is</Menu.Label>
          {[...here, ...besides].map((each) => (
            <Menu.Item key={each.text} onClick={() => onTry(each)}>
              {each.says}
            </Menu.Item>
          ))}
          <Menu.Item onClick={() => setBridging(true)}>jumper between two points …</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      {bridging && <JumperForm points={points} onTry={onTry} onClose={() => setBridging(false)} />}
    </>
  );
}

type JumperProps = { points: Point[]; onTry: (offer: Offer) => void; onClose: () => void };

function JumperForm({ points, onTry, onClose }: JumperProps) {
  const [from, setFrom] = useState<string | null>(null);
  const [to, setTo] = useState<string | null>(null);
  const [remark, setRemark] = useState<string>();
  const others = (taken: string | null) =>
    points.filter((each) => each.id !== taken).map(({ id, name }) => ({ value: id, label: name }));
  const name = (id: string) => points.find((each) => each.id === id)?.name;
  function lay() {
    if (!from || !to) return setRemark("Say both its ends.");
    onTry({
      segment_id: null,
      text: `bridge ${from} ${to}`,
      says: `jumper from ${name(from)} to ${name(to)}`,
    });
    onClose();
  }
  return (
    <FormModal
      title="Jumper between two points"
      action="Try it"
      busy={false}
      remark={remark}
      onSubmit={lay}
      onClose={onClose}
    >
      <Select
        label="From"
        description="A fused test lead"
        searchable
        data-autofocus
        openOnFocus={false}
        data={others(to)}
        value={from}
        onChange={setFrom}
      />
      <Select label="To" searchable openOnFocus={false} data={others(from)} value={to} onChange={setTo} />
    </FormModal>
  );
}

/** Says what is tried, and how it goes away. */
export function MetalBar({ metal, now, onPutBack }: { metal: Offer[]; now: string; onPutBack: () => void }) {
  if (metal.length === 0) return null;
  return (
    <div className="trial-bar metal" role="status">
      <span className="trial-said">
        Tried on the vehicle, not in the plan: <b>{metal.map((each) => each.says).join(", ")}</b>
        {now && ` → ${now}`}
      </span>
      <Button size="compact-sm" variant="default" onClick={onPutBack} rightSection={<kbd>Esc</kbd>}>
        Put back
      </Button>
    </div>
  );
}
