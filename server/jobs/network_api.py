"""HTTP API of a job's network: its points, segments and circuits, and what-if."""

from dataclasses import replace
from typing import Literal
from uuid import UUID, uuid4

from django.http import HttpResponse
from ninja import Router
from pydantic import Field

from jobs import models
from jobs.carrying_out import carry_out, job_of
from jobs.circuit_view import Basis, CircuitView, circuit_view
from jobs.editing import Draft
from jobs.schemas import Body, Key, Saved, SpecIn, as_json
from jobs.solving import View, network_for_reading
from percorso.changes.routes import (
    Insertion,
    insert_segment,
    joint_name,
    move_segment,
    remove_circuit,
    remove_point,
    remove_segment,
    with_circuit,
    with_segments,
)
from percorso.components.conductors import Series
from percorso.names import Designation, Name
from percorso.planning.new_circuit import NewRoute, lay_circuit
from percorso.vehicle.model import Fate, Origin, Point, Segment, Vehicle, next_designation
from percorso.vehicle.segments import DESIGNATION_LETTER, SEGMENT_SPEC, changed_spec
from percorso.vehicle.values import CircuitValues, circuit_from
from workshop.signed_in import SignedInRequest

router = Router(tags=["network"])


class PointValues(Body):
    """A new point."""

    id: UUID = Field(default_factory=uuid4)
    name: Name


class PointChange(Body):
    """A point's new name, and the version that was seen."""

    version: int
    name: Name


@router.post("/jobs/{job_id}/points", response=Saved)
def add_point(request: SignedInRequest, job_id: UUID, values: PointValues, key: Key) -> Saved:
    """Add a point nothing ends on yet."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        point = Point(str(values.id), values.name)
        return f"add point {point.name}", replace(held.vehicle, points={**held.vehicle.points, point.id: point})

    return carry_out(request, job_id, key, change, values.id)


@router.patch("/points/{point_id}", response=Saved)
def rename_point(request: SignedInRequest, point_id: UUID, values: PointChange, key: Key) -> Saved:
    """Rename a point."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("point", str(point_id), values.version)
        point = Point(str(point_id), values.name)
        return f"rename point {point.name}", replace(held.vehicle, points={**held.vehicle.points, point.id: point})

    return carry_out(request, job_of(request, models.Point, point_id).pk, key, change)


@router.delete("/points/{point_id}", response=Saved)
def delete_point(request: SignedInRequest, point_id: UUID, version: int, key: Key) -> Saved:
    """Delete a point nothing ends on."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("point", str(point_id), version)
        name = held.vehicle.points[str(point_id)].name
        return f"delete point {name}", remove_point(held.vehicle, str(point_id))

    return carry_out(request, job_of(request, models.Point, point_id).pk, key, change)


class SegmentValues(Body):
    """A new segment between two points of the job, outside any circuit yet."""

    id: UUID = Field(default_factory=uuid4)
    designation: Designation | None = None
    from_point: UUID
    to_point: UUID
    origin: Origin = "existing"
    fate: Fate = "kept"
    spec: SpecIn


class SegmentChange(Body):
    """Values of a segment to change, and the version that was seen."""

    version: int
    designation: Designation | None = None
    from_point: UUID | None = None
    to_point: UUID | None = None
    origin: Origin | None = None
    fate: Fate | None = None
    spec: SpecIn = {}


class InsertValues(Body):
    """A new segment in series with one the circuit passes."""

    id: UUID = Field(default_factory=uuid4)
    designation: Designation | None = None
    origin: Origin = "existing"
    fate: Fate = "kept"
    spec: SpecIn
    beside: UUID
    after: bool = True
    point_id: UUID = Field(default_factory=uuid4)
    point_name: Name | None = None


class Move(Body):
    """Which way to move a segment along its route."""

    segment: UUID
    steps: Literal[1, -1]


def _new_segment(held: Draft, values: SegmentValues | InsertValues, start: str, end: str) -> Segment:
    spec = SEGMENT_SPEC.validate_python(values.spec)
    designation = values.designation or next_designation(held.vehicle, DESIGNATION_LETTER[spec.kind])
    return Segment(str(values.id), designation, start, end, spec, origin=values.origin, fate=values.fate)


@router.post("/jobs/{job_id}/segments", response=Saved)
def add_segment(request: SignedInRequest, job_id: UUID, values: SegmentValues, key: Key) -> Saved:
    """Add a segment between two points."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        segment = _new_segment(held, values, str(values.from_point), str(values.to_point))
        return f"add {segment.designation}", with_segments(held.vehicle, [segment])

    return carry_out(request, job_id, key, change, values.id)


