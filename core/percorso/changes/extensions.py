"""How a route could lead on over segments that are there already: from its source backwards, or on from its return."""

from dataclasses import dataclass

from percorso.changes.edits import RouteCircuit
from percorso.vehicle.model import SIDES, Circuit, Segment, Vehicle, stations


@dataclass(frozen=True)
class Extension:
    """One segment more on a route, said in a few words, and the edit that leads the route over it."""

    segment_id: str
    says: str
    edit: RouteCircuit


def extensions(vehicle: Vehicle, circuit: Circuit) -> list[Extension]:
    """Every segment that touches one end of a route and leads to where it does not pass yet."""
    passed = {point for side in SIDES for point in stations(vehicle, circuit, side)}
    end = stations(vehicle, circuit, "return")[-1]
    found = []
    for segment in vehicle.segments.values():
        if segment.id in circuit.whole_path:
            continue
        if (source := _beyond(segment, circuit.source_point, passed)) is not None:
            edit = _route(circuit, source_point=source, supply=(segment.id, *circuit.supply))
            found.append(Extension(segment.id, f"starts at {vehicle.points[source].name}", edit))
        if (ground := _beyond(segment, end, passed)) is not None:
            edit = _route(circuit, return_path=(*circuit.return_path, segment.id))
            found.append(Extension(segment.id, f"returns to {vehicle.points[ground].name}", edit))
    return found


def _beyond(segment: Segment, end: str | None, passed: set[str]) -> str | None:
    """Where a segment leads from an end of the route; None where it does not touch it, or leads back to the route."""
    far = segment.other_end(end) if end is not None else None
    return None if far in passed else far


def _route(circuit: Circuit, **other: object) -> RouteCircuit:
    path = {
        "source_point": circuit.source_point,
        "supply": circuit.supply,
        "return_point": circuit.return_point,
        "return_path": circuit.return_path,
    }
    return RouteCircuit.model_validate({"circuit_id": circuit.id, **path, **other})
