/** Every kind of device: its terminals and the fields of its values, in the order in which they are asked. */
import type { Device } from "../api/queries";
import { STATES } from "../app/viewing";
import { choices, quantity, type SpecField } from "../parts/specFields";

export type DeviceKind = Device["spec"]["kind"];
type Look = { label: string; terminals: string[]; open: string[]; fields: SpecField[] };

const number = (name: string, label: string, usual?: string, optional = false): SpecField => ({
  as: "number",
  name,
  label,
  optional,
  ...(usual ? { usual } : {}),
});
const choice = (name: string, label: string, ...values: string[]): SpecField => ({
  as: "choice",
  name,
  label,
  choices: choices(...values),
});
const PULL = [
  quantity("voltage", "pull_in_v", "Pulls in at", "60 % of nominal"),
  quantity("voltage", "drop_out_v", "Drops out at", "20 % of nominal"),
];
/** When a load runs and how much it matters, as the load budget asks for it. */
export const DUTY: SpecField[] = [
  number("duty_percent", "Runs, % of the time", "100"),
  {
    as: "many",
    name: "used_in",
    label: "Counts in",
    choices: choices(...STATES),
    optional: true,
    usual: "idle and road",
  },
  { as: "many", name: "times", label: "At times", choices: choices("day", "night") },
  { as: "many", name: "seasons", label: "Seasons", choices: choices("summer", "winter", "rain") },
  choice("priority", "Needed for", "engine", "safety", "work", "comfort"),
  { as: "text", name: "group", label: "Listed under", usual: "what it is needed for", optional: true },
];
/** What was measured of a load; it beats the plate. */
export const MEASURED: SpecField[] = [
  quantity("current", "measured_a", "Measured current", "not yet", true),
  quantity("voltage", "measured_v", "Measured at", "rated voltage", true),
  {
    ...choice("measured_how", "How measured", "in series", "clamp", "shunt"),
    optional: true,
    usual: "not said",
  },
];
const LOAD: SpecField[] = [
  quantity("voltage", "rated_v", "Rated voltage", "12 V"),
  quantity("current", "rated_a", "Rated current", "5 A"),
  quantity("voltage", "min_v", "Works from", "60 % of rated", true),
  quantity("voltage", "max_v", "Stands up to", "not said", true),
  { as: "many", name: "runs_in", label: "Must run in", choices: choices(...STATES) },
  { as: "many", name: "rests_in", label: "Must rest in", choices: choices(...STATES) },
  { as: "flag", name: "keeps_engine_running", label: "The engine stops without it" },
  {
    as: "choice",
    name: "independent_of",
    label: "Must outlive",
    usual: "nothing in particular",
    choices: [],
    optional: true,
    more: true,
  },
  { ...quantity("current", "inrush_a", "Inrush, if measured", "usual for its kind", true), more: true },
  { ...number("inrush_s", "Inrush lasts, s", "usual for its kind", true), more: true },
  { ...quantity("power", "rated_w", "Rated power instead", "from its current", true), more: true },
  { ...number("efficiency", "Efficiency of that, 0 to 1", "1"), more: true },
  ...[...MEASURED, ...DUTY].map((each) => ({ ...each, more: true })),
];
const load = (label: string, ...more: SpecField[]): Look => ({
  label,
  terminals: ["+", "-"],
  open: [],
  fields: [...LOAD.slice(0, 2), ...more, ...LOAD.slice(2)],
});

