/** The circuit families in the order of work, as the screens name them. */
import type { Schemas } from "../api/client";

export type Family = Schemas["CircuitOut"]["family"];

export const FAMILY_NAME: Record<Family, string> = {
  charging: "Charging",
  starting: "Starting",
  ground: "Ground",
  feed: "Power feeds",
  control: "Control",
  exciter: "Exciter",
  sense: "Sense",
};

/** A state as it is said of something: "18.0 A idling". */
export const STATE_NAME: Record<Schemas["CircuitOut"]["state"], string> = {
  off: "off",
  accessory: "accessory",
  on: "key on",
  cranking: "cranking",
  idle: "idling",
  road: "on the road",
};

/** A state as a choice. */
export const STATE_LABEL: typeof STATE_NAME = {
  off: "off",
  accessory: "accessory",
  on: "on",
  cranking: "cranking",
  idle: "idle",
  road: "road",
};
