"""What the screens show of states: cells of the matrix, a path as a route, the proof, pulled parts, a drive."""

from collections.abc import Iterable, Sequence
from typing import Any, Literal

from pydantic import BaseModel

from percorso.findings.finding import Remedy
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.states.cures import cures
from percorso.states.forbidden import What
from percorso.states.matrix import Cell, Does, cell_of, matrix
from percorso.states.paths import Held, Hop, Why, why
from percorso.states.proof import Forbidden, HowOften, Proof, replayed
from percorso.states.pulling import Effect, Pulled, PulledEffect
from percorso.states.time_line import Event, time_line
from percorso.states.words import EFFECT_NAMES, forbidden_text, meant_text, scope_text, way_text
from percorso.vehicle.devices import Alternator, Battery, RelayCoil
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Vehicle, in_order
from percorso.vehicle.segments import SegmentSpec, describe
from percorso.vehicle.states import State, Step, positions, written_way
from percorso_server.network.rows_out import InputOut, inputs_out
from percorso_server.network.solving import JobNetwork, Viewed

Group = Literal["consumer", "relay", "source"]
GROUPS: tuple[Group, ...] = ("consumer", "relay", "source")


class RowName(BaseModel):
    """A device as a row is headed."""

    id: str
    designation: str
    name: str
    group: Group


class StateRow(RowName):
    """One device in every state; ``meant`` in words, and its states as they are set, where it is a load."""

    version: int
    meant: str
    runs_in: list[State] | None
    rests_in: list[State] | None
    cells: list[Cell]


class MatrixView(BaseModel):
    """Every device, what is used first; ``inputs`` as they stand in the state that is looked at."""

    inputs: list[InputOut]
    rows: list[StateRow]


def matrix_view(network: JobNetwork, solved: Network, view: Viewed) -> MatrixView:
    """The matrix of the network that is looked at."""
    cells = matrix(solved, view.chosen())
    devices = in_order(solved.vehicle.devices.values())
    rows = [_row(network, each, cells) for each in devices]
    return MatrixView(
        inputs=inputs_out(network, positions(network.vehicle.inputs, view.state, view.chosen())),
        rows=sorted(rows, key=lambda row: GROUPS.index(row.group)),
    )


def _row(network: JobNetwork, device: Device, cells: Iterable[Cell]) -> StateRow:
    spec = device.spec if isinstance(device.spec, Load) else None
    return StateRow(
        **_heading(device),
        version=network.versions.get(device.id, 0),
        meant=meant_text(device.spec),
        runs_in=list(spec.runs_in) if spec else None,
        rests_in=list(spec.rests_in) if spec else None,
        cells=[each for each in cells if each.device_id == device.id],
    )


def _heading(device: Device) -> dict[str, Any]:
    """What heads a device's row: what is used first, then relays, then sources."""
    kinds = (("source", Battery | Alternator), ("relay", RelayCoil))
    group = next((name for name, kind in kinds if isinstance(device.spec, kind)), "consumer")
    return {"id": device.id, "designation": device.designation, "name": device.name, "group": group}


class HopView(BaseModel):
    """A piece of a path as the route strip draws it; ``spec`` is None for a device that the current passes through."""

    id: str
    designation: str
    description: str
    spec: SegmentSpec | None
    from_name: str
    to_name: str
    current_a: float
    is_open: bool


class HeldView(BaseModel):
    """What holds a contact, in words, and the path of its coil's current."""

    designation: str
    is_open: bool
    says: str
    why: "WhyView | None"


class WhyView(BaseModel):
    """The path of a part's current: from a source out to it, and back. ``flows``: current takes it."""

    part: str
    designation: str
    name: str
    source: str
    flows: bool
    does: Does | None
    voltage_v: float | None
    current_a: float | None
    out: list[HopView]
    back: list[HopView]
    held: list[HeldView]


def why_view(solution: Solution, part: str) -> WhyView:
    """Why a device does what it does in a solved state, or what a segment's current passes."""
    return _why_view(solution, why(solution, part))


def _why_view(solution: Solution, path: Why) -> WhyView:
    vehicle = solution.vehicle
    device = vehicle.devices.get(path.part)
    result = solution.devices.get(path.part)
    source = vehicle.devices.get(path.source or "")
    return WhyView(
        part=path.part,
        designation=(device or vehicle.segments[path.part]).designation,
        name=device.name if device else describe(vehicle.segments[path.part].spec),
        source=f"{source.designation} {source.name}" if source else "",
        flows=path.flows,
        does=_does(solution, device),
        voltage_v=result.voltage_v if result else None,
        current_a=result.current_a if result else solution.flow_a.get(path.part),
        out=[_hop(vehicle, each) for each in path.out],
        back=[_hop(vehicle, each) for each in path.back],
        held=[_held(solution, each) for each in path.held],
    )


def _does(solution: Solution, device: Device | None) -> Does | None:
    return cell_of(solution, device.id).does if device else None


def _hop(vehicle: Vehicle, hop: Hop) -> HopView:
    segment = vehicle.segments.get(hop.part)
    return HopView(
        id=hop.part,
        designation=(segment or vehicle.devices[hop.part]).designation,
        description=describe(segment.spec) if segment else vehicle.devices[hop.part].name,
        spec=segment.spec if segment else None,
        from_name=vehicle.points[hop.start].name,
        to_name=vehicle.points[hop.end].name,
        current_a=hop.current_a,
        is_open=hop.is_open,
    )


