/** How figures are written: fixed decimals so that columns align, the unit apart. */
import type { Schemas } from "../api/client";

/** With a true minus, and none before nothing. */
const signed = (text: string) => (Number(text) === 0 ? text.replace("-", "") : text.replace("-", "−"));
export const volts = (value: number, decimals = 2) => signed(value.toFixed(decimals));
export const millivolts = (value: number) => signed(Math.round(value * 1000).toString());

/** A voltage as volts from one volt on, else as millivolts. */
export const voltage = (value: number) =>
  Math.abs(value) < 0.9995 ? `${millivolts(value)} mV` : `${volts(value)} V`;

export const amps = (value: number) =>
  `${signed(value.toFixed(Math.abs(value) >= 100 ? 0 : Math.abs(value) < 1 ? 2 : 1))} A`;
export const milliohms = (ohm: number) => `${(ohm * 1000).toPrecision(3)} mΩ`;
export const watts = (value: number) =>
  value < 1 ? `${Math.round(value * 1000)} mW` : `${value.toFixed(1)} W`;
export const celsius = (value: number) => `${signed(value.toFixed(0))} °C`;
export const grams = (kilogram: number) =>
  `${kilogram >= 0 ? "+" : "−"}${Math.abs(kilogram * 1000).toFixed(0)} g`;
export const percent = (share: number) => `${Math.round(share * 100)} %`;
export const sizeName = (name: string) => name.replace("mm2", "mm²");

/** What a circuit loses as found and as planned, where the two look different at all. */
export function changedDrops({ found_drop_v, planned_drop_v }: Schemas["Difference"]) {
  if (found_drop_v === null || planned_drop_v === null) return null;
  const [found, planned] = [volts(found_drop_v), volts(planned_drop_v)];
  return found === planned ? null : { found, planned };
}

export function shortDate(iso: string): string {
  return new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short" });
}

export function clock(date: Date): string {
  return date.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
}

/** Never all and never nothing: nobody is that sure. */
export const outOfHundred = (share: number) =>
  share > 0.99 ? ">99" : share < 0.01 ? "<1" : Math.round(100 * share);
