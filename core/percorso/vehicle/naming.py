"""Parts and points as a person calls them: by designation or id, by name or id."""

from collections.abc import Iterable
from typing import TypeVar

from percorso.errors import UnknownNameError
from percorso.vehicle.model import Device, Point, Segment, Vehicle
from percorso.vehicle.segments import describe

_Part = TypeVar("_Part", Segment, Device)


def named(parts: Iterable[_Part], text: str) -> list[_Part]:
    """Parts of that id or designation."""
    return [each for each in parts if text in (each.id, each.designation)]


def segment_called(vehicle: Vehicle, text: str) -> Segment:
    """The segment of that id or designation. Raises UnknownNameError."""
    return _only_one(named(vehicle.segments.values(), text), text)


def device_called(vehicle: Vehicle, text: str) -> Device:
    """The device of that id or designation. Raises UnknownNameError."""
    return _only_one(named(vehicle.devices.values(), text), text)


def designation_of(vehicle: Vehicle, part_id: str) -> str:
    """A part's designation, of either kind."""
    return (vehicle.devices.get(part_id) or vehicle.segments[part_id]).designation


def described(vehicle: Vehicle, part_id: str) -> str:
    """A part as people call it: its designation, and what it is."""
    device = vehicle.devices.get(part_id)
    if device is not None:
        return f"{device.designation} {device.name}"
    segment = vehicle.segments[part_id]
    return f"{segment.designation} {describe(segment.spec)}"


def point_called(vehicle: Vehicle, text: str) -> Point:
    """The point of that id or name. Raises UnknownNameError."""
    if text in vehicle.points:
        return vehicle.points[text]
    found = [each for each in vehicle.points.values() if each.name == text]
    if len(found) > 1:
        ids = ", ".join(each.id for each in found)
        raise UnknownNameError(f'{len(found)} points are called "{text}"; say which by id: {ids}')
    if not found:
        raise UnknownNameError(f'there is no point "{text}"')
    return found[0]


def _only_one(found: list[_Part], text: str) -> _Part:
    """By id if there is one of it: at two stages two parts may have one designation."""
    if not found:
        raise UnknownNameError(f'there is no part "{text}" at this stage')
    return next((each for each in found if each.id == text), found[0])
