"""The model of one vehicle on one job: points, segments, devices, circuits and what each circuit must meet."""

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Literal, TypeVar, get_args

from percorso.components.batteries import WARM_C
from percorso.components.conductors import warmed
from percorso.errors import PathError
from percorso.house_rules import Copper
from percorso.kept import cached_property
from percorso.targets import Family, Target
from percorso.vehicle.access import ACCESSES, Access, usual_access
from percorso.vehicle.devices import DeviceKind
from percorso.vehicle.resistance import IDEAL_OHM, ohms
from percorso.vehicle.scenarios import Drive, Scenario
from percorso.vehicle.segments import ZONE_TEMPERATURE_C, Connector, FusibleLink, SegmentSpec, Wire, Zone, is_switched
from percorso.vehicle.states import Input, State

Side = Literal["supply", "return"]
SIDES: tuple[Side, ...] = get_args(Side)
PATH_FIELD: Mapping[Side, str] = {"supply": "supply", "return": "return_path"}  # where a side's segments are listed
Origin = Literal["existing", "new"]
Fate = Literal["kept", "removed", "stowed"]
Known = Literal["assumed", "seen", "measured"]
KNOWN: tuple[Known, ...] = get_args(Known)
Stage = Literal["found", "planned"]
STAGES: tuple[Stage, ...] = get_args(Stage)


@dataclass(frozen=True)
class Point:
    """A named place where conductors meet and a probe can touch; ``access`` is as said, None as is usual."""

    id: str
    name: str
    access: Access | None = None


@dataclass(frozen=True)
class Part:
    """What can be there before the work, after it, or both: *existing* or *new*, and what becomes of it.

    ``access`` is how one gets at it where somebody said so, None as is usual for its kind. ``known``: *assumed* is what
    is usual, *seen* what somebody looked at, *measured* what was read with an instrument.
    """

    origin: Origin = field(default="existing", kw_only=True)
    fate: Fate = field(default="kept", kw_only=True)
    access: Access | None = field(default=None, kw_only=True)
    known: Known = field(default="seen", kw_only=True)


@dataclass(frozen=True)
class Segment(Part):
    """One piece of a path between two points; it carries current either way."""

    id: str
    designation: str
    from_point: str
    to_point: str
    spec: SegmentSpec

    def other_end(self, point: str) -> str | None:
        """The point at the far end seen from ``point``, None when the segment does not touch it."""
        if point == self.from_point:
            return self.to_point
        return self.from_point if point == self.to_point else None

    @cached_property
    def ohms(self) -> tuple[float, float]:
        """While it conducts, Ω: its copper at 20 °C, and what heat does not change."""
        return ohms(self.spec)

    def conductance_s(self, zone_temperature_c: Mapping[Zone, float]) -> float:
        """Conductance while it conducts, S; one of no resistance is taken as a millionth of an ohm."""
        copper, rest = self.ohms
        if copper and isinstance(self.spec, Wire | FusibleLink):
            rest += copper * warmed(zone_temperature_c[self.spec.zone])
        return 1 / max(rest, IDEAL_OHM)


@dataclass(frozen=True)
class Device(Part):
    """What makes or uses power; ``terminals`` are point ids by the terminal's own mark, open ones left out.

    A source, a starter or a load without any terminal is known and not wired yet: it counts in the load budget alone.
    """

    id: str
    designation: str
    name: str
    terminals: Mapping[str, str]
    spec: DeviceKind


_Part = TypeVar("_Part", Segment, Device)
_Spec = TypeVar("_Spec")
_Thing = TypeVar("_Thing")


@dataclass(frozen=True)
class Circuit:
    """A purpose with a path: out from ``source_point`` to the device, back from ``return_point``.

    ``supply`` and ``return_path`` are segment ids in the order the current takes them. A ground circuit has no supply
    side: the device stands at its beginning. ``device_id`` is the device it feeds or drains, where the job has one.
    ``typed`` keeps, by field, the text a person typed for a quantity.
    """

    id: str
    name: str
    family: Family
    device: str
    design_current_a: float
    source_v: float
    target: Target
    source_point: str | None
    supply: tuple[str, ...]
    return_point: str
    return_path: tuple[str, ...]
    state: State = "idle"
    device_id: str | None = None
    typed: Mapping[str, str] = field(default_factory=dict)

    @property
    def whole_path(self) -> tuple[str, ...]:
        """Segment ids from its source out to the device and back."""
        return (*self.supply, *self.return_path)

    def path(self, side: Side) -> tuple[str, ...]:
        """Segment ids of one side, in order."""
        return self.supply if side == "supply" else self.return_path


