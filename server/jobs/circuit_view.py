"""Everything one screen shows of a circuit: its rows, profile, findings and size ladders."""

from dataclasses import replace
from typing import Any

from pydantic import BaseModel

from jobs.assembly import Network
from percorso.conductors import Series
from percorso.findings import Finding, findings
from percorso.house_rules import HouseRules
from percorso.profile import Profile, profile
from percorso.sizing import Ladder, ladders
from percorso.specs import SegmentSpec, changed_spec, describe
from percorso.states import State
from percorso.vehicle import Circuit, Family, Segment, TargetKind, Vehicle, stations


class PointOut(BaseModel):
    """A point as stored."""

    id: str
    name: str
    version: int


class SegmentOut(BaseModel):
    """A segment as stored, a line that describes it, and the other circuits that pass it."""

    id: str
    designation: str
    from_point: str
    to_point: str
    spec: SegmentSpec
    description: str
    shared_with: list[str]
    version: int


class CircuitOut(BaseModel):
    """A circuit as stored."""

    id: str
    name: str
    family: Family
    device: str
    design_current_a: float
    source_v: float
    state: State
    target_kind: TargetKind
    target_value: float
    typed: dict[str, str]
    source_point: str | None
    supply: list[str]
    return_point: str
    return_path: list[str]
    version: int


class CircuitView(BaseModel):
    """A circuit computed. ``supply_stations`` and ``return_stations`` are point ids along each side."""

    job_id: str
    circuit: CircuitOut
    points: list[PointOut]
    segments: list[SegmentOut]
    supply_stations: list[str]
    return_stations: list[str]
    profile: Profile
    findings: list[Finding]
    ladders: list[Ladder]


class BoardLine(BaseModel):
    """One circuit as a line of the board."""

    circuit: CircuitOut
    profile: Profile


def circuit_view(
    job_id: str, network: Network, circuit_id: str, rules: HouseRules, series: Series | None = None
) -> CircuitView:
    """The view of one circuit; ``series`` chooses the sizes of its ladders (default: each wire's own)."""
    vehicle, circuit = network.vehicle, network.vehicle.circuits[circuit_id]
    solved = profile(vehicle, circuit, rules)
    own_steps = ladders(vehicle, circuit, solved, rules)
    steps = ladders(vehicle, circuit, solved, rules, series) if series else own_steps
    return CircuitView(
        job_id=job_id,
        circuit=circuit_out(network, circuit),
        points=points_out(network),
        segments=[segment_out(network, vehicle.segments[leg.segment_id], circuit) for leg in solved.legs],
        supply_stations=list(stations(vehicle, circuit, "supply")),
        return_stations=list(stations(vehicle, circuit, "return")),
        profile=solved,
        findings=list(findings(vehicle, circuit, solved, own_steps, rules)),
        ladders=list(steps.values()),
    )


def board_line(network: Network, circuit: Circuit, rules: HouseRules) -> BoardLine:
    """The line of one circuit."""
    return BoardLine(circuit=circuit_out(network, circuit), profile=profile(network.vehicle, circuit, rules))


def points_out(network: Network) -> list[PointOut]:
    """Every point of the job, by name."""
    points = sorted(network.vehicle.points.values(), key=lambda point: point.name)
    return [PointOut(id=point.id, name=point.name, version=network.versions[point.id]) for point in points]


def segment_out(network: Network, segment: Segment, beside: Circuit | None = None) -> SegmentOut:
    """A segment; ``beside`` is the circuit it is shown in, which its sharing leaves out."""
    return SegmentOut(
        id=segment.id,
        designation=segment.designation,
        from_point=segment.from_point,
        to_point=segment.to_point,
        spec=segment.spec,
        description=describe(segment.spec),
        shared_with=sorted(
            other.name
            for other in network.vehicle.circuits.values()
            if (beside is None or other.id != beside.id) and segment.id in (*other.supply, *other.return_path)
        ),
        version=network.versions[segment.id],
    )


def circuit_out(network: Network, circuit: Circuit) -> CircuitOut:
    """A circuit's stored values."""
    return CircuitOut(
        id=circuit.id,
        name=circuit.name,
        family=circuit.family,
        device=circuit.device,
        design_current_a=circuit.design_current_a,
        source_v=circuit.source_v,
        state=circuit.state,
        target_kind=circuit.target.kind,
        target_value=circuit.target.value,
        typed=dict(circuit.typed),
        source_point=circuit.source_point,
        supply=list(circuit.supply),
        return_point=circuit.return_point,
        return_path=list(circuit.return_path),
        version=network.versions[circuit.id],
    )


def with_unsaved(vehicle: Vehicle, changes: dict[str, dict[str, Any]]) -> Vehicle:
    """The vehicle with some segments' specs changed, by id; unknown ids are left out. Raises ValidationError."""
    changed = {
        segment_id: replace(segment, spec=changed_spec(segment.spec, change))
        for segment_id, change in changes.items()
        if (segment := vehicle.segments.get(segment_id))
    }
    return replace(vehicle, segments={**vehicle.segments, **changed})
