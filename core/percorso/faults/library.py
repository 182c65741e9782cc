"""Everything that can be bad at the parts of a vehicle, and how often that is met there beside everything else."""

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from itertools import combinations, pairwise
from typing import Literal

from percorso import tables
from percorso.faults.beyond import BeyondFault, points_beyond
from percorso.faults.model import Fault
from percorso.vehicle.devices import Alternator
from percorso.vehicle.loads import IndicatorLamp, Load
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.naming import named, segment_called
from percorso.vehicle.segments import RelayContact, Wire, Zone

Measure = Literal["ohm", "times"]
# How bad a fault can be, by what the table calls it: in Ω, or as times what it should be; each as likely as the others.
SEVERITIES: Mapping[str, tuple[Measure, tuple[float, ...]]] = {
    "": ("ohm", ()),
    "series": ("ohm", tuple(10 ** (each / 2) for each in range(-4, 11))),  # 10 mΩ to 100 kΩ
    "short": ("ohm", (0.01, 0.03, 0.1, 0.3, 1.0, 10.0, 100.0, 1000.0)),
    "hard short": ("ohm", (0.01, 0.1, 1.0)),  # beyond it makes no difference where along a wire it is
    "short inside": ("ohm", (0.02, 0.06, 0.2, 0.6)),
    "contacts": ("ohm", (0.005, 0.015, 0.05, 0.15, 0.5)),
    "more": ("times", (1.3, 1.7, 2.3, 3.0)),
    "less": ("times", (0.3, 0.45, 0.6, 0.75)),
    "resistance": ("times", (1.5, 2.5, 4.0, 6.5, 10.0)),
    "charge": ("times", (0.01, 0.05, 0.1, 0.2, 0.35, 0.5)),
    "output": ("times", (0.01, 0.1, 0.25, 0.45, 0.65, 0.85)),
    "setpoint": ("times", (0.76, 0.84, 0.92, 1.08, 1.16, 1.24)),
    "drag": ("times", (1.3, 1.7, 2.2, 3.0, 4.0)),
    "pull-in": ("times", (0.7, 0.8, 0.9, 1.05)),
}
OUTSIDE = ""  # the unit of what is no part
BEYOND_SHARE = 0.05  # of all faults: something that draws or feeds and is not described, from memory
BEYOND_OHM: Mapping[BeyondFault, tuple[float, ...]] = {
    "something else draws": (0.01, 0.1, 0.5, 2.0, 10.0, 100.0),
    "something else draws to the battery": (0.01, 0.1, 0.5, 2.0, 10.0, 100.0),
    "something else feeds": (0.01, 0.1, 1.0),
    "something else joins": (0.01, 0.1, 1.0),
}
OLD = ("tired", "corroded", "loose", "old", "rusty", "worn")
ZONES: dict[Zone, str] = {"engine bay": "hot", "near exhaust": "very hot", "outside": "wet"}


@dataclass(frozen=True)
class FaultMode:
    """One fault mode of a part. ``severities`` say how bad it can be, by ``measure``; none where it is bad or not.

    ``unit`` is what is opened and renewed as one with the part: of a relay's contact its relay. ``weight`` is how often
    it is met beside others; ``because`` says what makes it more. ``comes_and_goes``: it is not there at all times, and
    so mostly not while one measures.
    """

    part: str
    fault: str
    unit: str
    weight: float
    severities: tuple[float, ...] = ()
    measure: Measure = "ohm"
    other: str | None = None
    because: tuple[str, ...] = ()
    comes_and_goes: bool = False

    def at(self, severity: float | None) -> Fault:
        """The fault as bad as that."""
        told = {"part": self.part, "fault": self.fault, "other": self.other}
        return Fault.model_validate(told | {self.measure: severity})

    @property
    def faults(self) -> tuple[Fault, ...]:
        """The fault as bad as it can be, each."""
        return tuple(self.at(each) for each in self.severities or (None,))


def library(vehicle: Vehicle, suspected: Collection[str] = ()) -> tuple[FaultMode, ...]:
    """Every fault mode of the parts of a vehicle at a stage; ``suspected`` are ids of parts that somebody suspects."""
    found: list[FaultMode] = []
    for segment in vehicle.segments.values():
        if segment.id not in vehicle.opened:
            found += _of_part(segment, _reasons(vehicle, segment, suspected), vehicle)
    for device in vehicle.devices.values():
        reasons = _new(device) + (("suspected",) if device.id in suspected else ())
        found += _of_part(device, reasons, vehicle)
    return tuple(found)


def beyond(vehicle: Vehicle, whole: float) -> tuple[FaultMode, ...]:
    """What else may be at each point and is not described, beside a library of so much weight."""
    found = list(points_beyond(vehicle))
    return tuple(
        FaultMode(part, fault, OUTSIDE, BEYOND_SHARE * whole / len(found), BEYOND_OHM[fault], other=other)
        for part, fault, other in found
    )