def _by(those: Iterable[tuple[_Thing, Iterable[str]]]) -> dict[str, tuple[_Thing, ...]]:
    """Things by each id that they name, in their order."""
    found: dict[str, list[_Thing]] = {}
    for thing, ids in those:
        for each in dict.fromkeys(ids):
            found.setdefault(each, []).append(thing)
    return {each: tuple(things) for each, things in found.items()}


@dataclass(frozen=True)
class Vehicle:
    """Everything one job knows of its vehicle, keyed by id.

    ``opened`` are segments that a test holds open: they conduct in no state; ``welded`` are relay contacts that a fault
    holds closed. No plan and no file says so. How warm ``copper`` is taken is for the house to say, and
    ``outside_c`` is how cold its engine is when it is cranked.
    """

    nominal_v: float
    points: Mapping[str, Point]
    segments: Mapping[str, Segment]
    circuits: Mapping[str, Circuit] = field(default_factory=dict)
    zone_temperature_c: Mapping[Zone, float] = field(default_factory=lambda: ZONE_TEMPERATURE_C)
    devices: Mapping[str, Device] = field(default_factory=dict)
    inputs: Mapping[str, Input] = field(default_factory=dict)
    scenarios: Mapping[str, Scenario] = field(default_factory=dict)  # the job's own, besides the standard ones
    drives: Mapping[str, Drive] = field(default_factory=dict)
    opened: frozenset[str] = frozenset()
    welded: frozenset[str] = frozenset()
    copper: Copper = "zone temperature"
    outside_c: float = WARM_C

    @cached_property
    def walked(self) -> dict[tuple[str, tuple[str, ...]], tuple[str, ...]]:
        """The points along each path that was walked, by its start and its segments; ``stations`` keeps them here."""
        return {}

    @cached_property
    def meeting(self) -> Mapping[str, tuple[Segment, ...]]:
        """The segments that end on each point, by the point's id; points where none does are left out."""
        return _by((each, (each.from_point, each.to_point)) for each in self.segments.values())

    @cached_property
    def wired(self) -> Mapping[str, tuple[Device, ...]]:
        """The devices with a terminal on each point, by the point's id; points that have none are left out."""
        return _by((each, each.terminals.values()) for each in self.devices.values())

    @cached_property
    def passed(self) -> Mapping[str, tuple[Circuit, ...]]:
        """The circuits that pass each segment, by the segment's id; segments that none passes are left out."""
        return _by((each, each.whole_path) for each in self.circuits.values())

    def access_to_point(self, point_id: str) -> Access:
        """How one gets at a point: as said, or as easily as at the easiest of what ends there."""
        ways: list[Access] = [each.access or "open" for each in self.wired.get(point_id, ())]
        ways += map(self.access_to_segment, self.meeting.get(point_id, ()))
        easiest: Access = min(ways, key=ACCESSES.index, default="open")
        return self.points[point_id].access or easiest

    @staticmethod
    def access_to_segment(segment: "Segment") -> Access:
        """How one gets at a segment: as said, or as is usual for its kind."""
        return segment.access or usual_access(segment.spec)

    def segments_of(self, kind: type[_Spec]) -> Iterator[tuple[Segment, _Spec]]:
        """Segments of a kind, each with its values."""
        return ((each, each.spec) for each in self.segments.values() if isinstance(each.spec, kind))

    def devices_of(self, kind: type[_Spec]) -> Iterator[tuple[Device, _Spec]]:
        """Devices of a kind, each with its values."""
        return ((each, each.spec) for each in self.devices.values() if isinstance(each.spec, kind))

    @cached_property
    def plugs(self) -> Mapping[str, tuple[Segment, ...]]:
        """The ways of every plug, by its designation, in the order of their numbers."""
        found: dict[str, list[Segment]] = {}
        for each, spec in self.segments_of(Connector):
            if spec.plug is not None:
                found.setdefault(spec.plug, []).append(each)
        return {plug: tuple(in_order(ways)) for plug, ways in found.items()}

    @cached_property
    def unswitched(self) -> frozenset[str]:
        """Segments that conduct in every state."""
        return frozenset(each.id for each in self.segments.values() if not is_switched(each.spec)) - self.opened


