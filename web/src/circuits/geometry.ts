/** Where the stations of a route stand on the screen; strip and profile share it, so that they align. */
import type { CircuitView, Leg, Segment } from "../api/queries";

export const GATE = 76;
export const MARGIN = 36;
const LEAST_RIGHT = 52;
const LEANS = 5.6; // how far a letter of a station's name leads to the right, px
const LONGEST_NAME = 24; // letters of a station's name that are shown at most
const NARROWEST = 48;
const WIDEST = 220;

export type Piece = { leg: Leg; segment: Segment; from: number; to: number };
export type Stop = { id: string; name: string; x: number; side: "supply" | "return" };
export type Geometry = {
  width: number;
  right: number;
  pieces: Piece[];
  stops: Stop[];
  gateX: number;
  step: number;
};

/** Where pieces stand, of which the first `supply` lead to the device; the last station's name leans to the right. */
export function spread(count: number, supply: number, available: number, lastName: string) {
  const margins = MARGIN + Math.max(LEAST_RIGHT, 14 + Math.min(lastName.length, LONGEST_NAME) * LEANS) + GATE;
  const step = Math.min(Math.max((available - margins) / Math.max(count, 1), NARROWEST), WIDEST);
  return {
    step,
    width: margins + count * step,
    gateX: MARGIN + supply * step,
    x: (index: number) => MARGIN + index * step + (index >= supply ? GATE : 0),
  };
}

export function layOut(view: CircuitView, available: number): Geometry {
  const { legs } = view.profile;
  const last = view.return_stations.at(-1) ?? view.supply_stations.at(-1);
  const lastName = view.points.find((point) => point.id === last)?.name ?? "";
  const supply = legs.filter((leg) => leg.side === "supply").length;
  const { step, width, gateX, x } = spread(legs.length, supply, available, lastName);
  const segments = new Map(view.segments.map((segment) => [segment.id, segment]));
  const names = new Map(view.points.map((point) => [point.id, point.name]));
  const stop = (id: string, at: number, side: Stop["side"]): Stop => {
    const name = names.get(id) ?? "";
    // The device's own terminals stand beside its name: only their sign is worth the space.
    const short = name.replace(`${view.circuit.device} `, "");
    return { id, name: short || name, x: at, side };
  };
  return {
    width,
    right: MARGIN + GATE + legs.length * step,
    gateX,
    step,
    pieces: legs.flatMap((leg, index) => {
      const segment = segments.get(leg.segment_id);
      return segment ? [{ leg, segment, from: x(index), to: x(index) + step }] : [];
    }),
    stops: [
      ...view.supply_stations.map((id, index) => stop(id, MARGIN + index * step, "supply")),
      ...view.return_stations.map((id, index) => stop(id, gateX + GATE + index * step, "return")),
    ],
  };
}
