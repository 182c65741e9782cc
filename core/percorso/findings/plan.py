"""What the rules notice about a planned vehicle before anything is switched on: routes, wires, guards and contacts."""

from collections.abc import Iterator

from percorso.circuits.design_case import Planned
from percorso.findings.connections import connection_findings
from percorso.findings.contacts import switch_findings
from percorso.findings.finding import Finding, concerns, gravest_first
from percorso.findings.overcurrent import guard_findings
from percorso.findings.routes import (
    bypasses,
    forgotten_return,
    lamp_on_the_wrong_tap,
    over_target,
    thin_pieces,
    two_sizes,
)
from percorso.findings.shared_metal import sharing_findings
from percorso.findings.wire_ends import wire_end_findings
from percorso.findings.wires import hot_wires, soldered_ends, wrong_insulation
from percorso.vehicle.model import Circuit


def plan_findings(plan: Planned) -> tuple[Finding, ...]:
    """Every finding about a plan, the gravest first."""
    of_circuits = (each for circuit in plan.vehicle.circuits.values() for each in _of_circuit(plan, circuit))
    return gravest_first([*of_circuits, *vehicle_findings(plan)], plan.vehicle)


def circuit_findings(plan: Planned, circuit: Circuit) -> tuple[Finding, ...]:
    """Every finding about one circuit of a plan, the gravest first."""
    about = (each for each in vehicle_findings(plan.around(circuit)) if concerns(each, circuit))
    return gravest_first([*_of_circuit(plan, circuit), *about], plan.vehicle)


def _of_circuit(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    yield from over_target(plan, circuit)
    yield from guard_findings(plan, circuit)
    yield from sharing_findings(plan, circuit)
    yield from forgotten_return(plan, circuit)
    yield from thin_pieces(plan, circuit)
    yield from two_sizes(plan, circuit)
    yield from bypasses(plan, circuit)


def vehicle_findings(plan: Planned) -> Iterator[Finding]:
    """What the rules that are not about one circuit notice where the plan is looked at."""
    yield from hot_wires(plan)
    yield from wrong_insulation(plan)
    yield from soldered_ends(plan)
    yield from connection_findings(plan)
    yield from lamp_on_the_wrong_tap(plan)
    yield from switch_findings(plan)
    yield from wire_end_findings(plan)
