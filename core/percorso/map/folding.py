"""A vehicle with some of its circuits folded away, so that the rest of a large map is seen by itself."""

from collections.abc import Collection
from dataclasses import replace

from percorso.vehicle.devices import Alternator, Battery
from percorso.vehicle.model import Device, Segment, Vehicle


def folded(vehicle: Vehicle, circuits: Collection[str], *, alone: bool = False) -> Vehicle:
    """The vehicle without what only some of its circuits pass or feed, by their ids; batteries always stay.

    ``alone``: nor with what no circuit passes or feeds. It is for looking at, not for computing.
    """
    if not circuits and not alone:
        return vehicle
    gone = frozenset(circuits)
    segments = {each.id: each for each in vehicle.segments.values() if _stays(vehicle, each, gone, alone)}
    touched = {point for each in segments.values() for point in (each.from_point, each.to_point)}
    fed: dict[str, set[str]] = {}
    for circuit in vehicle.circuits.values():
        fed.setdefault(circuit.device_id or "", set()).add(circuit.id)
    devices = {
        each.id: each
        for each in vehicle.devices.values()
        if isinstance(each.spec, Battery) or _stays_wired(each, touched, fed.get(each.id, set()), gone, alone)
    }
    points = touched.union(*(each.terminals.values() for each in devices.values()))
    return replace(
        vehicle,
        points={each: point for each, point in vehicle.points.items() if each in points},
        segments=segments,
        devices=devices,
        circuits={each: circuit for each, circuit in vehicle.circuits.items() if each not in gone},
    )


def _stays(vehicle: Vehicle, segment: Segment, gone: Collection[str], alone: bool) -> bool:
    over = {each.id for each in vehicle.passed.get(segment.id, ())}
    return not over.issubset(gone) if over else not alone


def _stays_wired(device: Device, touched: Collection[str], fed: set[str], gone: Collection[str], alone: bool) -> bool:
    """Whether a device has something to do with what stays: a circuit of its own, or without one a wired terminal."""
    if fed:
        return not fed.issubset(gone)
    is_wired = any(each in touched for each in device.terminals.values())
    return is_wired and (isinstance(device.spec, Alternator) or not alone)
