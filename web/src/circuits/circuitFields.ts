/** The fields of a circuit, and what is usual in them. */
import type { Schemas } from "../api/client";
import type { Board, CircuitView } from "../api/queries";
import { plain } from "../parts/specFields";

export const FIELDS = [
  "name",
  "device",
  "device_id",
  "design_current_a",
  "source_v",
  "target_value",
  "source",
  "ground",
];

export const LENGTHS = ["supply_length_m", "return_length_m"];

/** What a circuit is for and must meet, new or changed. */
export const WHAT_FOR = [
  "name",
  "family",
  "device",
  "design_current_a",
  "source_v",
  "state",
  "target_kind",
  "target_value",
] as const;

export type WhatFor = Pick<Schemas["ChangeCircuit"], (typeof WHAT_FOR)[number]>;

/** What a circuit usually starts with by the house's rules, as text in the fields. */
export function usual(board: Board, family: string, deviceKind: string) {
  const ofFamily = board.defaults.filter((each) => each.family === family);
  const found =
    ofFamily.find(({ load_kinds }) => load_kinds.includes(deviceKind)) ??
    ofFamily.find(({ load_kinds }) => load_kinds.length === 0);
  const unit = found?.target_kind === "max_drop_percent" ? "%" : "V";
  return {
    family,
    target_kind: found?.target_kind ?? "",
    target_value: found ? `${found.target_value} ${unit}` : "",
    source_v: found ? `${Number(found.source_v.toFixed(2))} V` : "",
    state: found?.state ?? "",
  };
}

export function present(view: CircuitView) {
  const { circuit } = view;
  const unit = circuit.target_kind === "max_drop_percent" ? "%" : "V";
  return {
    family: circuit.family,
    target_kind: circuit.target_kind,
    target_value: circuit.typed.target_value ?? `${plain(circuit.target_value)} ${unit}`,
    source_v: circuit.typed.source_v ?? `${plain(circuit.source_v)} V`,
    state: circuit.state,
    name: circuit.name,
    device: circuit.device,
    device_id: circuit.device_id ?? "",
    design_current_a: circuit.typed.design_current_a ?? `${plain(circuit.design_current_a)} A`,
  };
}
