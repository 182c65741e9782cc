"""The same vehicle under other ids: for a copy, or for a job file."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import TypeVar

from percorso.vehicle.loads import Load
from percorso.vehicle.model import Circuit, Device, Point, Segment, Vehicle
from percorso.vehicle.scenarios import Drive, Scenario
from percorso.vehicle.segments import RelayContact, SegmentSpec

_Part = TypeVar("_Part", Point, Segment, Device, Circuit, Scenario, Drive)


@dataclass(frozen=True)
class Ids:
    """The new id of each old one, by what it names; a point and a segment may share one. Inputs keep theirs."""

    points: Mapping[str, str]
    segments: Mapping[str, str]
    devices: Mapping[str, str]
    circuits: Mapping[str, str]
    scenarios: Mapping[str, str]
    drives: Mapping[str, str]


def free_id(name: str, taken: Iterable[str]) -> str:
    """The first id of that name with a number that nothing has: ``lamp-1``."""
    ids = set(taken)
    return next(made for number in range(1, len(ids) + 2) if (made := f"{name}-{number}") not in ids)


def new_ids(vehicle: Vehicle, new_id: Callable[[], str]) -> Ids:
    """A new id for everything in a vehicle."""
    return Ids(*({old: new_id() for old in part} for part in _parts(vehicle)))


def same_ids(vehicle: Vehicle) -> Ids:
    """Everything in a vehicle under the id it has."""
    return Ids(*({old: old for old in part} for part in _parts(vehicle)))


def _parts(vehicle: Vehicle) -> tuple[Mapping[str, object], ...]:
    return vehicle.points, vehicle.segments, vehicle.devices, vehicle.circuits, vehicle.scenarios, vehicle.drives


def with_ids(vehicle: Vehicle, new: Ids) -> Vehicle:
    """The vehicle with everything under its new id."""
    return replace(
        vehicle,
        points=_by_id(replace(each, id=new.points[each.id]) for each in vehicle.points.values()),
        segments=_by_id(_segment(each, new) for each in vehicle.segments.values()),
        devices=_by_id(_device(each, new) for each in vehicle.devices.values()),
        circuits=_by_id(_circuit(each, new) for each in vehicle.circuits.values()),
        scenarios=_by_id(_scenario(each, new) for each in vehicle.scenarios.values()),
        drives=_by_id(_drive(each, new) for each in vehicle.drives.values()),
    )


def _scenario(each: Scenario, new: Ids) -> Scenario:
    duties = {new.devices[device]: percent for device, percent in each.duty_percent.items()}
    return replace(each, id=new.scenarios[each.id], duty_percent=duties)


def _drive(each: Drive, new: Ids) -> Drive:
    spells = tuple(replace(spell, scenario=new.scenarios.get(spell.scenario, spell.scenario)) for spell in each.spells)
    return replace(each, id=new.drives[each.id], spells=spells)


def _by_id(parts: Iterable[_Part]) -> Mapping[str, _Part]:
    return {each.id: each for each in parts}


def _segment(each: Segment, new: Ids) -> Segment:
    return replace(
        each,
        id=new.segments[each.id],
        from_point=new.points[each.from_point],
        to_point=new.points[each.to_point],
        spec=_spec(each.spec, new),
    )


def _spec(spec: SegmentSpec, new: Ids) -> SegmentSpec:
    if isinstance(spec, RelayContact) and spec.coil is not None:
        return spec.model_copy(update={"coil": new.devices[spec.coil]})
    return spec


def _device(each: Device, new: Ids) -> Device:
    terminals = {mark: new.points[point] for mark, point in each.terminals.items()}
    spec = each.spec
    if isinstance(spec, Load) and spec.independent_of is not None:
        spec = spec.model_copy(update={"independent_of": new.devices[spec.independent_of]})
    return replace(each, id=new.devices[each.id], terminals=terminals, spec=spec)


def _circuit(each: Circuit, new: Ids) -> Circuit:
    return replace(
        each,
        id=new.circuits[each.id],
        device_id=new.devices[each.device_id] if each.device_id else None,
        source_point=new.points[each.source_point] if each.source_point else None,
        supply=tuple(new.segments[step] for step in each.supply),
        return_point=new.points[each.return_point],
        return_path=tuple(new.segments[step] for step in each.return_path),
    )
