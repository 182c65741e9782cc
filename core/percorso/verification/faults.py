"""Faults of the metal as data: what can be bad at a part, as a change of the network."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, TypeAdapter

from percorso.errors import FaultError, UnknownNameError
from percorso.network.branches import reference_point
from percorso.vehicle.ids import free_id
from percorso.vehicle.model import Point, Segment, Vehicle
from percorso.vehicle.resistance import IDEAL_OHM
from percorso.vehicle.segments import Body, Resistor, Wire
from percorso.verification.naming import segment_called

THIN_PLACE_OHM = 0.3  # a wire that hangs by some of its strands, where nobody says how much, from memory


class Fault(BaseModel):
    """One way a segment is bad. ``ohm`` is what a thin place adds, or what is left between a chafed wire and ground."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    part: str
    fault: Literal["thin place", "resistance", "open", "terminal pushed out", "chafed to ground"]
    ohm: Annotated[float, Field(ge=0, le=1e9)] | None = None


def _listed(value: Any) -> Any:
    return value if isinstance(value, list) else [value]


FAULTS: TypeAdapter[list[Fault]] = TypeAdapter(Annotated[list[Fault], BeforeValidator(_listed)])


def with_faults(vehicle: Vehicle, faults: Iterable[Fault]) -> Vehicle:
    """The vehicle with faults in it. Raises FaultError, whose ``field`` names the fault's place in the list."""
    for place, each in enumerate(faults):
        try:
            vehicle = _with(vehicle, segment_called(vehicle, each.part), each)
        except UnknownNameError as error:
            raise FaultError(str(error), field=(place, "part")) from error
    return vehicle


def _with(vehicle: Vehicle, segment: Segment, fault: Fault) -> Vehicle:
    match fault.fault:
        case "thin place" | "resistance":
            added = THIN_PLACE_OHM if fault.ohm is None else fault.ohm
            vehicle, between = _cut(vehicle, segment, whole=True)
            return _resistor(vehicle, between, segment.to_point, added)
        case "chafed to ground":
            vehicle, between = _cut(vehicle, segment, whole=False)
            return _resistor(vehicle, between, body_point(vehicle), fault.ohm or 0.0)
        case _:
            return replace(vehicle, opened=vehicle.opened | {segment.id})


def body_point(vehicle: Vehicle) -> str:
    """The point of the vehicle's metal that most of it meets, else the battery's minus."""
    metal = [each for each, spec in vehicle.segments_of(Body) if spec.condition == "seam path"]
    meeting = Counter(point for each in metal for point in (each.from_point, each.to_point))
    found = max(meeting, key=lambda point: len(vehicle.meeting[point]), default=None)
    return reference_point(vehicle) if found is None else found


def _cut(vehicle: Vehicle, segment: Segment, *, whole: bool) -> tuple[Vehicle, str]:
    """A point inside a segment: behind the ``whole`` of it, or in the middle of a wire."""
    between = free_id("inside", vehicle.points)
    points = {**vehicle.points, between: Point(between, f"inside {segment.designation}")}
    first = replace(segment, to_point=between)
    segments = {**vehicle.segments, segment.id: first}
    if not whole and isinstance(segment.spec, Wire):
        half = segment.spec.model_copy(update={"length_m": segment.spec.length_m / 2})
        rest = free_id("rest", segments)
        segments[segment.id] = replace(first, spec=half)
        segments[rest] = replace(segment, id=rest, from_point=between, spec=half)
    elif not whole:
        rest = free_id("rest", segments)
        ideal = Resistor(resistance_ohm=IDEAL_OHM)
        segments[rest] = replace(segment, id=rest, from_point=between, spec=ideal)
    return replace(vehicle, points=points, segments=segments), between


def _resistor(vehicle: Vehicle, start: str, end: str, ohm: float) -> Vehicle:
    added = free_id("fault", vehicle.segments)
    spec = Resistor(resistance_ohm=max(ohm, IDEAL_OHM))
    segments = {**vehicle.segments, added: Segment(added, added, start, end, spec)}
    return replace(vehicle, segments=segments)