export const DEVICES: Record<DeviceKind, Look> = {
  battery: {
    label: "Battery",
    terminals: ["+", "-"],
    open: [],
    fields: [
      choice("chemistry", "Kind", "lead-acid", "AGM", "LiFePO4"),
      number("capacity_ah", "Capacity, Ah", "70"),
      quantity("current", "cold_cranking_a", "Cold cranking current, of lead", "640 A", true),
      quantity("voltage", "nominal_v", "Its own voltage", "the vehicle’s", true),
      number("state_of_charge_percent", "Charged, %", "100"),
      quantity("temperature", "temperature_c", "Temperature", "25C"),
      quantity("resistance", "resistance_ohm", "Internal resistance, if measured", "from its marking", true),
      quantity("current", "charge_a", "Takes at 14.4 V, if measured", "from its charge", true),
      number("peukert", "Peukert’s exponent, 1 for none", "usual for its kind", true),
    ],
  },
  alternator: {
    label: "Alternator",
    terminals: ["B+", "B-"],
    open: ["S", "D+", "W"],
    fields: [
      quantity("voltage", "setpoint_v", "Regulates to", "14.2 V"),
      quantity("current", "at_1800_a", "Makes at 1 800 rpm", "45 A"),
      quantity("current", "at_6000_a", "Makes at 6 000 rpm", "110 A"),
      number("pulley_ratio", "Pulley, times the engine", "not known", true),
      number("engine_idle_rpm", "Engine idling, rpm", "750", true),
      number("engine_road_rpm", "Engine on the road, rpm", "2400", true),
      { ...number("idle_rpm", "Else its own speed idling, rpm", "1800"), more: true },
      { ...number("road_rpm", "Its own speed on the road, rpm", "6000"), more: true },
      { ...number("max_rpm", "It stands, rpm", "15000"), more: true },
      {
        as: "text",
        name: "output",
        label: "Its curve, rpm: A",
        usual: "from its marking",
        optional: true,
        more: true,
      },
      {
        ...choice("belt", "Belt", "V-belt", "two V-belts", "ribbed belt"),
        optional: true,
        usual: "not known",
        more: true,
      },
      { ...number("setpoint_v_per_k", "Regulates, V per K warmer", "0"), more: true },
      quantity("temperature", "temperature_c", "Temperature", "25C"),
      number("excitation_a", "Wakes up with, A", "0.02"),
      quantity("resistance", "exciter_ohm", "D+ at rest", "10 ohm"),
      number("exciter_max_a", "D+ stands, A", "0.5"),
      number("self_excites_rpm", "Wakes up by itself from, rpm", "never", true),
    ],
  },
  starter: {
    label: "Starter",
    terminals: ["30", "31"],
    open: ["50"],
    fields: [
      quantity("voltage", "running_v", "Turning the engine, voltage", "10 V"),
      quantity("current", "running_a", "Turning the engine, current", "150 A"),
      quantity("voltage", "locked_v", "Locked, voltage", "4 V"),
      quantity("current", "locked_a", "Locked, current", "400 A"),
      quantity("resistance", "coil_ohm", "Solenoid", "1.2 ohm"),
      ...PULL,
    ],
  },
  "relay coil": {
    label: "Relay coil",
    terminals: ["86", "85"],
    open: [],
    fields: [
      quantity("resistance", "resistance_ohm", "Coil", "90 ohm"),
      ...PULL,
      choice("suppression", "Suppression", "none", "resistor", "diode"),
      { as: "flag", name: "fitted", label: "In its socket" },
    ],
  },
  resistive: load("Heater, coil: resistive"),
  motor: load("Motor: pump, fan, lift", quantity("current", "locked_a", "Standing", "5 × rated", true)),
  "filament lamp": load("Lamp with filament"),
  "constant power": load("Electronics, constant power"),
  "constant current": load("Electronics, constant current"),
  "indicator lamp": load("Indicator lamp", choice("technology", "Made as", "filament", "LED")),
};

/** What a new device of a kind starts with. */
export const START: Record<string, string> = {
  chemistry: "lead-acid",
  suppression: "none",
  fitted: "true",
  technology: "filament",
  keeps_engine_running: "false",
  times: "day,night",
  seasons: "summer,winter,rain",
  priority: "work",
};

/** Fields of a kind; what must outlive another device chooses among those of the job. */
export function fieldsOf(kind: DeviceKind, devices: Device[]): SpecField[] {
  const others = devices.map((each) => ({ value: each.id, label: `${each.designation} ${each.name}` }));
  return DEVICES[kind].fields.map((field) =>
    field.name === "independent_of" && field.as === "choice" ? { ...field, choices: others } : field,
  );
}
