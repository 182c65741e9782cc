"""Rows of a job into the core's Vehicle, and a changed Vehicle back into rows."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields, replace
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db.models import FilteredRelation, Q
from django.http import Http404

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
from jobs.searching import NAMED, index_job
from network.snapshot import one_snapshot
from percorso.targets import Target
from percorso.vehicle import model as core
from percorso.vehicle import scenarios
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.ids import Ids
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC, ZONE_TEMPERATURE_C
from percorso.vehicle.states import Input as CoreInput

Values = dict[str, Any]
LISTS = ("terminals", *core.SIDES)  # values that are rows of their own
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
    """A job's vehicle, the version of each of its rows, and each row's id in job files; by id (inputs by key).

    ``changed_at`` is when the job had last changed at that moment.
    """

    vehicle: Vehicle
    changed_at: datetime
    versions: Mapping[str, int]
    file_ids: Mapping[str, str]

    @property
    def ids_in_files(self) -> Ids:
        """What job files call everything."""
        return Ids(*(self.file_ids for _ in fields(Ids)))

    def after(self, vehicle: Vehicle, written: Mapping[str, NetworkRow], changed_at: datetime) -> "StoredNetwork":
        """The same once rows were written: what reading it anew would give."""
        kept = {row_id for row_id in {*self.versions, *written} if row_id not in written or written[row_id].live}
        versions = {**self.versions, **{row_id: row.version for row_id, row in written.items()}}
        file_ids = {**self.file_ids, **{row_id: row.file_id for row_id, row in written.items()}}
        return StoredNetwork(
            by_name(vehicle),
            changed_at,
            versions={row_id: versions[row_id] for row_id in kept},
            file_ids={row_id: file_ids[row_id] for row_id in kept},
        )


KINDS = ("points", "segments", "circuits", "devices", "inputs", "scenarios", "drives")  # of what a vehicle has


def by_name(vehicle: Vehicle) -> Vehicle:
    """A vehicle with everything in the order of its names, however it came about."""

    def place(named: tuple[str, Any]) -> tuple[str, str]:
        row_id, part = named
        return str(getattr(part, "designation", "") or getattr(part, "name", "")), row_id

    ordered: Values = {kind: dict(sorted(getattr(vehicle, kind).items(), key=place)) for kind in KINDS}
    return replace(vehicle, **ordered)


def network_of(job: Job) -> StoredNetwork:
    """The living network of a job, as it is at one moment. Raises Http404 when the job is gone."""
    with one_snapshot():
        rows = _with_points(job)
        living = {
            name: list(model.objects.filter(job=job, live=True).values())
            for name, model in TABLES.items()
            if model is not Point
        }
        hanging = _hanging(job)
    if not rows:
        raise Http404
    now = rows[0]
    points = [
        {name: row[f"living__{name}"] for name in ("id", "name", "access", "version", "file_id")}
        for row in rows
        if row["living__id"]
    ]
    vehicle = Vehicle(
        nominal_v=now["nominal_v"],
        points={str(row["id"]): core.Point(str(row["id"]), row["name"], row["access"]) for row in points},
        segments={str(row["id"]): _segment(row) for row in living["segment"]},
        circuits={str(row["id"]): _circuit(row, hanging[row["id"]]) for row in living["circuit"]},
        zone_temperature_c={**ZONE_TEMPERATURE_C, **now["zone_temperature_c"]},
        devices={str(row["id"]): _device(row, hanging[row["id"]]) for row in living["device"]},
        inputs={row["key"]: _input(row) for row in living["input"]},
        scenarios={str(row["id"]): _scenario(row) for row in living["scenario"]},
        drives={str(row["id"]): _drive(row) for row in living["drive"]},
    )
    every = [(_id_in_core(row), row) for table in (points, *living.values()) for row in table]
    return StoredNetwork(
        by_name(vehicle),
        now["changed_at"],
        versions={row_id: row["version"] for row_id, row in every},
        file_ids={row_id: row["file_id"] for row_id, row in every},
    )


def _with_points(job: Job) -> list[Values]:
    """The job's own values, once for each of its living points; once where it has none."""
    living = FilteredRelation("point", condition=Q(point__live=True))
    columns = ("changed_at", "nominal_v", "zone_temperature_c", "living__id", "living__name", "living__access")
    rows = Job.objects.filter(pk=job.pk).annotate(living=living)
    return list(rows.values(*columns, "living__version", "living__file_id"))


def _hanging(job: Job) -> dict[UUID, dict[str, list[str]]]:
    """What hangs on circuits and devices, by id: the segments of each side in order, the point of each terminal."""
    places = CircuitSegment.objects.filter(circuit__job=job, circuit__live=True)
    ends = DeviceTerminal.objects.filter(device__job=job, device__live=True)
    rows = places.values_list("circuit_id", "side", "order", "segment_id").union(
        ends.values_list("device_id", "mark", "id", "point_id"), all=True
    )
    hanging: dict[UUID, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    for owner, name, _, part in sorted(rows, key=lambda row: row[2]):
        hanging[owner][name].append(str(part))
    return hanging


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
        access=row["access"],
    )


