"""Rows of a job into the core's Vehicle, and a changed Vehicle back into rows."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any
from uuid import UUID

from jobs.models import Circuit, CircuitSegment, Job, NetworkRow, Point, Segment
from percorso import vehicle as core
from percorso.specs import SEGMENT_SPEC
from percorso.vehicle import Vehicle

Values = dict[str, Any]
TABLES: dict[str, type[NetworkRow]] = {"point": Point, "segment": Segment, "circuit": Circuit}


@dataclass(frozen=True)
class Network:
    """A job's vehicle, and the version of each of its rows by id."""

    vehicle: Vehicle
    versions: Mapping[str, int]


def network_of(job: Job) -> Network:
    """The living network of a job, in four queries that read columns only."""
    points = list(Point.objects.filter(job=job, live=True).values("id", "version", "name"))
    segments = list(
        Segment.objects.filter(job=job, live=True).values(
            "id", "version", "designation", "from_point_id", "to_point_id", "spec"
        )
    )
    circuits = list(Circuit.objects.filter(job=job, live=True).values())
    paths: dict[UUID, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    places = CircuitSegment.objects.filter(circuit__job=job, circuit__live=True).order_by("order")
    for circuit_id, side, segment_id in places.values_list("circuit_id", "side", "segment_id"):
        paths[circuit_id][side].append(str(segment_id))
    vehicle = Vehicle(
        nominal_v=job.nominal_v,
        points={str(row["id"]): core.Point(str(row["id"]), row["name"]) for row in points},
        segments={str(row["id"]): _segment(row) for row in segments},
        circuits={str(row["id"]): _circuit(row, paths[row["id"]]) for row in circuits},
        zone_temperature_c=job.zone_temperature_c,
    )
    versions = {str(row["id"]): row["version"] for rows in (points, segments, circuits) for row in rows}
    return Network(vehicle, versions)


def network_for_reading(job: Job) -> Network:
    """As ``network_of``, but the networks read last are kept until their job changes.

    Every change of a network commits together with its job's ``changed_at``: who sees the new time sees the new rows.
    """
    return _network_at(job, job.changed_at)


@lru_cache(maxsize=64)
def _network_at(job: Job, changed_at: datetime) -> Network:
    return network_of(job)


def _segment(row: Mapping[str, Any]) -> core.Segment:
    return core.Segment(
        id=str(row["id"]),
        designation=row["designation"],
        from_point=str(row["from_point_id"]),
        to_point=str(row["to_point_id"]),
        spec=SEGMENT_SPEC.validate_python(row["spec"]),
    )


def _circuit(row: Mapping[str, Any], path: Mapping[str, list[str]]) -> core.Circuit:
    return core.Circuit(
        id=str(row["id"]),
        name=row["name"],
        family=row["family"],
        device=row["device"],
        design_current_a=row["design_current_a"],
        source_v=row["source_v"],
        target=core.Target(row["target_kind"], row["target_value"]),
        source_point=str(row["source_point_id"]) if row["source_point_id"] else None,
        supply=tuple(path["supply"]),
        return_point=str(row["return_point_id"]),
        return_path=tuple(path["return"]),
        state=row["state"],
        typed=row["typed"],
    )


def values_of(vehicle: Vehicle) -> dict[str, dict[str, Values]]:
    """Column values of everything in the vehicle, by table and id, ready for JSON."""
    return {
        "point": {point.id: {"name": point.name} for point in vehicle.points.values()},
        "segment": {
            part.id: {
                "designation": part.designation,
                "from_point_id": part.from_point,
                "to_point_id": part.to_point,
                "spec": part.spec.model_dump(mode="json"),
            }
            for part in vehicle.segments.values()
        },
        "circuit": {part.id: _circuit_values(part) for part in vehicle.circuits.values()},
    }


def _circuit_values(part: core.Circuit) -> Values:
    return {
        "name": part.name,
        "family": part.family,
        "device": part.device,
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
    """Rows that differ, in an order in which they can be written: points, segments, circuits."""
    old, new = values_of(before), values_of(after)
    return [
        Change(table, row_id, old[table].get(row_id), new[table].get(row_id))
        for table in TABLES
        for row_id in sorted(old[table].keys() | new[table].keys())
        if old[table].get(row_id) != new[table].get(row_id)
    ]


def write_changes(job: Job, changes: list[Change]) -> dict[str, int]:
    """Write rows that were computed with ``changes_between`` or stored from it; the caller holds the transaction.

    Returns the new version of each.
    First every changed row steps out of the unique names it may hand over, then all take their new values.
    """
    rows = {change.id: _row(job, change) for change in changes}
    for change in changes:
        if change.before is not None:
            type(rows[change.id]).objects.filter(pk=change.id).update(live=None)
    for change in changes:
        row = rows[change.id]
        row.live = None if change.after is None else True
        path = dict(change.after or {})
        sides = {side: path.pop(side, []) for side in core.SIDES}
        for column, value in path.items():
            setattr(row, column, value)
        row.save()
        if isinstance(row, Circuit) and change.after is not None:
            _write_path(row, sides)
    return {row_id: row.version for row_id, row in rows.items()}


def _row(job: Job, change: Change) -> NetworkRow:
    model = TABLES[change.table]
    return model.objects.filter(job=job, pk=change.id).first() or model(job=job, id=UUID(change.id))


def _write_path(circuit: Circuit, sides: Mapping[core.Side, list[str]]) -> None:
    circuit.path.all().delete()
    CircuitSegment.objects.bulk_create(
        CircuitSegment(circuit=circuit, segment_id=segment_id, side=side, order=order)
        for side, path in sides.items()
        for order, segment_id in enumerate(path)
    )
