"""The rows of a network as the screens get them, each with what the solved state says of it."""

from pydantic import BaseModel

from percorso.network.device_results import DeviceResult, doing
from percorso.network.results import PointResult, SegmentResult
from percorso.study import SolvedStage
from percorso.targets import Family, TargetKind
from percorso.vehicle.access import Access
from percorso.vehicle.devices import DeviceKind
from percorso.vehicle.model import Circuit, Device, Fate, Known, Origin, Segment, passing
from percorso.vehicle.segments import SegmentSpec, describe
from percorso.vehicle.states import State
from percorso_server.network.solving import JobNetwork


class PointOut(BaseModel):
    """A point as stored, how one gets there (as said, and as is counted with), and its potential."""

    id: str
    name: str
    access: Access | None
    reached: Access
    version: int
    result: PointResult | None = None


class SegmentOut(BaseModel):
    """A segment as stored, a line that describes it, the circuits that pass it, and what it carries.

    ``shared_with`` leaves out the circuit it is shown in. ``result`` is None where it is not there at this stage.
    """

    id: str
    designation: str
    from_point: str
    to_point: str
    spec: SegmentSpec
    origin: Origin
    fate: Fate
    access: Access | None
    known: Known
    description: str
    shared_with: list[str]
    version: int
    result: SegmentResult | None = None


class DeviceOut(BaseModel):
    """A device as stored and what it does, in figures and in a word; without them it is not there at this stage."""

    id: str
    designation: str
    name: str
    terminals: dict[str, str]
    spec: DeviceKind
    origin: Origin
    fate: Fate
    access: Access | None
    known: Known
    version: int
    result: DeviceResult | None = None
    doing: str = ""


class InputOut(BaseModel):
    """A named condition as stored, and where it stands now."""

    key: str
    name: str
    positions: list[str]
    by_state: dict[State, str]
    fixed_in: list[State]
    position: str
    version: int


class CircuitOut(BaseModel):
    """A circuit as stored."""

    id: str
    name: str
    family: Family
    device: str
    device_id: str | None
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


def points_out(network: JobNetwork, solved: SolvedStage | None = None) -> list[PointOut]:
    """Every point of the job, by name."""
    results = solved.solution.points if solved else {}
    return [
        PointOut(
            id=point.id,
            name=point.name,
            access=point.access,
            reached=network.vehicle.access_to_point(point.id),
            version=network.versions.get(point.id, 0),
            result=results.get(point.id),
        )
        for point in sorted(network.vehicle.points.values(), key=lambda each: each.name)
    ]


def segment_out(
    network: JobNetwork, segment: Segment, solved: SolvedStage | None = None, beside: Circuit | None = None
) -> SegmentOut:
    """A segment; ``beside`` is the circuit it is shown in, which its sharing leaves out."""
    return SegmentOut(
        id=segment.id,
        designation=segment.designation,
        from_point=segment.from_point,
        to_point=segment.to_point,
        spec=segment.spec,
        origin=segment.origin,
        fate=segment.fate,
        access=segment.access,
        known=segment.known,
        description=describe(segment.spec),
        shared_with=sorted(
            other.name for other in passing(network.vehicle, segment.id) if beside is None or other.id != beside.id
        ),
        version=network.versions.get(segment.id, 0),
        result=solved.solution.segments.get(segment.id) if solved else None,
    )


def device_out(network: JobNetwork, device: Device, solved: SolvedStage | None) -> DeviceOut:
    """A device."""
    result = solved.solution.devices.get(device.id) if solved else None
    return DeviceOut(
        id=device.id,
        designation=device.designation,
        name=device.name,
        terminals=dict(device.terminals),
        spec=device.spec,
        origin=device.origin,
        fate=device.fate,
        access=device.access,
        known=device.known,
        version=network.versions[device.id],
        result=result,
        doing=doing(device.spec, result) if result else "",
    )


def inputs_out(network: JobNetwork, positions: dict[str, str]) -> list[InputOut]:
    """Every input of the job, by name, and where each stands."""
    return [
        InputOut(
            key=each.id,
            name=each.name,
            positions=list(each.positions),
            by_state=dict(each.by_state),
            fixed_in=list(each.fixed_in),
            position=positions[each.id],
            version=network.versions[each.id],
        )
        for each in sorted(network.vehicle.inputs.values(), key=lambda each: each.name)
    ]


def circuit_out(network: JobNetwork, circuit: Circuit) -> CircuitOut:
    """A circuit's stored values."""
    return CircuitOut(
        id=circuit.id,
        name=circuit.name,
        family=circuit.family,
        device=circuit.device,
        device_id=circuit.device_id,
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