def _device(row: Mapping[str, Any], terminals: Mapping[str, list[str]]) -> core.Device:
    return core.Device(
        id=str(row["id"]),
        designation=row["designation"],
        name=row["name"],
        terminals={mark: points[0] for mark, points in terminals.items()},
        spec=DEVICE_SPEC.validate_python(row["spec"]),
        origin=row["origin"],
        fate=row["fate"],
        access=row["access"],
    )


def _input(row: Mapping[str, Any]) -> CoreInput:
    return CoreInput(row["key"], row["name"], tuple(row["positions"]), row["by_state"], tuple(row["fixed_in"]))


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

    @property
    def columns(self) -> set[str]:
        """The columns whose values it changes."""
        before, after = self.before or {}, self.after or {}
        return {column for column in {*before, *after} if before.get(column) != after.get(column)}


def changes_between(before: Vehicle, after: Vehicle) -> list[Change]:
    """Rows that differ, in an order in which they can be written: what others refer to comes first."""
    old, new = values_of(_without_same(before, after)), values_of(_without_same(after, before))
    return [
        Change(table, row_id, old[table].get(row_id), new[table].get(row_id))
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


def write_changes(job: Job, changes: list[Change], file_ids: Mapping[str, str] | None = None) -> dict[str, NetworkRow]:
    """Write rows that were computed with ``changes_between`` or stored from it; the caller holds the transaction.

    Returns each as it is now. ``file_ids`` are new rows' ids in job files, where they came from one.
    First every changed row steps out of the unique names it may hand over to another, then all take their new values,
    table by table: a few statements, however many rows.
    """
    by_table = {table: [each for each in changes if each.table == table] for table in TABLES}
    stored = {table: _stored(job, TABLES[table], of_table) for table, of_table in by_table.items() if of_table}
    for table, rows in stored.items():
        leaving = [rows[each.id].pk for each in by_table[table] if each.before is not None]
        if len(by_table[table]) > 1:
            TABLES[table].objects.filter(pk__in=leaving).update(live=None)
    now: dict[str, NetworkRow] = {}
    for table, rows in stored.items():
        written = [_written(job, each, rows.get(each.id), file_ids or {}) for each in by_table[table]]
        _save(TABLES[table], written, by_table[table])
        _write_lists(TABLES[table], list(zip(written, by_table[table], strict=True)))
        now |= {each.id: row for each, row in zip(by_table[table], written, strict=True)}
    if any(each.columns.intersection(NAMED.get(TABLES[each.table], ())) for each in changes):
        index_job(job)  # it is found by other words now
    return now


def _stored(job: Job, model: type[NetworkRow], changes: list[Change]) -> dict[str, NetworkRow]:
    """The rows there are of those that change, by id in the core; of two inputs of one key the living one."""
    name = "key" if model is Input else "pk"
    found = model.objects.filter(job=job, **{f"{name}__in": [each.id for each in changes]})
    return {str(getattr(row, name)): row for row in sorted(found, key=lambda row: row.live is True)}


def _written(job: Job, change: Change, stored: NetworkRow | None, file_ids: Mapping[str, str]) -> NetworkRow:
    """A row with its new values, not saved yet; every change of an existing one is a new version."""
    model = TABLES[change.table]
    row = stored or (Input(job=job, key=change.id) if model is Input else model(job=job, id=UUID(change.id)))
    row.version += 0 if stored is None else 1
    row.file_id = file_ids.get(change.id, row.file_id)
    row.live = None if change.after is None else True
    for column, value in (change.after or {}).items():
        if column not in LISTS:
            setattr(row, column, value)
    return row


def _save(model: type[NetworkRow], rows: list[NetworkRow], changes: list[Change]) -> None:
    """New rows in one statement, and what changes of existing ones in another."""
    model.objects.bulk_create([row for row in rows if row._state.adding])
    existing = [row for row in rows if not row._state.adding]
    columns = {"live", "version", "file_id"}.union(*(each.columns for each in changes))
    model.objects.bulk_update(existing, sorted(columns.difference(LISTS)))


def _write_lists(model: type[NetworkRow], rows: list[tuple[NetworkRow, Change]]) -> None:
    """The rows that hang on circuits or devices, written anew."""
    living = [(row, change.after) for row, change in rows if change.after is not None]
    if model is Circuit:
        CircuitSegment.objects.filter(circuit__in=[row.pk for row, _ in living]).delete()
        CircuitSegment.objects.bulk_create(
            CircuitSegment(circuit_id=row.pk, segment_id=segment_id, side=side, order=order)
            for row, after in living
            for side in core.SIDES
            for order, segment_id in enumerate(after[side])
        )
    if model is Device:
        DeviceTerminal.objects.filter(device__in=[row.pk for row, _ in living]).delete()
        DeviceTerminal.objects.bulk_create(
            DeviceTerminal(device_id=row.pk, mark=mark, point_id=point)
            for row, after in living
            for mark, point in after["terminals"].items()
        )
