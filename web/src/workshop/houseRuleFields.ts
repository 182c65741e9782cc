/** The fields of the house rules. */
import type { Schemas } from "../api/client";
import type { QuantityKind } from "../api/queries";
import { type Choice, choices } from "../parts/specFields";

export type Rules = Schemas["HouseRulesBody"];

type Name = Exclude<keyof Rules, "version" | "targets" | "floors">;

type Purpose = Schemas["FamilyDefaults"]["purpose"];

export type Field = { name: Name; label: string; unit: string; quantity?: QuantityKind; of?: Choice[] };

export const FIELDS: Field[] = [
  {
    name: "fuse_load_percent",
    label: "A fuse carries for long, of its rating",
    unit: "%",
    quantity: "share",
  },
  { name: "source_fuse_within_m", label: "A fuse sits within, of its source", unit: "m", quantity: "length" },
  {
    name: "ampacity_rule",
    label: "What a wire may carry, by",
    unit: "",
    of: choices("lower of both", "table", "thermal model"),
  },
  {
    name: "school",
    label: "New sizes are",
    unit: "",
    of: [
      { value: "light", label: "light: the smallest that do" },
      { value: "usual", label: "usual: with margin" },
      { value: "generous", label: "generous: one above usual" },
    ],
  },
  {
    name: "wire_load_percent",
    label: "Usual size: carries for long, of what it may",
    unit: "%",
    quantity: "share",
  },
  { name: "wire_rise_k", label: "Usual size: warmer than the air by, K", unit: "" },
  { name: "thinnest_wire", label: "Thinnest wire", unit: "", quantity: "size" },
  { name: "smallest_fuse_a", label: "Smallest fuse on the shelf", unit: "A", quantity: "current" },
  {
    name: "copper",
    label: "Copper is as warm as",
    unit: "",
    of: [
      { value: "own temperature", label: "its current makes it" },
      { value: "zone temperature", label: "its zone, as in handbooks" },
    ],
  },
  { name: "coldest_morning_c", label: "It must start on mornings of", unit: "°C" },
  {
    name: "joined",
    label: "Terminals are",
    unit: "",
    of: choices("crimped", "crimped and soldered", "soldered"),
  },
  { name: "slack_percent", label: "Cut longer, of the length", unit: "%", quantity: "share" },
  { name: "slack_m", label: "Cut longer besides", unit: "m", quantity: "length" },
  { name: "close_percent", label: "Close, from this much of the allowance", unit: "%", quantity: "share" },
  {
    name: "min_test_current_percent",
    label: "A drop test needs, of the design current",
    unit: "%",
    quantity: "share",
  },
  {
    name: "expected_tolerance_percent",
    label: "A reading is as expected within",
    unit: "%",
    quantity: "share",
  },
  {
    name: "charging_reserve_percent",
    label: "An alternator makes more than asked, by",
    unit: "%",
    quantity: "share",
  },
];

export const PURPOSES: Record<Purpose, string> = {
  charging: "Charging",
  starting: "Starting",
  ground: "Grounds",
  feed: "Feeds in general",
  "electronics and pumps": "Feeds of electronics and pumps",
  control: "Control",
  exciter: "Exciter",
  sense: "Sense",
};

export const TARGETS = Object.keys(PURPOSES) as Purpose[];

export const target = (purpose: string) => `targets.${purpose}`;

export const floor = (use: string) => `floors.${use}`;
