"""The rows that differ between two vehicles of one job: what an edit writes, and what taking it back writes."""

from dataclasses import asdict, dataclass, replace
from typing import Any

from percorso.vehicle import model as core
from percorso.vehicle import scenarios
from percorso.vehicle.model import Vehicle
from percorso.vehicle.states import Input as CoreInput
from percorso_server.jobs.models import TABLES
from percorso_server.network.reading import KINDS

Values = dict[str, Any]  # of columns, ready for JSON


def values_of(vehicle: Vehicle) -> dict[str, dict[str, Values]]:
    """Column values of everything in the vehicle, by table and id, ready for JSON."""
    return {
        "point": {point.id: {"name": point.name, "access": point.access} for point in vehicle.points.values()},
        "input": {each.id: _input_values(each) for each in vehicle.inputs.values()},
        "device": {part.id: _device_values(part) for part in vehicle.devices.values()},
        "segment": {part.id: _segment_values(part) for part in vehicle.segments.values()},
        "circuit": {part.id: _circuit_values(part) for part in vehicle.circuits.values()},
        "scenario": {each.id: _without_id(each) for each in vehicle.scenarios.values()},
        "drive": {each.id: _without_id(each) for each in vehicle.drives.values()},
    }


def _without_id(each: scenarios.Scenario | scenarios.Drive) -> Values:
    return {name: _plain(value) for name, value in asdict(each).items() if name != "id"}


def _plain(value: Any) -> Any:
    return list(value) if isinstance(value, tuple) else value


def _input_values(each: CoreInput) -> Values:
    return {
        "name": each.name,
        "positions": list(each.positions),
        "by_state": dict(each.by_state),
        "fixed_in": list(each.fixed_in),
    }


def _device_values(part: core.Device) -> Values:
    return {"name": part.name, "terminals": dict(part.terminals)} | _part_values(part)


def _segment_values(part: core.Segment) -> Values:
    return {"from_point_id": part.from_point, "to_point_id": part.to_point} | _part_values(part)


def _part_values(part: core.Segment | core.Device) -> Values:
    return {
        "designation": part.designation,
        "origin": part.origin,
        "fate": part.fate,
        "access": part.access,
        "known": part.known,
        "spec": part.spec.model_dump(mode="json"),
    }


def _circuit_values(part: core.Circuit) -> Values:
    return {
        "name": part.name,
        "family": part.family,
        "device": part.device,
        "fed_device_id": part.device_id,
        "design_current_a": part.design_current_a,
        "source_v": part.source_v,
        "state": part.state,
        "target_kind": part.target.kind,
        "target_value": part.target.value,
        "typed": dict(part.typed),
        "source_point_id": part.source_point,
        "return_point_id": part.return_point,
        "supply": list(part.supply),
        "return": list(part.return_path),
    }


@dataclass(frozen=True)
class RowChange:
    """One row before and after; None where it did not exist or is deleted."""

    table: str
    id: str
    before: Values | None
    after: Values | None

    def reversed(self) -> "RowChange":
        """The change that takes this one back."""
        return RowChange(self.table, self.id, self.after, self.before)

    @property
    def columns(self) -> set[str]:
        """The columns whose values it changes."""
        before, after = self.before or {}, self.after or {}
        return {column for column in {*before, *after} if before.get(column) != after.get(column)}


def changes_between(before: Vehicle, after: Vehicle) -> list[RowChange]:
    """Rows that differ, in an order in which they can be written: what others refer to comes first."""
    old, new = values_of(_without_same(before, after)), values_of(_without_same(after, before))
    return [
        RowChange(table, row_id, old[table].get(row_id), new[table].get(row_id))
        for table in TABLES
        for row_id in sorted(old[table].keys() | new[table].keys())
        if old[table].get(row_id) != new[table].get(row_id)
    ]


def _without_same(vehicle: Vehicle, other: Vehicle) -> Vehicle:
    """What a vehicle has that is not the very same thing in the other: most of it is, after an edit."""
    own: Values = {
        kind: {row_id: part for row_id, part in getattr(vehicle, kind).items() if known.get(row_id) is not part}
        for kind in KINDS
        for known in (getattr(other, kind),)
    }
    return replace(vehicle, **own)
