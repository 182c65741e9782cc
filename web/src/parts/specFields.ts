/** The fields of a segment's or a device's values as a form has them: text in, the API's values out. */
import type { QuantityKind } from "../api/queries";

export type Choice = { value: string; label: string };
export type FieldOf =
  | { as: "quantity"; quantity: QuantityKind }
  | { as: "number" }
  | { as: "text" }
  | { as: "flag" }
  | { as: "choice"; choices: Choice[] }
  | { as: "many"; choices: Choice[] };
/** `optional`: left empty it is typical or unknown. `usual` stands in the empty field; `more`: seldom asked. */
export type SpecField = FieldOf & {
  name: string;
  label: string;
  usual?: string;
  optional?: boolean;
  more?: boolean;
};
export type Values = Record<string, string>;

const UNIT: Record<QuantityKind, string> = {
  length: "m",
  current: "A",
  voltage: "V",
  resistance: "ohm",
  power: "W",
  temperature: "C",
  share: "%",
  size: "",
};

export const choices = (...values: string[]): Choice[] => values.map((value) => ({ value, label: value }));

export const quantity = (
  quantity: QuantityKind,
  name: string,
  label: string,
  usual?: string,
  optional = false,
): SpecField => ({ as: "quantity", quantity, name, label, optional, ...(usual ? { usual } : {}) });

/** Values of a spec as texts, as they were typed where that is known. */
export function asTexts(fields: SpecField[], spec: object): Values {
  const stored = spec as Record<string, unknown> & { typed?: Record<string, string> };
  const texts = fields.map((field): [string, string] => {
    const value = stored[field.name];
    if (value === null || value === undefined) return [field.name, ""];
    if (field.as === "text" && stored.typed?.[field.name])
      return [field.name, stored.typed[field.name] ?? ""];
    if (Array.isArray(value)) return [field.name, value.map(inWords).join(field.as === "many" ? "," : ", ")];
    const unit = field.as === "quantity" ? UNIT[field.quantity] : "";
    return [field.name, stored.typed?.[field.name] ?? `${plain(value)} ${unit}`.trim()];
  });
  return Object.fromEntries(texts);
}

/** A number as people write it: six figures say all that anybody measured. */
export const plain = (value: unknown) =>
  typeof value === "number" ? String(Number(value.toPrecision(6))) : String(value);

/** One of several values; a point of a curve as `1500: 20`. */
const inWords = (each: unknown) =>
  typeof each === "object" && each !== null ? Object.values(each).join(": ") : String(each);

/** A number as it was typed; what is none goes as it is, for the server to say what is wrong with it. */
export const asNumber = (text: string) => (Number.isFinite(Number(text)) ? Number(text) : text);

/** What to send for the texts of a form; what is empty is left to the server's usual value, or is cleared. */
export function asSpec(kind: string, fields: SpecField[], values: Values): Record<string, unknown> {
  const sent = fields.flatMap((field): [string, unknown][] => {
    const text = (values[field.name] ?? "").trim();
    if (field.as === "flag") return [[field.name, text !== "false"]];
    if (field.as === "many") return [[field.name, text ? text.split(",") : field.optional ? null : []]];
    if (text === "") return field.optional ? [[field.name, null]] : [];
    if (field.as === "number") return [[field.name, asNumber(text)]];
    return [[field.name, text]];
  });
  return { kind, ...Object.fromEntries(sent) };
}
