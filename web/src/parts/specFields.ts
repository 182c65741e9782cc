/** The fields of a segment's or a device's values as a form has them: text in, the API's values out. */
import type { Board, FormField, Forms } from "../api/queries";

export type Choice = { value: string; label: string };
export type Values = Record<string, string>;

export const choices = (...values: readonly string[]): Choice[] =>
  values.map((value) => ({ value, label: value }));

/** The fields of a kind of segment or device. */
export function fieldsOf(forms: Forms, kind: string): FormField[] {
  return [...forms.segments, ...forms.devices].find((each) => each.kind === kind)?.fields ?? [];
}

/** What everything new starts with, whatever its kind. */
export function startOf(fields: FormField[]): Values {
  return Object.fromEntries(fields.filter(({ start }) => start).map(({ name, start }) => [name, start]));
}

/** What there is to choose from in a field: what the core names, or what this job has. */
export function choicesOf(field: FormField, board: Board, forms: Forms, values: Values): Choice[] {
  const inputs = board.moment.inputs.map(({ key, name }) => ({ value: key, label: name }));
  const named = ({ id, designation, name }: Board["devices"][number]) => ({
    value: id,
    label: `${designation} ${name}`,
  });
  switch (field.among) {
    case "inputs":
      return inputs;
    case "key and inputs":
      return [{ value: "key", label: "the key" }, ...inputs];
    case "positions": {
      const driving = board.moment.inputs.find(({ key }) => key === values.input);
      return choices(...(driving?.positions ?? forms.key_positions));
    }
    case "coils":
      return board.devices.filter(({ spec }) => spec.kind === "relay coil").map(named);
    case "devices":
      return board.devices.map(named);
    default:
      return field.choices;
  }
}

/** Values of a spec as texts, as they were typed where that is known. */
export function asTexts(fields: FormField[], spec: object): Values {
  const stored = spec as Record<string, unknown> & { typed?: Record<string, string> };
  const texts = fields.map(({ name, answer, unit }): [string, string] => {
    const value = stored[name];
    if (value === null || value === undefined) return [name, ""];
    if (answer === "text" && stored.typed?.[name]) return [name, stored.typed[name] ?? ""];
    if (Array.isArray(value)) return [name, value.map(inWords).join(answer === "many" ? "," : ", ")];
    return [name, stored.typed?.[name] ?? `${plain(value)} ${unit}`.trim()];
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
export const asNumber = (text: string) => (Number.isFinite(Number(text)) ? Number(text) : text) as number;

/** What to send for the texts of a form; what is empty is left to the server's usual value, or is cleared. */
export function asSpec(kind: string, fields: FormField[], values: Values): Record<string, unknown> {
  const sent = fields.flatMap(({ name, answer, optional }): [string, unknown][] => {
    const text = (values[name] ?? "").trim();
    if (answer === "flag") return [[name, text !== "false"]];
    if (answer === "many") return [[name, text ? text.split(",") : optional ? null : []]];
    if (text === "") return optional ? [[name, null]] : [];
    return [[name, answer === "number" ? asNumber(text) : text]];
  });
  return { kind, ...Object.fromEntries(sent) };
}
