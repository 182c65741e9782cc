"""Carries out edits on a vehicle: what a cure does when it is tried or kept."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from functools import singledispatch

from percorso.changes.edits import (
    AddDevice,
    AddSegment,
    ChangeDevice,
    ChangeSegment,
    Edit,
    InsertSegment,
    LeadOver,
    MoveEnd,
    MoveSegment,
    MoveTerminals,
    RemoveDevice,
    ResizeCircuit,
    ScaleAlternator,
    SetDesignCurrent,
    SetFate,
    SplitWire,
)
from percorso.changes.parts import remove_device, with_device
from percorso.changes.routes import (
    Insertion,
    insert_segment,
    joint_name,
    lead_over,
    move_segment,
    split_wire,
    with_circuit,
    with_segments,
)
from percorso.errors import PathError
from percorso.house_rules import HouseRules
from percorso.sizing.search import recommend
from percorso.vehicle.alternators import scaled
from percorso.vehicle.devices import DEVICE_LETTER, Alternator, changed_device, new_device
from percorso.vehicle.model import Device, Point, Segment, Vehicle, next_designation
from percorso.vehicle.segments import DESIGNATION_LETTER, SEGMENT_SPEC, changed_spec
from percorso.vehicle.stages import vehicle_at

NewId = Callable[[], str]


def edited(vehicle: Vehicle, edits: Iterable[Edit], rules: HouseRules, new_id: NewId) -> Vehicle:
    """The vehicle with edits carried out one after the other.

    Raises PathError where one names what is not there or breaks a circuit, pydantic's ValidationError for wrong values.
    """
    for edit in edits:
        vehicle = _carried_out(edit, vehicle, rules, new_id)
    return vehicle


@singledispatch
def _carried_out(edit: object, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    raise TypeError(f"{type(edit).__name__} cannot be carried out")


@_carried_out.register
def _(edit: ChangeSegment, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    segment = _segment(vehicle, edit.segment_id)
    return with_segments(vehicle, [replace(segment, spec=changed_spec(segment.spec, edit.change))])


@_carried_out.register
def _(edit: ChangeDevice, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    device = _device(vehicle, edit.device_id)
    return with_device(vehicle, replace(device, spec=changed_device(device.spec, edit.change)))


@_carried_out.register
def _(edit: AddDevice, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    spec = new_device(edit.spec, vehicle.nominal_v)
    designation = next_designation(vehicle, DEVICE_LETTER[spec.kind])
    return with_device(vehicle, Device(new_id(), designation, edit.name, {}, spec))


@_carried_out.register
def _(edit: RemoveDevice, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    return remove_device(vehicle, _device(vehicle, edit.device_id).id)


@_carried_out.register
def _(edit: ScaleAlternator, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    device = _device(vehicle, edit.device_id)
    if not isinstance(device.spec, Alternator):
        raise PathError(f"{device.name} is no alternator", field=("device_id",))
    return with_device(vehicle, replace(device, spec=scaled(device.spec, edit.at_6000_a)))


@_carried_out.register
def _(edit: InsertSegment, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    piece = _new_segment(vehicle, edit.spec, "", "", new_id)
    joint = Point(new_id(), joint_name(vehicle, piece, after=edit.after))
    return insert_segment(vehicle, Insertion(edit.circuit_id, edit.beside, edit.after), piece, joint)


@_carried_out.register
def _(edit: AddSegment, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    return with_segments(vehicle, [_new_segment(vehicle, edit.spec, edit.from_point, edit.to_point, new_id)])


@_carried_out.register
def _(edit: MoveSegment, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    for _step in range(abs(edit.steps)):
        vehicle = move_segment(vehicle, edit.circuit_id, edit.segment_id, 1 if edit.steps > 0 else -1)
    return vehicle


@_carried_out.register
def _(edit: MoveEnd, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    segment = _segment(vehicle, edit.segment_id)
    if edit.from_point not in (segment.from_point, segment.to_point):
        raise PathError(f"{segment.designation} does not end there", field=("from_point",))
    first, second = (edit.to_point if end == edit.from_point else end for end in (segment.from_point, segment.to_point))
    moved = replace(segment, from_point=first, to_point=second)
    circuits = {
        each.id: replace(each, source_point=edit.to_point)
        if each.supply[:1] == (segment.id,) and each.source_point == edit.from_point
        else each
        for each in vehicle.circuits.values()
    }
    return with_segments(replace(vehicle, circuits=circuits), [moved])


@_carried_out.register
def _(edit: MoveTerminals, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    device = _device(vehicle, edit.device_id)
    return with_device(vehicle, replace(device, terminals={**device.terminals, **edit.terminals}))


@_carried_out.register
def _(edit: SplitWire, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    segment = _segment(vehicle, edit.segment_id)
    piece = replace(segment, id=new_id(), designation=next_designation(vehicle, "W"))
    name = edit.point_name or joint_name(vehicle, piece, after=True)
    return split_wire(vehicle, segment, edit.first_m, piece, Point(new_id(), name))


@_carried_out.register
def _(edit: LeadOver, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    return lead_over(vehicle, edit.circuit_id, edit.segment_ids)


@_carried_out.register
def _(edit: SetFate, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    return with_segments(vehicle, [replace(_segment(vehicle, edit.segment_id), fate=edit.fate)])


@_carried_out.register
def _(edit: SetDesignCurrent, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    if edit.circuit_id not in vehicle.circuits:
        raise PathError("this job does not have that circuit", field=("circuit_id",))
    circuit = vehicle.circuits[edit.circuit_id]
    texts = {name: text for name, text in circuit.typed.items() if name != "design_current_a"}
    return with_circuit(vehicle, replace(circuit, design_current_a=edit.current_a, typed=texts))


@_carried_out.register
def _(edit: ResizeCircuit, vehicle: Vehicle, rules: HouseRules, new_id: NewId) -> Vehicle:
    planned = vehicle_at(vehicle, "planned")
    if edit.circuit_id not in planned.circuits:
        raise PathError("this job does not have that circuit as planned", field=("circuit_id",))
    changes = recommend(planned, rules, [edit.circuit_id]).changes
    resized = (ChangeSegment(segment_id=each, change=dict(change)) for each, change in changes.items())
    return edited(vehicle, resized, rules, new_id)


def _new_segment(vehicle: Vehicle, values: dict[str, object], start: str, end: str, new_id: NewId) -> Segment:
    spec = SEGMENT_SPEC.validate_python(values)
    designation = next_designation(vehicle, DESIGNATION_LETTER[spec.kind])
    return Segment(new_id(), designation, start, end, spec, origin="new")


def _segment(vehicle: Vehicle, segment_id: str) -> Segment:
    if segment_id not in vehicle.segments:
        raise PathError("this job does not have that segment", field=("segment_id",))
    return vehicle.segments[segment_id]


def _device(vehicle: Vehicle, device_id: str) -> Device:
    if device_id not in vehicle.devices:
        raise PathError("this job does not have that device", field=("device_id",))
    return vehicle.devices[device_id]