def passing(vehicle: Vehicle, segment_id: str) -> list[Circuit]:
    """The circuits that pass a segment."""
    return list(vehicle.passed.get(segment_id, ()))


def stations(vehicle: Vehicle, circuit: Circuit, side: Side) -> tuple[str, ...]:
    """Point ids along one side of a circuit, one more than its segments; empty for an absent supply side.

    Raises PathError naming the segment (``("supply", 2)``) where the path breaks, loops or leaves the job.
    """
    start = circuit.source_point if side == "supply" else circuit.return_point
    path = circuit.path(side)
    if side == "supply" and circuit.family == "ground" and not path:
        return ()
    if start is None or start not in vehicle.points:
        name = "source_point" if side == "supply" else "return_point"
        raise PathError(f"{circuit.name}: the {side} side starts at a point this job does not have", field=(name,))
    if not path:
        raise PathError(
            f"{circuit.name} has no {side} side; current needs a supply and a return", field=(PATH_FIELD[side],)
        )
    known = vehicle.walked.get((start, path))
    return known or vehicle.walked.setdefault((start, path), _walk(vehicle, circuit, start, side))


def _walk(vehicle: Vehicle, circuit: Circuit, start: str, side: Side) -> tuple[str, ...]:
    visited = [start]
    for position, segment_id in enumerate(circuit.path(side)):
        visited.append(_next_station(vehicle, circuit, visited, segment_id, (PATH_FIELD[side], position)))
    return tuple(visited)


def _next_station(
    vehicle: Vehicle, circuit: Circuit, visited: list[str], segment_id: str, place: tuple[str | int, ...]
) -> str:
    segment = vehicle.segments.get(segment_id)
    if segment is None:
        raise PathError(f"{circuit.name} passes a segment this job does not have", field=place)
    following = segment.other_end(visited[-1])
    if following is None:
        here = vehicle.points[visited[-1]].name
        raise PathError(f"{circuit.name}: {segment.designation} does not start at {here}", field=place)
    if following not in vehicle.points:
        raise PathError(f"{segment.designation} ends on a point of another job", field=place)
    if following in visited:
        there = vehicle.points[following].name
        raise PathError(f"{circuit.name} makes a loop: {segment.designation} comes back to {there}", field=place)
    return following


def next_designation(vehicle: Vehicle, letter: str) -> str:
    """The lowest free designation of an item letter: ``W7``."""
    taken = {part.designation for parts in (vehicle.segments, vehicle.devices) for part in parts.values()}
    return next(name for number in range(1, len(taken) + 2) if (name := f"{letter}{number}") not in taken)


def in_order(parts: Iterable[_Part]) -> list[_Part]:
    """Segments or devices as a list is read: by letter, then by number."""
    return sorted(parts, key=lambda each: _letters_and_numbers(each.designation))


def _letters_and_numbers(designation: str) -> list[str | int]:
    """A designation in letters and numbers, letters first: ``W10`` as ``["W", 10, ""]``."""
    pieces = re.split(r"([0-9]+)", designation)
    return [int(piece) if place % 2 else piece for place, piece in enumerate(pieces)]


def default_state(family: Family) -> State:
    """The state in which a circuit is usually judged."""
    return "cranking" if family == "starting" else "idle"


def default_source_v(family: Family, nominal_v: float) -> float:
    """The voltage a circuit usually starts from, V: a charging system's 14 V, or 10.5 V while cranking a 12 V one.

    Common practice, scaled to the nominal voltage; a person who has measured types their own.
    """
    return nominal_v * (10.5 if family == "starting" else 14.0) / 12