@router.post("/circuits/{circuit_id}/segments", response=Saved)
def insert(request: SignedInRequest, circuit_id: UUID, values: InsertValues, key: Key) -> Saved:
    """Insert a segment into a circuit's route, joined at a new point."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        place = Insertion(str(circuit_id), str(values.beside), values.after)
        piece = _new_segment(held, values, "", "")
        name = values.point_name or joint_name(held.vehicle, piece, after=values.after)
        joint = Point(str(values.point_id), name)
        return f"insert {piece.designation}", insert_segment(held.vehicle, place, piece, joint)

    return carry_out(request, job_of(request, models.Circuit, circuit_id).pk, key, change, values.id)


@router.patch("/segments/{segment_id}", response=Saved)
def change_segment(request: SignedInRequest, segment_id: UUID, values: SegmentChange, key: Key) -> Saved:
    """Change a segment's values or move its ends to other points."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("segment", str(segment_id), values.version)
        before = held.vehicle.segments[str(segment_id)]
        after = replace(
            before,
            designation=values.designation or before.designation,
            from_point=str(values.from_point or before.from_point),
            to_point=str(values.to_point or before.to_point),
            origin=values.origin or before.origin,
            fate=values.fate or before.fate,
            spec=changed_spec(before.spec, values.spec),
        )
        return f"change {after.designation}", with_segments(held.vehicle, [after])

    return carry_out(request, job_of(request, models.Segment, segment_id).pk, key, change)


@router.post("/circuits/{circuit_id}/move", response=Saved)
def move(request: SignedInRequest, circuit_id: UUID, values: Move, key: Key) -> Saved:
    """Move a segment one place along the route."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        moved = move_segment(held.vehicle, str(circuit_id), str(values.segment), values.steps)
        return f"move {held.vehicle.segments[str(values.segment)].designation}", moved

    return carry_out(request, job_of(request, models.Circuit, circuit_id).pk, key, change)


@router.delete("/segments/{segment_id}", response=Saved)
def delete_segment(request: SignedInRequest, segment_id: UUID, version: int, key: Key) -> Saved:
    """Delete a segment and join what it connected."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("segment", str(segment_id), version)
        name = held.vehicle.segments[str(segment_id)].designation
        return f"delete {name}", remove_segment(held.vehicle, str(segment_id))

    return carry_out(request, job_of(request, models.Segment, segment_id).pk, key, change)


class NewCircuit(NewRoute):
    """A circuit to lay out, with the id it shall have."""

    id: UUID = Field(default_factory=uuid4)


class CircuitChange(CircuitValues):
    """All values of a circuit, the device it feeds, and the version that was seen."""

    version: int
    device_id: UUID | None = None


class PathChange(Body):
    """A circuit's new path as segment ids in order, and the version that was seen."""

    version: int
    source_point: UUID | None
    supply: list[UUID]
    return_point: UUID
    return_path: list[UUID]


@router.post("/jobs/{job_id}/circuits", response=Saved)
def add_circuit(request: SignedInRequest, job_id: UUID, values: NewCircuit, key: Key) -> Saved:
    """Lay out a new circuit: one wire out and one back, sized for its target."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        rules = request.user.shop.house_rules
        return f"lay {values.name}", lay_circuit(held.vehicle, values, str(values.id), rules, lambda: str(uuid4()))

    return carry_out(request, job_id, key, change, values.id)


@router.get("/circuits/{circuit_id}", response=CircuitView)
def read_circuit(
    request: SignedInRequest, circuit_id: UUID, view: View, basis: Basis = "design", series: Series | None = None
) -> HttpResponse:
    """A circuit with its profile, findings and ladders."""
    job = job_of(request, models.Circuit, circuit_id)
    network = network_for_reading(job, request.user.shop.house_rules)
    return as_json(circuit_view(network, str(circuit_id), job_id=str(job.pk), view=view, basis=basis, series=series))


@router.patch("/circuits/{circuit_id}", response=Saved)
def change_circuit(request: SignedInRequest, circuit_id: UUID, values: CircuitChange, key: Key) -> Saved:
    """Change what a circuit is for and what it must meet."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("circuit", str(circuit_id), values.version)
        before = held.vehicle.circuits[str(circuit_id)]
        after = circuit_from(
            values,
            id=before.id,
            source_point=before.source_point,
            supply=before.supply,
            return_point=before.return_point,
            return_path=before.return_path,
            device_id=str(values.device_id) if values.device_id else None,
        )
        return f"change {after.name}", with_circuit(held.vehicle, after)

    return carry_out(request, job_of(request, models.Circuit, circuit_id).pk, key, change)


@router.put("/circuits/{circuit_id}/path", response=Saved)
def change_path(request: SignedInRequest, circuit_id: UUID, path: PathChange, key: Key) -> Saved:
    """Lead a circuit over other segments of the job."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("circuit", str(circuit_id), path.version)
        after = replace(
            held.vehicle.circuits[str(circuit_id)],
            source_point=str(path.source_point) if path.source_point else None,
            supply=tuple(map(str, path.supply)),
            return_point=str(path.return_point),
            return_path=tuple(map(str, path.return_path)),
        )
        return f"reroute {after.name}", with_circuit(held.vehicle, after)

    return carry_out(request, job_of(request, models.Circuit, circuit_id).pk, key, change)


@router.delete("/circuits/{circuit_id}", response=Saved)
def delete_circuit(request: SignedInRequest, circuit_id: UUID, version: int, key: Key) -> Saved:
    """Delete a circuit with what only it uses."""

    def change(held: Draft) -> tuple[str, Vehicle]:
        held.expect("circuit", str(circuit_id), version)
        name = held.vehicle.circuits[str(circuit_id)].name
        return f"delete {name}", remove_circuit(held.vehicle, str(circuit_id))

    return carry_out(request, job_of(request, models.Circuit, circuit_id).pk, key, change)
