"""Carries out edits on a vehicle: what is tried, and what is kept."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from functools import singledispatch
from typing import TypeVar

from percorso.changes import edits as of
from percorso.changes.parts import (
    remove_device,
    remove_drive,
    remove_input,
    remove_scenario,
    with_device,
    with_drive,
    with_input,
    with_scenario,
)
from percorso.changes.routes import (
    Insertion,
    insert_segment,
    joint_name,
    lead_over,
    move_segment,
    named_point,
    remove_circuit,
    remove_point,
    remove_segment,
    split_wire,
    with_circuit,
    with_segments,
    with_values,
)
from percorso.errors import PathError
from percorso.house_rules import HouseRules
from percorso.planning.new_circuit import lay_circuit
from percorso.planning.templates import answered, lay_starter
from percorso.sizing.search import recommend
from percorso.vehicle.alternators import scaled
from percorso.vehicle.devices import Alternator, changed_device, new_device
from percorso.vehicle.model import Circuit, Device, Point, Segment, Vehicle, next_designation
from percorso.vehicle.segments import SEGMENT_SPEC, changed_spec
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import Input
from percorso.vehicle.values import circuit_from, drive_from, input_from, scenario_from

NewId = Callable[[], str]
_Part = TypeVar("_Part", Point, Segment, Device, Circuit, Input)


@dataclass(frozen=True)
class _At:
    """Where an edit is carried out: the vehicle as it is before it, and what it takes to make new parts."""

    vehicle: Vehicle
    rules: HouseRules
    new_id: NewId


def edited(vehicle: Vehicle, edits: Iterable[of.Edit], rules: HouseRules, new_id: NewId) -> Vehicle:
    """The vehicle with edits carried out one after the other.

    Raises PathError where one names what is not there or breaks a circuit, AnswersError for a starter's answers,
    another PercorsoError or pydantic's ValidationError for wrong values.
    """
    for edit in edits:
        vehicle = _carried_out(edit, _At(vehicle, rules, new_id))
    return vehicle


@singledispatch
def _carried_out(edit: object, at: _At) -> Vehicle:
    raise TypeError(f"{type(edit).__name__} cannot be carried out")


@_carried_out.register
def _(edit: of.AddPoint, at: _At) -> Vehicle:
    point = Point(edit.id or at.new_id(), edit.name)
    return replace(at.vehicle, points={**at.vehicle.points, point.id: point})


@_carried_out.register
def _(edit: of.RenamePoint, at: _At) -> Vehicle:
    point = replace(_found(at.vehicle.points, edit.point_id, "point"), name=edit.name)
    return replace(at.vehicle, points={**at.vehicle.points, point.id: point})


@_carried_out.register
def _(edit: of.RemovePoint, at: _At) -> Vehicle:
    return remove_point(at.vehicle, edit.point_id)


@_carried_out.register
def _(edit: of.AddSegment, at: _At) -> Vehicle:
    return with_segments(at.vehicle, [_new_segment(edit, edit.from_point, edit.to_point, at)])


@_carried_out.register
def _(edit: of.InsertSegment, at: _At) -> Vehicle:
    piece = _new_segment(edit, "", "", at)
    name = edit.point_name or joint_name(at.vehicle, piece, after=edit.after)
    return insert_segment(
        at.vehicle, Insertion(edit.circuit_id, edit.beside, edit.after), piece, Point(at.new_id(), name)
    )


@_carried_out.register
def _(edit: of.ChangeSegment, at: _At) -> Vehicle:
    before = _found(at.vehicle.segments, edit.segment_id, "segment")
    after = replace(
        before,
        designation=edit.designation or before.designation,
        from_point=edit.from_point or before.from_point,
        to_point=edit.to_point or before.to_point,
        origin=edit.origin or before.origin,
        fate=edit.fate or before.fate,
        known=edit.known_after(before.known),
        spec=changed_spec(before.spec, edit.change),
    )
    return with_segments(at.vehicle, [after])


@_carried_out.register
def _(edit: of.RemoveSegment, at: _At) -> Vehicle:
    return remove_segment(at.vehicle, edit.segment_id)


@_carried_out.register
def _(edit: of.MoveSegment, at: _At) -> Vehicle:
    vehicle = at.vehicle
    for _step in range(abs(edit.steps)):
        vehicle = move_segment(vehicle, edit.circuit_id, edit.segment_id, 1 if edit.steps > 0 else -1)
    return vehicle


@_carried_out.register
def _(edit: of.MoveEnd, at: _At) -> Vehicle:
    segment = _found(at.vehicle.segments, edit.segment_id, "segment")
    if edit.from_point not in (segment.from_point, segment.to_point):
        raise PathError(f"{segment.designation} does not end there", field=("from_point",))
    first, second = (edit.to_point if end == edit.from_point else end for end in (segment.from_point, segment.to_point))
    moved = replace(segment, from_point=first, to_point=second)
    circuits = {
        each.id: replace(each, source_point=edit.to_point)
        if each.supply[:1] == (segment.id,) and each.source_point == edit.from_point
        else each
        for each in at.vehicle.circuits.values()
    }
    return with_segments(replace(at.vehicle, circuits=circuits), [moved])


@_carried_out.register
def _(edit: of.SplitWire, at: _At) -> Vehicle:
    segment = _found(at.vehicle.segments, edit.segment_id, "segment")
    piece = replace(segment, id=at.new_id(), designation=next_designation(at.vehicle, "W"))
    name = edit.point_name or joint_name(at.vehicle, piece, after=True)
    return split_wire(at.vehicle, segment, edit.first_m, piece, Point(at.new_id(), name))


@_carried_out.register
def _(edit: of.SetFate, at: _At) -> Vehicle:
    segment = _found(at.vehicle.segments, edit.segment_id, "segment")
    return with_segments(at.vehicle, [replace(segment, fate=edit.fate)])


@_carried_out.register
def _(edit: of.SetAccess, at: _At) -> Vehicle:
    vehicle = at.vehicle
    match edit.of:
        case "point":
            point = replace(_found(vehicle.points, edit.id, "point"), access=edit.access)
            return replace(vehicle, points={**vehicle.points, point.id: point})
        case "segment":
            return with_segments(vehicle, [replace(_found(vehicle.segments, edit.id, "segment"), access=edit.access)])
    return with_device(vehicle, replace(_found(vehicle.devices, edit.id, "device"), access=edit.access))


@_carried_out.register
def _(edit: of.AddDevice, at: _At) -> Vehicle:
    spec = new_device(edit.spec, at.vehicle.nominal_v)
    vehicle, terminals = _with_points(at, edit.terminals)
    designation = edit.designation or next_designation(vehicle, spec.LETTER)
    made = Device(edit.id or at.new_id(), designation, edit.name, terminals, spec, origin=edit.origin, fate=edit.fate)
    return with_device(vehicle, made)


@_carried_out.register
def _(edit: of.ChangeDevice, at: _At) -> Vehicle:
    before = _found(at.vehicle.devices, edit.device_id, "device")
    vehicle, terminals = at.vehicle, dict(before.terminals)
    if edit.terminals is not None:
        vehicle, terminals = _with_points(at, edit.terminals)
    after = replace(
        before,
        designation=edit.designation or before.designation,
        name=edit.name or before.name,
        terminals=terminals,
        origin=edit.origin or before.origin,
        fate=edit.fate or before.fate,
        known=edit.known_after(before.known),
        spec=changed_device(before.spec, edit.change),
    )
    return with_device(vehicle, after)


@_carried_out.register
def _(edit: of.RemoveDevice, at: _At) -> Vehicle:
    return remove_device(at.vehicle, _found(at.vehicle.devices, edit.device_id, "device").id)


@_carried_out.register
def _(edit: of.MoveTerminals, at: _At) -> Vehicle:
    device = _found(at.vehicle.devices, edit.device_id, "device")
    return with_device(at.vehicle, replace(device, terminals={**device.terminals, **edit.terminals}))


@_carried_out.register
def _(edit: of.ScaleAlternator, at: _At) -> Vehicle:
    device = _found(at.vehicle.devices, edit.device_id, "device")
    if not isinstance(device.spec, Alternator):
        raise PathError(f"{device.name} is no alternator", field=("device_id",))
    return with_device(at.vehicle, replace(device, spec=scaled(device.spec, edit.at_6000_a)))


@_carried_out.register
def _(edit: of.AddInput, at: _At) -> Vehicle:
    if edit.id in at.vehicle.inputs:
        raise PathError(f'there is already an input "{edit.id}"', field=("id",))
    return with_input(at.vehicle, input_from(edit, edit.id))


@_carried_out.register
def _(edit: of.ChangeInput, at: _At) -> Vehicle:
    return with_input(at.vehicle, input_from(edit, _found(at.vehicle.inputs, edit.input_id, "input").id))


@_carried_out.register
def _(edit: of.RemoveInput, at: _At) -> Vehicle:
    return remove_input(at.vehicle, _found(at.vehicle.inputs, edit.input_id, "input").id)


@_carried_out.register
def _(edit: of.LayCircuit, at: _At) -> Vehicle:
    return lay_circuit(at.vehicle, edit, edit.id or at.new_id(), at.rules, at.new_id)


@_carried_out.register
def _(edit: of.StartRoute, at: _At) -> Vehicle:
    starter = answered(edit.starter, edit.answers)
    laid, first = lay_starter(at.vehicle, starter, at.rules, at.new_id, edit.series)
    return laid if edit.id is None else _with_circuit_as(laid, first, edit.id)


@_carried_out.register
def _(edit: of.ChangeCircuit, at: _At) -> Vehicle:
    before = _found(at.vehicle.circuits, edit.circuit_id, "circuit")
    after = circuit_from(
        edit,
        id=before.id,
        source_point=before.source_point,
        supply=before.supply,
        return_point=before.return_point,
        return_path=before.return_path,
        device_id=edit.device_id,
    )
    return with_circuit(at.vehicle, after)


@_carried_out.register
def _(edit: of.LeadOver, at: _At) -> Vehicle:
    return lead_over(at.vehicle, edit.circuit_id, edit.segment_ids)


@_carried_out.register
def _(edit: of.RouteCircuit, at: _At) -> Vehicle:
    after = replace(
        _found(at.vehicle.circuits, edit.circuit_id, "circuit"),
        source_point=edit.source_point,
        supply=edit.supply,
        return_point=edit.return_point,
        return_path=edit.return_path,
    )
    return with_circuit(at.vehicle, after)


@_carried_out.register
def _(edit: of.SetDesignCurrent, at: _At) -> Vehicle:
    circuit = _found(at.vehicle.circuits, edit.circuit_id, "circuit")
    texts = {name: text for name, text in circuit.typed.items() if name != "design_current_a"}
    return with_circuit(at.vehicle, replace(circuit, design_current_a=edit.current_a, typed=texts))


@_carried_out.register
def _(edit: of.ResizeCircuit, at: _At) -> Vehicle:
    planned = vehicle_at(at.vehicle, "planned")
    if edit.circuit_id not in planned.circuits:
        raise PathError("this job does not have that circuit as planned", field=("circuit_id",))
    return with_values(at.vehicle, recommend(planned, at.rules, [edit.circuit_id]).changes)


@_carried_out.register
def _(edit: of.RemoveCircuit, at: _At) -> Vehicle:
    return remove_circuit(at.vehicle, edit.circuit_id)


@_carried_out.register
def _(edit: of.SetScenario, at: _At) -> Vehicle:
    return with_scenario(at.vehicle, scenario_from(edit, edit.scenario_id))


@_carried_out.register
def _(edit: of.RemoveScenario, at: _At) -> Vehicle:
    return remove_scenario(at.vehicle, edit.scenario_id)


@_carried_out.register
def _(edit: of.SetDrive, at: _At) -> Vehicle:
    return with_drive(at.vehicle, drive_from(edit, edit.drive_id))


@_carried_out.register
def _(edit: of.RemoveDrive, at: _At) -> Vehicle:
    return remove_drive(at.vehicle, edit.drive_id)


def _new_segment(edit: of.AddSegment | of.InsertSegment, start: str, end: str, at: _At) -> Segment:
    spec = SEGMENT_SPEC.validate_python(edit.spec)
    designation = edit.designation or next_designation(at.vehicle, spec.LETTER)
    return Segment(edit.id or at.new_id(), designation, start, end, spec, origin=edit.origin, fate=edit.fate)


def _with_points(at: _At, names: dict[str, str]) -> tuple[Vehicle, dict[str, str]]:
    """The vehicle with every named point, and point ids by terminal mark."""
    vehicle, terminals = at.vehicle, {}
    for mark, name in names.items():
        vehicle, terminals[mark] = named_point(vehicle, name, at.new_id)
    return vehicle, terminals


def _with_circuit_as(vehicle: Vehicle, circuit_id: str, wanted: str) -> Vehicle:
    """The vehicle with one circuit under another id."""
    circuits = (replace(each, id=wanted) if each.id == circuit_id else each for each in vehicle.circuits.values())
    return replace(vehicle, circuits={each.id: each for each in circuits})


def _found(parts: Mapping[str, _Part], part_id: str, kind: str) -> _Part:
    if part_id not in parts:
        raise PathError(f"this job does not have that {kind}", field=(f"{kind}_id",))
    return parts[part_id]
