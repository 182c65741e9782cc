"""Which sizes the parts are made for that the ends of a wire go into."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cache

from percorso import tables
from percorso.components.conductors import ConductorSize, find_size
from percorso.components.fuses import fuse_ratings_a
from percorso.vehicle.devices import Alternator, Battery, Starter
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.segments import (
    Body,
    Breaker,
    Connector,
    End,
    Fuse,
    Joint,
    RelayContact,
    SegmentSpec,
    SensorSwitch,
    Switch,
    Wire,
)

BLADES_UP_TO_A = 40.0  # heavier switches and breakers have studs, common practice


@dataclass(frozen=True)
class Terminal:
    """A terminal as it is bought, and the conductors it is made for, by the area their gauge or size names."""

    name: str
    thinnest_mm2: float
    thickest_mm2: float
    says: str

    def takes(self, size: ConductorSize) -> bool:
        """Whether it is made for a size."""
        area = find_size(size.name).area_mm2
        return self.thinnest_mm2 * (1 - 1e-9) <= area <= self.thickest_mm2 * (1 + 1e-9)


@cache
def terminals() -> Mapping[str, Terminal]:
    """Terminals by name, thinnest first among their like; the source stands in each row of the table."""
    rows = tables.rows("terminals")
    return {
        row["name"]: Terminal(row["name"], float(row["thinnest_mm2"]), float(row["thickest_mm2"]), row["says"])
        for row in rows
    }


WireEndChange = Mapping[str, str | float | None]


@dataclass(frozen=True)
class WireEnd:
    """What the end of a wire goes into: the terminal of a part, and what would have to change for a thicker wire.

    ``part_id`` is the segment to change, ``change`` what to write into its spec; empty where nothing else is made.
    """

    what: str
    terminal: Terminal
    part_id: str = ""
    change: WireEndChange = field(default_factory=dict, hash=False)
    heavier: str = ""

    def refuses(self, size: ConductorSize) -> str:
        """Why a size is too thick to go in; empty where it is not."""
        thick = find_size(size.name).area_mm2 > self.terminal.thickest_mm2 * (1 + 1e-9)
        return f"{self.what} takes {self.terminal.says}" if thick else ""


def wire_ends(vehicle: Vehicle, segment: Segment, wire: Wire) -> tuple[WireEnd, ...]:
    """What limits the size of a wire at its two ends. A stud takes a ring of any size, so it limits nothing."""
    ends = ((segment.from_point, wire.from_end, "from_end"), (segment.to_point, wire.to_end, "to_end"))
    return tuple(each for point, said, name in ends for each in _ends_at(vehicle, segment, point, said, name))


def _ends_at(vehicle: Vehicle, segment: Segment, point: str, said: End | None, name: str) -> Iterator[WireEnd]:
    if said in ("blade 6.3 mm", "connector terminal"):
        what = f"the {said} of {segment.designation}"
        yield WireEnd(what, terminals()[said], segment.id, {name: "ring"}, f"{segment.designation} on a ring")
    if said is None and not on_stud(vehicle, segment, point):
        for other in met_there(vehicle, segment, point):
            yield from _part_end(other)


def _part_end(part: Segment) -> Iterator[WireEnd]:
    """What a part is made for; nothing where it has studs or where nothing is known."""
    blade = terminals()["blade 6.3 mm"]
    name = part.designation
    match part.spec:
        case RelayContact() as spec if spec.seat != "studs":
            base = blade if spec.seat == "6.3 mm blades" else terminals()["blade 9.5 mm"]
            yield WireEnd(f"the base of {name}", base, part.id, {"base": "studs"}, f"{name} as a relay with studs")
        case Fuse(family="blade") as spec:
            rating = next(each for each in fuse_ratings_a("bolt-down") if each >= spec.rating_a)
            change: WireEndChange = {"family": "bolt-down", "rating_a": rating}
            yield WireEnd(f"the holder of {name}", blade, part.id, change, f"{name} as a {rating:g} A bolt-down fuse")
        case Connector():
            change = {"kind": "joint", "condition": "ring on clean stud"}
            yield WireEnd(f"the connector {name}", blade, part.id, change, f"{name} as rings on a stud")
        case Switch(rated_a=rated) | SensorSwitch(rated_a=rated) if (rated or 0.0) <= BLADES_UP_TO_A:
            yield WireEnd(f"the contact {name}", blade)
        case Breaker(rating_a=rating) if rating <= BLADES_UP_TO_A:
            yield WireEnd(f"the breaker {name}", blade)


def met_there(vehicle: Vehicle, segment: Segment, point: str) -> list[Segment]:
    """The other segments that end on a point."""
    return [each for each in vehicle.meeting.get(point, ()) if each.id != segment.id]


def on_stud(vehicle: Vehicle, segment: Segment, point: str) -> bool:
    """Whether a wire is fastened to a stud there: a post, a lug, a bolted fuse, or a bus that feeds several fuses."""
    met = [each.spec for each in met_there(vehicle, segment, point)]
    devices = vehicle.wired.get(point, ())
    posts = any(
        isinstance(each.spec, Battery)
        or (isinstance(each.spec, Starter) and point != each.terminals.get("50"))
        or (isinstance(each.spec, Alternator) and point in (each.terminals["B+"], each.terminals["B-"]))
        for each in devices
    )
    return posts or any(map(_has_studs, met)) or sum(isinstance(each, Fuse) for each in met) > 1


def _has_studs(spec: SegmentSpec) -> bool:
    if isinstance(spec, RelayContact):
        return spec.seat == "studs"
    return isinstance(spec, Joint | Body) or (isinstance(spec, Fuse) and spec.family != "blade")
