"""Rows of a job into the core's Vehicle, and a changed Vehicle back into rows."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any
from uuid import UUID

from django.db.models import Model

from jobs.models import (
    Circuit,
    CircuitSegment,
    Device,
    DeviceTerminal,
    Drive,
    Input,
    Job,
    NetworkRow,
    Point,
    Scenario,
    Segment,
)
from percorso import scenarios
from percorso import vehicle as core
from percorso.devices import DEVICE_SPEC
from percorso.renaming import Ids
from percorso.specs import SEGMENT_SPEC, ZONE_TEMPERATURE_C
from percorso.states import Input as CoreInput
from percorso.targets import Target
from percorso.vehicle import Vehicle

Values = dict[str, Any]
TABLES: dict[str, type[NetworkRow]] = {
    "point": Point,
    "input": Input,
    "device": Device,
    "segment": Segment,
    "circuit": Circuit,
    "scenario": Scenario,
    "drive": Drive,
}


@dataclass(frozen=True)
class StoredNetwork:
    """A job's vehicle, the version of each of its rows, and each row's id in job files; by id (inputs by key)."""

    vehicle: Vehicle
    versions: Mapping[str, int]
    file_ids: Mapping[str, str]

    @property
    def ids_in_files(self) -> Ids:
        """What job files call everything."""
        return Ids(*(self.file_ids for _ in fields(Ids)))


def network_of(job: Job) -> StoredNetwork:
    """The living network of a job, in nine queries that read columns only."""
    living = {name: list(model.objects.filter(job=job, live=True).values()) for name, model in TABLES.items()}
    paths: dict[UUID, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    places = CircuitSegment.objects.filter(circuit__job=job, circuit__live=True).order_by("order")
    for circuit_id, side, segment_id in places.values_list("circuit_id", "side", "segment_id"):
        paths[circuit_id][side].append(str(segment_id))
    terminals: dict[UUID, dict[str, str]] = defaultdict(dict)
    ends = DeviceTerminal.objects.filter(device__job=job, device__live=True).order_by("id")
    for device_id, mark, point_id in ends.values_list("device_id", "mark", "point_id"):
        terminals[device_id][mark] = str(point_id)
    vehicle = Vehicle(
        nominal_v=job.nominal_v,
        points={str(row["id"]): core.Point(str(row["id"]), row["name"]) for row in living["point"]},
        segments={str(row["id"]): _segment(row) for row in living["segment"]},
        circuits={str(row["id"]): _circuit(row, paths[row["id"]]) for row in living["circuit"]},
        zone_temperature_c={**ZONE_TEMPERATURE_C, **job.zone_temperature_c},
        devices={str(row["id"]): _device(row, terminals[row["id"]]) for row in living["device"]},
        inputs={row["key"]: _input(row) for row in living["input"]},
        scenarios={str(row["id"]): _scenario(row) for row in living["scenario"]},
        drives={str(row["id"]): _drive(row) for row in living["drive"]},
    )
    rows = [(_id_in_core(row), row) for table in living.values() for row in table]
    return StoredNetwork(
        vehicle,
        versions={row_id: row["version"] for row_id, row in rows},
        file_ids={row_id: row["file_id"] for row_id, row in rows},
    )


def _id_in_core(row: Mapping[str, Any]) -> str:
    return str(row.get("key") or row["id"])


def _segment(row: Mapping[str, Any]) -> core.Segment:
    return core.Segment(
        id=str(row["id"]),
        designation=row["designation"],
        from_point=str(row["from_point_id"]),
        to_point=str(row["to_point_id"]),
        spec=SEGMENT_SPEC.validate_python(row["spec"]),
        origin=row["origin"],
        fate=row["fate"],
    )


def _device(row: Mapping[str, Any], terminals: Mapping[str, str]) -> core.Device:
    return core.Device(
        id=str(row["id"]),
        designation=row["designation"],
        name=row["name"],
        terminals=terminals,
        spec=DEVICE_SPEC.validate_python(row["spec"]),
        origin=row["origin"],
        fate=row["fate"],
    )


def _input(row: Mapping[str, Any]) -> CoreInput:
    return CoreInput(row["key"], row["name"], tuple(row["positions"]), row["by_state"])


def _scenario(row: Mapping[str, Any]) -> scenarios.Scenario:
    columns = ("name", "state", "time", "season", "outside_c", "duty_percent")
    return scenarios.Scenario(str(row["id"]), *(row[each] for each in columns))


def _drive(row: Mapping[str, Any]) -> scenarios.Drive:
    spells = tuple(scenarios.Spell(**each) for each in row["spells"])
    return scenarios.Drive(str(row["id"]), row["name"], spells, row["from_percent"])


def _circuit(row: Mapping[str, Any], path: Mapping[str, list[str]]) -> core.Circuit:
    return core.Circuit(
        id=str(row["id"]),
        name=row["name"],
        family=row["family"],
        device=row["device"],
        design_current_a=row["design_current_a"],
        source_v=row["source_v"],
        target=Target(row["target_kind"], row["target_value"]),
        source_point=_text_or_none(row["source_point_id"]),
        supply=tuple(path["supply"]),
        return_point=str(row["return_point_id"]),
        return_path=tuple(path["return"]),
        state=row["state"],
        device_id=_text_or_none(row["fed_device_id"]),
        typed=row["typed"],
    )


def _text_or_none(value: UUID | None) -> str | None:
    return None if value is None else str(value)


def values_of(vehicle: Vehicle) -> dict[str, dict[str, Values]]:
    """Column values of everything in the vehicle, by table and id, ready for JSON."""
    return {
        "point": {point.id: {"name": point.name} for point in vehicle.points.values()},
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
    return {"name": each.name, "positions": list(each.positions), "by_state": dict(each.by_state)}


def _device_values(part: core.Device) -> Values:
    return {"name": part.name, "terminals": dict(part.terminals)} | _part_values(part)


def _segment_values(part: core.Segment) -> Values:
    return {"from_point_id": part.from_point, "to_point_id": part.to_point} | _part_values(part)


def _part_values(part: core.Segment | core.Device) -> Values:
    return {
        "designation": part.designation,
        "origin": part.origin,
        "fate": part.fate,
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
class Change:
    """One row before and after; None where it did not exist or is deleted."""

    table: str
    id: str
    before: Values | None
    after: Values | None

    def reversed(self) -> "Change":
        """The change that takes this one back."""
        return Change(self.table, self.id, self.after, self.before)


def changes_between(before: Vehicle, after: Vehicle) -> list[Change]:
    """Rows that differ, in an order in which they can be written: what others refer to comes first."""
    old, new = values_of(before), values_of(after)
    return [
        Change(table, row_id, old[table].get(row_id), new[table].get(row_id))
        for table in TABLES
        for row_id in sorted(old[table].keys() | new[table].keys())
        if old[table].get(row_id) != new[table].get(row_id)
    ]


def write_changes(job: Job, changes: list[Change], file_ids: Mapping[str, str] | None = None) -> dict[str, int]:
    """Write rows that were computed with ``changes_between`` or stored from it; the caller holds the transaction.

    Returns the new version of each. ``file_ids`` are new rows' ids in job files, where they came from one.
    First every changed row steps out of the unique names it may hand over, then all take their new values.
    """
    rows = {change.id: _row(job, change) for change in changes}
    for change in changes:
        if change.before is not None:
            row = rows[change.id]
            type(row).objects.filter(pk=row.pk).update(live=None)
    for change in changes:
        row = rows[change.id]
        row.file_id = (file_ids or {}).get(change.id, row.file_id)
        row.live = None if change.after is None else True
        values = dict(change.after or {})
        lists = {name: values.pop(name, None) for name in ("terminals", *core.SIDES)}
        for column, value in values.items():
            setattr(row, column, value)
        row.save()
        if change.after is not None:
            _write_lists(row, lists)
    return {row_id: row.version for row_id, row in rows.items()}


def _row(job: Job, change: Change) -> NetworkRow:
    model = TABLES[change.table]
    name = "key" if model is Input else "pk"
    found: NetworkRow | None = model.objects.filter(job=job, **{name: change.id}).order_by("live").last()
    if found is not None:
        return found
    return Input(job=job, key=change.id) if model is Input else model(job=job, id=UUID(change.id))


def _write_lists(row: NetworkRow, lists: Mapping[str, Any]) -> None:
    """The rows that hang on a circuit or a device, written anew."""
    if isinstance(row, Circuit):
        row.path.all().delete()
        _create(
            CircuitSegment(circuit=row, segment_id=segment_id, side=side, order=order)
            for side in core.SIDES
            for order, segment_id in enumerate(lists[side])
        )
    if isinstance(row, Device):
        row.terminals.all().delete()
        _create(DeviceTerminal(device=row, mark=mark, point_id=point) for mark, point in lists["terminals"].items())


def _create(rows: Iterable[Model]) -> None:
    made = list(rows)
    if made:
        type(made[0])._default_manager.bulk_create(made)
