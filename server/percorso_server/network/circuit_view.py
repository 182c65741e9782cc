"""What the screens show of circuits: rows, profile in the state looked at, forks, findings and size ladders."""

from dataclasses import replace
from typing import Literal

from pydantic import BaseModel

from percorso.circuits.comparison import Difference
from percorso.circuits.design_case import Planned
from percorso.circuits.glance import Glance, glance, running
from percorso.circuits.verdict import Verdict
from percorso.circuits.voltage_profile import NotLive, Profile
from percorso.components.conductors import Series
from percorso.findings.finding import Finding, concerns, gravest_first
from percorso.findings.overcurrent import GuardCheck, guard_checks
from percorso.findings.plan import circuit_findings
from percorso.findings.wires import WireFigures, wire_figures
from percorso.network.device_results import doing
from percorso.sizing.ladders import Ladder, ladders
from percorso.sizing.protection_zones import Guarding
from percorso.study import SolvedStage
from percorso.vehicle.model import Circuit, stations
from percorso_server.network.rows_out import CircuitOut, PointOut, SegmentOut, circuit_out, points_out, segment_out
from percorso_server.network.solving import JobNetwork, Viewed

Basis = Literal["state", "design"]


class CircuitView(BaseModel):
    """A circuit computed, with its profile as it runs in a state or at its design current (``basis``).

    ``why_not`` says why it is shown at its design current although its state was asked for; ``device_now`` what its
    device does in that state. ``beside`` are the segments of its forks; ``supply_stations`` and ``return_stations`` are
    point ids along each side.
    """

    job_id: str
    circuit: CircuitOut
    points: list[PointOut]
    segments: list[SegmentOut]
    beside: list[SegmentOut]
    supply_stations: list[str]
    return_stations: list[str]
    basis: Basis
    why_not: str
    device_now: str
    profile: Profile
    design_allowed_v: float
    difference: Difference | None
    findings: list[Finding]
    ladders: list[Ladder]
    heat: dict[str, WireFigures]
    checks: dict[str, list[GuardCheck]]


class BoardLine(BaseModel):
    """One circuit as a line of the board: in the state looked at, or at its design current where nothing feeds it.

    ``silent`` says why there is no loss to show; ``plan`` is the verdict at its design current, None where the route is
    not there at this stage.
    """

    circuit: CircuitOut
    plan: Verdict | None
    shown: Glance | None
    silent: str
    difference: Difference | None


def shown(network: JobNetwork, circuit_id: str, view: Viewed, basis: Basis) -> tuple[Profile, str]:
    """The profile to show, and why it is the one at design current although the state was asked for."""
    live = network.runs(circuit_id, view) if basis == "state" else NotLive("")
    return (network.designed(circuit_id, view.stage), live.reason) if isinstance(live, NotLive) else (live, "")


def circuit_view(
    network: JobNetwork,
    circuit_id: str,
    *,
    job_id: str,
    view: Viewed,
    basis: Basis,
    series: Series | None = None,
    ladder_of: str | None = None,
    compare: bool = True,
) -> CircuitView:
    """The view of one circuit; ``series`` chooses the sizes of its ladders (default: each wire's own).

    ``ladder_of`` names the one segment whose ladder is wanted; None: every one.
    """
    whole = network.plan(view.stage)
    is_there = circuit_id in whole.vehicle.circuits
    vehicle = whole.vehicle if is_there else network.vehicle
    circuit, plan = vehicle.circuits[circuit_id], network.designed(circuit_id, view.stage)
    profile, why_not = shown(network, circuit_id, view, basis)
    steps = ladders(replace(whole, vehicle=vehicle), circuit, plan, series, ladder_of)
    solved = network.seen(view) if basis == "state" else None
    beside = sorted({each for fork in profile.forks for each in fork.segment_ids})
    noticed = circuit_findings(whole, circuit) if is_there else ()
    live = solved.findings if solved and solved.is_fed else ()
    own = circuit.whole_path if is_there else ()
    prepared = network.at(view.stage, view.prepared()).vehicle.segments  # a jumper may lie beside, and is in no plan
    built = [each for each in (*own, *beside) if each in whole.vehicle.segments]
    about = [each for each in live if concerns(each, circuit, beside)]
    return CircuitView(
        job_id=job_id,
        circuit=circuit_out(network, network.vehicle.circuits[circuit_id]),
        points=points_out(network),
        segments=[segment_out(network, vehicle.segments[leg.segment_id], beside=circuit) for leg in profile.legs],
        beside=[segment_out(network, vehicle.segments.get(each) or prepared[each], beside=circuit) for each in beside],
        supply_stations=list(stations(vehicle, circuit, "supply")),
        return_stations=list(stations(vehicle, circuit, "return")),
        basis="design" if why_not else basis,
        why_not=why_not,
        device_now=_device_now(solved, circuit.device_id or ""),
        profile=profile,
        design_allowed_v=plan.allowed_drop_v,
        difference=network.difference(circuit_id, view.state, view.chosen()) if compare else None,
        findings=list(gravest_first((*noticed, *about), network.vehicle)),
        ladders=list(steps.values()),
        heat={each: figures for each in built if (figures := wire_figures(whole, each))} if own else {},
        checks={each: list(checks) for each in own if (checks := _checks(whole, circuit, each))},
    )


def _device_now(solved: SolvedStage | None, device_id: str) -> str:
    """What a circuit's device does in the state that is looked at; nothing where it is not there."""
    device = solved.vehicle.devices.get(device_id) if solved else None
    if solved is None or device is None:
        return ""
    result = solved.solution.devices[device_id]
    volts = "no known voltage" if result.voltage_v is None else f"{round(result.voltage_v, 1) or 0.0:.1f} V"
    return f"{device.name}: {doing(device.spec, result)}, {volts}"


def _checks(plan: Planned, circuit: Circuit, segment_id: str) -> tuple[GuardCheck, ...]:
    """The rules of a guard on the supply side; nothing for another piece."""
    segment = plan.vehicle.segments[segment_id]
    is_guard = isinstance(segment.spec, Guarding) and segment_id in circuit.supply
    return guard_checks(plan, circuit, segment) if is_guard else ()


def board_lines(network: JobNetwork, circuits: list[Circuit], view: Viewed) -> list[BoardLine]:
    """The lines of circuits."""
    return [_board_line(network, each, view) for each in circuits]


def _board_line(network: JobNetwork, circuit: Circuit, view: Viewed) -> BoardLine:
    solved, plan = network.seen(view), network.at_design_current(circuit.id, view.stage)
    live = network.runs(circuit.id, view)
    seen = glance(plan) if plan and not (solved and solved.is_fed) else running(live)
    return BoardLine(
        circuit=circuit_out(network, circuit),
        plan=plan and plan.verdict,
        shown=None if isinstance(seen, NotLive) else seen,
        silent=seen.reason if isinstance(seen, NotLive) else "",
        difference=network.difference(circuit.id, view.state, view.chosen()),
    )
