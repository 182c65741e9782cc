/** What is tried on the metal: a fuse out, a wire lifted, a jumper across; never part of the plan, gone at Esc. */
import { Button, Menu } from "@mantine/core";
import { type Offer, useOffers } from "../api/queries";

type MenuProps = {
  jobId: string;
  circuitId: string;
  segmentId: string;
  opened: boolean;
  onOpen: (opened: boolean) => void;
  onTry: (offer: Offer) => void;
};

/** What can be done to the chosen segment, to the device and to the battery. */
export function MetalMenu({ jobId, circuitId, segmentId, opened, onOpen, onTry }: MenuProps) {
  const offers = useOffers(jobId, circuitId).data ?? [];
  const here = offers.filter((each) => each.segment_id === segmentId);
  const besides = offers.filter((each) => each.segment_id === null);
  return (
    <Menu position="bottom-start" opened={opened} onChange={onOpen}>
      <Menu.Target>
        <Button variant="default" size="compact-md">
          Metal ▾
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>Try on the metal, not in the plan</Menu.Label>
        {[...here, ...besides].map((each) => (
          <Menu.Item key={each.text} onClick={() => onTry(each)}>
            {each.says}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

/** Says what is tried, and how it goes away. */
export function MetalBar({ metal, now, onPutBack }: { metal: Offer[]; now: string; onPutBack: () => void }) {
  if (metal.length === 0) return null;
  return (
    <div className="trial-bar metal" role="status">
      <span className="trial-said">
        Tried on the metal, no part of the plan: <b>{metal.map((each) => each.says).join(", ")}</b>
        {now && ` → ${now}`}
      </span>
      <Button size="compact-sm" variant="default" onClick={onPutBack} rightSection={<kbd>Esc</kbd>}>
        Put back
      </Button>
    </div>
  );
}
