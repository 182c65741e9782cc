"""Reads a job's rows as the core's Vehicle, as they are at one moment."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db.models import FilteredRelation, Q
from django.http import Http404

from percorso.targets import Target
from percorso.vehicle import model as core
from percorso.vehicle import scenarios
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.ids import Ids
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC, ZONE_TEMPERATURE_C
from percorso.vehicle.states import Input as CoreInput
from percorso_server.jobs.models import TABLES, CircuitSegment, DeviceTerminal, Job, NetworkRow, Point
from percorso_server.network.snapshot import one_snapshot


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

    ordered: dict[str, Any] = {kind: dict(sorted(getattr(vehicle, kind).items(), key=place)) for kind in KINDS}
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


def _with_points(job: Job) -> list[dict[str, Any]]:
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
        known=row["known"],
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
        known=row["known"],
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
