/** Every kind of segment and the fields of its values, in the order in which they are asked. */
import type { Board, Segment } from "../api/queries";
import { type Choice, choices, quantity, type SpecField } from "../parts/specFields";
import { ZONES } from "./zones";

export type SegmentKind = Segment["spec"]["kind"];
export const SEGMENT_KINDS: Choice[] = [
  { value: "wire", label: "Wire" },
  { value: "fuse", label: "Fuse" },
  { value: "fusible link", label: "Fusible link" },
  { value: "breaker", label: "Breaker" },
  { value: "switch", label: "Switch contact" },
  { value: "sensor switch", label: "Pressure, level or heat switch" },
  { value: "relay contact", label: "Relay contact" },
  { value: "connector", label: "Connector" },
  { value: "splice", label: "Splice" },
  { value: "joint", label: "Joint: ring or lug" },
  { value: "diode", label: "Diode" },
  { value: "resistor", label: "Resistor" },
  { value: "shunt", label: "Ammeter" },
  { value: "body", label: "Body metal, cable, bearing" },
];
const KEY: Choice[] = choices("off", "accessory", "on", "start");
const MEASURED = quantity("resistance", "resistance_ohm", "Resistance, if measured", "typical", true);
const RATED = quantity("current", "rated_a", "Rated", "40 A", true);
const zone: SpecField = { as: "choice", name: "zone", label: "Through", choices: choices(...ZONES) };

const seldom = (name: string, label: string, usual: string, ...values: string[]): SpecField => ({
  as: "choice",
  name,
  label,
  usual,
  choices: choices(...values),
  optional: true,
  more: true,
});
const ENDS = ["ring", "blade 6.3 mm", "connector terminal", "butt splice", "bare"];
const WIRE_MORE: SpecField[] = [
  seldom(
    "insulation",
    "Insulation",
    "usual for its size",
    "thin-wall cross-linked",
    "general cross-linked",
    "thick-wall cross-linked",
    "PVC",
    "cross-linked battery cable",
    "PVC battery cable",
    "welding cable",
    "silicone",
    "fluoropolymer hook-up",
    "shielded",
    "building wire",
  ),
  { as: "number", name: "bundle", label: "Loaded wires in its bundle", usual: "1", more: true },
  seldom("from_end", "First terminal", "usual for the place", ...ENDS),
  seldom("to_end", "Second terminal", "usual for the place", ...ENDS),
  seldom("joined", "Terminals are", "as the house does", "crimped", "crimped and soldered", "soldered"),
  { as: "flag", name: "moves", label: "Leads to something that moves", more: true },
];

const condition = (label: string, ...values: string[]): SpecField => ({
  as: "choice",
  name: "condition",
  label,
  choices: choices(...values),
});

/** Fields of a kind; switches and relay contacts choose among the job's inputs and coils. */
export function fieldsOf(kind: SegmentKind, board: Board | undefined, input: string): SpecField[] {
  const inputs = board?.moment.inputs ?? [];
  const named = inputs.map((each) => ({ value: each.key, label: each.name }));
  const positions =
    input === "key" ? KEY : choices(...(inputs.find((each) => each.key === input)?.positions ?? []));
  const closed: SpecField = { as: "many", name: "closed_in", label: "Closed in", choices: positions };
  switch (kind) {
    case "wire":
      return [
        quantity("size", "size", "Size", "10 AWG or 6 mm2"),
        quantity("length", "length_m", "Length", "13 ft or 4.1 m"),
        zone,
        { as: "text", name: "colour", label: "Colour", usual: "RD or WH/RD", optional: true },
        ...WIRE_MORE,
      ];
    case "fuse":
      return [
        quantity("current", "rating_a", "Rating", "25 A"),
        { as: "choice", name: "family", label: "Family", choices: choices("blade", "bolt-down", "strip") },
        MEASURED,
        { as: "flag", name: "fitted", label: "In its holder" },
      ];
    case "fusible link":
      return [
        quantity("size", "size", "Size", "14 AWG"),
        quantity("length", "length_m", "Length", "0.15 m"),
        zone,
      ];
    case "breaker":
      return [quantity("current", "rating_a", "Rating", "30 A"), MEASURED];
    case "switch":
      return [
        {
          as: "choice",
          name: "input",
          label: "Driven by",
          choices: [{ value: "key", label: "the key" }, ...named],
        },
        closed,
        RATED,
        MEASURED,
      ];
    case "sensor switch":
      return [
        condition("Which", "pressure", "level", "temperature"),
        { as: "choice", name: "input", label: "Driven by", choices: named },
        closed,
        RATED,
        MEASURED,
      ];
    case "relay contact":
      return [
        {
          as: "choice",
          name: "coil",
          label: "Moved by",
          usual: "always closed",
          optional: true,
          choices: (board?.devices ?? [])
            .filter((each) => each.spec.kind === "relay coil")
            .map((each) => ({ value: each.id, label: `${each.designation} ${each.name}` })),
        },
        {
          as: "choice",
          name: "form",
          label: "Contact",
          choices: [
            { value: "NO", label: "normally open, 30–87" },
            { value: "NC", label: "normally closed, 30–87a" },
          ],
        },
        RATED,
        seldom("base", "Its wires go on", "usual for its rating", "6.3 mm blades", "9.5 mm blades", "studs"),
        MEASURED,
      ];
    case "connector":
      return [condition("Which", "new blade", "tired blade", "bulkhead pair"), MEASURED];
    case "splice":
      return [condition("Which", "crimped", "crimped and soldered", "twisted and taped"), MEASURED];
    case "joint":
      return [condition("Which", "ring on clean stud", "lug on paint or rust"), MEASURED];
    case "body":
      return [condition("Which", "seam path", "control cable", "bearing"), MEASURED];
    case "diode":
      return [
        quantity("current", "rated_a", "Rated", "3 A"),
        quantity("voltage", "forward_v", "Forward drop at its rating", "0.9 V"),
      ];
    case "resistor":
      return [
        quantity("resistance", "resistance_ohm", "Resistance", "470 ohm"),
        quantity("power", "rated_w", "Rated", "0.5 W"),
      ];
    case "shunt":
      return [
        quantity("current", "full_scale_a", "Full scale", "60 A"),
        quantity("voltage", "full_scale_drop_v", "Drops at full scale", "75 mV"),
      ];
  }
}

/** What a new piece of a kind starts with. */
export const START: Record<string, string> = {
  zone: "cabin",
  moves: "false",
  family: "blade",
  fitted: "true",
  form: "NO",
  input: "key",
  closed_in: "on,start",
};