def _held(solution: Solution, held: Held) -> HeldView:
    return HeldView(
        designation=solution.vehicle.segments[held.segment_id].designation,
        is_open=held.is_open,
        says=held.says,
        why=_why_view(solution, held.why) if held.why else None,
    )


class ForbiddenView(BaseModel):
    """Something that must not happen: in words, the way to it, the path there, and what may cure it.

    ``steps`` is the way as a drive takes it. ``gone_as_planned`` is of what was found, where something is planned.
    """

    what: What
    part: str
    says: str
    way: list[str]
    steps: str
    state: State
    count: int
    states: list[State]
    gone_as_planned: bool | None
    why: WhyView | None
    cures: list[Remedy]


class OftenView(BaseModel):
    """How often a device runs in a state, over every position of every switch."""

    device_id: str
    state: State
    runs: HowOften


class ProofView(BaseModel):
    """What was tried, what was found, and how often each device runs."""

    tried: str
    situations: int
    forbidden: list[ForbiddenView]
    often: list[OftenView]


def proof_view(proof: Proof, planned: Proof, rules: HouseRules) -> ProofView:
    """A proof as a screen shows it, beside that of the plan, which is the same where the plan is looked at.

    What can be tried changes the plan: it is offered against what the plan does not cure.
    """
    often = (OftenView(device_id=device, state=state, runs=runs) for (device, state), runs in proof.runs.items())
    return ProofView(
        tried=scope_text(proof.scope),
        situations=proof.situations,
        forbidden=[_forbidden(proof, planned, each, rules) for each in proof.forbidden],
        often=list(often),
    )


def _forbidden(proof: Proof, planned: Proof, forbidden: Forbidden, rules: HouseRules) -> ForbiddenView:
    vehicle = proof.network.vehicle
    same = (each for each in planned.forbidden if (each.what, each.part) == (forbidden.what, forbidden.part))
    as_planned = next(same, None)
    return ForbiddenView(
        what=forbidden.what,
        part=forbidden.part,
        says=forbidden_text(vehicle, forbidden),
        way=list(way_text(vehicle, forbidden.way)),
        steps=written_way(forbidden.way),
        state=forbidden.state,
        count=forbidden.count,
        states=list(forbidden.states),
        gone_as_planned=None if proof is planned else as_planned is None,
        why=why_view(replayed(proof, forbidden), forbidden.part) if forbidden.part else None,
        cures=list(cures(planned, as_planned, rules)) if as_planned else [],
    )


class EffectView(BaseModel):
    """What becomes of one device when a part is out, in which states; ``through`` is what keeps it on."""

    device_id: str
    designation: str
    name: str
    effect: Effect
    effect_name: str
    states: list[State]
    through: list[str]


class PulledView(BaseModel):
    """A part taken out, and what it changes; what stays as it was is left out."""

    part: str
    designation: str
    description: str
    effects: list[EffectView]


def pulled_views(vehicle: Vehicle, pulled: Sequence[Pulled]) -> list[PulledView]:
    """What each part does when it is out."""
    return [_pulled(vehicle, each) for each in pulled]


def _pulled(vehicle: Vehicle, pulled: Pulled) -> PulledView:
    part = vehicle.segments.get(pulled.part)
    device = vehicle.devices.get(pulled.part)
    found: dict[tuple[str, Effect], list[PulledEffect]] = {}
    for each in pulled.changes:
        if each.effect != "as before":
            found.setdefault((each.before.device_id, each.effect), []).append(each)
    return PulledView(
        part=pulled.part,
        designation=part.designation if part else device.designation if device else "",
        description=describe(part.spec) if part else device.name if device else "",
        effects=[_effect(vehicle, changes) for changes in found.values()],
    )


def _effect(vehicle: Vehicle, changes: Sequence[PulledEffect]) -> EffectView:
    first = changes[0]
    device = vehicle.devices[first.before.device_id]
    through = first.through.parts if first.through else ()
    return EffectView(
        device_id=device.id,
        designation=device.designation,
        name=device.name,
        effect=first.effect,
        effect_name=EFFECT_NAMES[first.effect],
        states=[each.before.state for each in changes],
        through=[(vehicle.devices.get(each) or vehicle.segments[each]).designation for each in through],
    )


class EventView(BaseModel):
    """What a device does on the way to a step."""

    device_id: str
    designation: str
    name: str
    event: Event


class StepView(BaseModel):
    """One step of a drive: what every device does and gets, and what happened on the way there."""

    state: State
    chosen: dict[str, str]
    running_on: bool
    cells: list[Cell]
    events: list[EventView]


class DriveView(BaseModel):
    """A drive step by step, and the names of its devices."""

    steps: list[StepView]
    rows: list[RowName]


def _event(device: Device, event: Event) -> EventView:
    return EventView(device_id=device.id, designation=device.designation, name=device.name, event=event)


def drive_view(network: Network, way: Sequence[Step]) -> DriveView:
    """A way through the states. Raises StateError where key and engine cannot go so."""
    devices = network.vehicle.devices
    rows = [RowName(**_heading(each)) for each in in_order(devices.values())]
    return DriveView(
        rows=sorted(rows, key=lambda row: GROUPS.index(row.group)),
        steps=[
            StepView(
                state=moment.step.state,
                chosen=dict(moment.step.chosen),
                running_on=moment.running_on,
                cells=list(moment.cells),
                events=[_event(devices[each], event) for each, event in moment.events],
            )
            for moment in time_line(network, way)
        ],
    )