def kind_of(part: Segment | Device) -> str:
    """The kind by which the tables of faults know a part: all loads but tell-tales are one."""
    if isinstance(part.spec, Load) and not isinstance(part.spec, IndicatorLamp):
        return "load"
    return part.spec.kind


def _of_part(part: Segment | Device, because: tuple[str, ...], vehicle: Vehicle) -> Iterator[FaultMode]:
    for fault, weight, how_bad in _weights().get(kind_of(part), ()):
        more = weight
        for each in because:
            more *= times(each)
        measure, severities = SEVERITIES[how_bad]
        others = _others(fault, part, vehicle)
        for other in others:
            yield FaultMode(part.id, fault, unit_of(part), more / len(others), severities, measure, other, because)


def unit_of(part: Segment | Device) -> str:
    """What a part is opened and renewed with, by its id: a relay's contact with its coil, any other by itself."""
    spec = part.spec
    return spec.coil if isinstance(spec, RelayContact) and spec.coil else part.id


def unit_called(vehicle: Vehicle, name: str) -> str:
    """The unit of the part that goes by an id or a designation. Raises UnknownNameError."""
    devices = named(vehicle.devices.values(), name)
    return unit_of(devices[0] if devices else segment_called(vehicle, name))


def _others(fault: str, part: Segment | Device, vehicle: Vehicle) -> list[str | None]:
    """What else a fault is of: the wires that a wire can touch, the post where a sense lead can land, the next way of a
    plug, two leads of a device; none: it is not met.
    """
    if fault == "touching its neighbour" and isinstance(part, Segment):
        return [each.id for each in _neighbours(part, vehicle)]
    if fault == "lands on the wrong post" and isinstance(part, Segment):
        alternators = [each.terminals for each, _ in vehicle.devices_of(Alternator)]
        ends = part.from_point, part.to_point
        return [each["B+"] for each in alternators if each.get("S") in ends and each["B+"] not in ends]
    if fault == "ways swapped":
        plug = next((ways for ways in vehicle.plugs.values() if part in ways), ())
        return [after.id for way, after in pairwise(plug) if way == part]
    if fault == "two leads swapped" and isinstance(part, Device):
        thin = [each for each in part.terminals if each in Alternator.OPTIONAL_TERMINALS]
        return [" ".join(each) for each in combinations(thin, 2)]
    return [None]


def _neighbours(segment: Segment, vehicle: Vehicle) -> list[Segment]:
    """The wires after it that lie in one loom with it: in the same zone, both in a bundle."""
    wires = [(each, spec) for each, spec in vehicle.segments_of(Wire) if spec.bundle > 1]
    own = next((spec for each, spec in wires if each.id == segment.id), None)
    if own is None:
        return []
    after = wires[[each.id for each, _ in wires].index(segment.id) + 1 :]
    return [each for each, spec in after if spec.zone == own.zone]


def _reasons(vehicle: Vehicle, segment: Segment, suspected: Collection[str]) -> tuple[str, ...]:
    """What makes a segment go bad more often: its own place, or that of the wires it joins."""
    around = [segment] if isinstance(segment.spec, Wire) else _joined_wires(vehicle, segment)
    wires = [each.spec for each in around if isinstance(each.spec, Wire)]
    zones = {ZONES[each.zone] for each in wires if each.zone in ZONES}
    where: list[str] = [*[each for each in ("very hot", "hot", "wet") if each in zones][:1]]
    if any(each.moves for each in wires):
        where.append("moves")
    condition = getattr(segment.spec, "condition", None) or ""
    if any(each in condition for each in OLD):
        where.append("old")
    where += _new(segment)
    if segment.id in suspected:
        where.append("suspected")
    return tuple(where)


def _joined_wires(vehicle: Vehicle, segment: Segment) -> list[Segment]:
    return [each for point in (segment.from_point, segment.to_point) for each in vehicle.meeting.get(point, ())]


def _new(part: Segment | Device) -> tuple[str, ...]:
    return ("worked on",) if part.origin == "new" else ()


@cache
def times(reason: str) -> float:
    """How much more often a part is bad for a reason; the table names the source."""
    return next(float(row["times"]) for row in tables.rows("fault_modifiers") if row["where"] == reason)


@cache
def _weights() -> dict[str, list[tuple[str, float, str]]]:
    """By kind of part: each fault with its weight and how bad it can be."""
    found: dict[str, list[tuple[str, float, str]]] = {}
    for row in tables.rows("fault_weights"):
        found.setdefault(row["of"], []).append((row["fault"], float(row["weight"]), row["how_bad"]))
    return found
