"""What can be done to the metal along a circuit for a test, as one would say it."""

from collections.abc import Iterator
from dataclasses import dataclass

from percorso.network.branches import reference_point
from percorso.vehicle.model import Circuit, Segment, Vehicle
from percorso.vehicle.segments import GUARDS, Connector, RelayContact
from percorso.verification.bench.prepared_vehicle import LAMPED, LIFTED, PULLED, UNPLUGGED
from percorso.verification.measured.preparations import (
    BatteryOff,
    Bridge,
    LampInPlace,
    Lift,
    LoadPoint,
    Preparation,
    Pull,
    Swap,
    Unplug,
    written,
)


@dataclass(frozen=True)
class Offer:
    """One thing that can be done: as text that is read back, and as it is said; ``segment_id`` is what it is about."""

    segment_id: str | None
    text: str
    says: str


def offers(vehicle: Vehicle, circuit: Circuit) -> tuple[Offer, ...]:
    """What can be done along a circuit of a vehicle at a stage, segment by segment, then to its device."""
    found = [offer for each in circuit.whole_path for offer in _at_segment(vehicle, vehicle.segments[each])]
    device = vehicle.devices.get(circuit.device_id or "")
    if device is not None:
        found.append(_offer(None, Unplug(part=device.id), f"unplug {device.designation} {device.name}"))
    return (*found, _offer(None, BatteryOff(), "battery off"))


def _offer(segment_id: str | None, preparation: Preparation, says: str) -> Offer:
    return Offer(segment_id, written(preparation), says)


def _at_segment(vehicle: Vehicle, segment: Segment) -> Iterator[Offer]:
    spec, name = segment.spec, segment.designation
    plug = spec.plug if isinstance(spec, Connector) else None
    if plug is not None:
        yield _offer(segment.id, Unplug(part=plug), f"unplug {plug}, all its ways")
    ways: tuple[tuple[tuple[type, ...], Preparation, str], ...] = (
        (PULLED, Pull(part=segment.id), f"pull {name}"),
        (UNPLUGGED, Unplug(part=segment.id), f"unplug {name}" if plug is None else f"push {name} out of its plug"),
        (LIFTED, Lift(part=segment.id), f"lift {name}"),
        ((RelayContact,), Swap(part=segment.id), f"swap {name} with a good one"),
        (LAMPED, LampInPlace(part=segment.id), f"lamp in place of {name}"),
    )
    for kinds, preparation, says in ways:
        if isinstance(spec, kinds):
            yield _offer(segment.id, preparation, says)
    start, end = (vehicle.points[each] for each in (segment.from_point, segment.to_point))
    if start.id != end.id and not isinstance(spec, GUARDS):
        yield _offer(segment.id, Bridge(from_point=start.id, to_point=end.id), f"jumper across {name}")
    for point in (start, end):
        if point.id != reference_point(vehicle):
            yield _offer(segment.id, LoadPoint(point=point.id), f"lamp as a load at {point.name}")
