/** A point by name: an existing one from the list, or a new one. */
import { Autocomplete, type AutocompleteProps } from "@mantine/core";
import type { Schemas } from "../api/client";

export function PointInput({ points, ...rest }: AutocompleteProps & { points: Schemas["PointOut"][] }) {
  return <Autocomplete {...rest} data={points.map((point) => point.name)} limit={8} maxLength={80} />;
}
