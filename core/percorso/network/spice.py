"""Writes one solved operating state as a SPICE netlist, so that anyone can check the numbers with another program."""

from collections.abc import Mapping
from typing import assert_never

from percorso.network.branches import Assembly, Branch
from percorso.network.laws import COLD_FILAMENT_SHARE, FILAMENT_EXPONENT, LEAK_S, LED_KNEE_V, THERMAL_V, LawOf
from percorso.network.operating_point import Network
from percorso.network.results import Solution

SENSE_GAIN = 1e7  # of the amplifier that stands for a regulator; its error is this much smaller than the voltage


def netlist(network: Network, solution: Solution) -> str:
    """SPICE text for a direct-current operating point of ``solution``, one that settled.

    Node numbers are listed with the points they stand for. Contacts, regulators and excitation are written as they
    settled; what is open is left out and named in a comment; a point that nothing holds is tied to node 0. The
    simulator is told where to start looking, which decides nothing: it lets go of that and finds its own balance.
    """
    assembly = network.assembly
    nodes = {point: f"n{number + 1}" for number, point in enumerate(assembly.numbers)}
    nodes |= {point: "0" for point in assembly.numbers if point == assembly.reference}
    return "\n".join(
        [
            f"* Percorso, state {solution.state}",
            *_inputs(solution),
            *_names(assembly, nodes),
            *_branches(assembly, solution, nodes),
            *_generators(assembly, solution, nodes),
            *_ties(assembly, solution, nodes),
            *_starts(solution, nodes),
            f".options reltol=1e-6 abstol=1e-10 vntol=1e-8 gmin={LEAK_S:g} itl1=1000",
            ".op",
            ".end",
            "",
        ]
    )


def _inputs(solution: Solution) -> list[str]:
    return [f"* {name}: {position}" for name, position in solution.modes.positions.items()]


def _names(assembly: Assembly, nodes: Mapping[str, str]) -> list[str]:
    points = assembly.vehicle.points
    return [f"* node {node} = point {point} {_plain(points[point].name)}" for point, node in nodes.items()]


def _plain(text: str) -> str:
    return " ".join(text.split())


def _branches(assembly: Assembly, solution: Solution, nodes: Mapping[str, str]) -> list[str]:
    lines = []
    for number, (branch, ohm) in enumerate(zip(assembly.branches, solution.ohm, strict=True), start=1):
        lines.append(f"* {_designation(assembly, branch)}")
        if branch.when is None or branch.when.closed(solution.modes):
            lines += _element(branch, ohm, number, nodes[branch.start], nodes[branch.end])
        else:
            lines[-1] += " (open)"
    return lines


def _designation(assembly: Assembly, branch: Branch) -> str:
    vehicle = assembly.vehicle
    owner = vehicle.segments.get(branch.owner) or vehicle.devices[branch.owner]
    return f"{_plain(owner.designation)} {branch.part}".strip()


def _element(branch: Branch, ohm: float, number: int, start: str, end: str) -> list[str]:
    if branch.law is None:
        return [f"R{number} {start} {end} {ohm:.12g}"]
    if branch.law.name == "diode":
        saturation, emission, _ = branch.law.parameters
        model = f".model D{number}m D(IS={saturation:.12g} N={emission / THERMAL_V:.12g})"
        return [f"D{number} {start} {end} D{number}m", model]
    across = f"V({start},{end})"
    return [f"B{number} {start} {end} I={_expression(branch.law, across)}"]


def _expression(law: LawOf, across: str) -> str:
    """The current law as an expression of the voltage across the element."""
    first, second, third = (f"{value:.12g}" for value in law.parameters)
    match law.name:
        case "two slopes":
            return f"{second}*min({across}-{first}, 0) + {third}*max({across}-{first}, 0)"
        case "saturating":
            return f"{across}*({third} + {second}/max(abs({across}), {first}))"
        case "filament":
            share = f"max(abs({across})/{first}, {COLD_FILAMENT_SHARE})"
            return f"{across}*{second}/{first}*pow({share}, {FILAMENT_EXPONENT - 1:.12g})"
        case "constant power":
            return f"{across}*{first}*pow(max(abs({across}), {second}), -2)"
        case "led":
            knee = f"({across}-{first})/{LED_KNEE_V}"
            soft = f"max({knee}, 0) + ln(1 + exp(-abs({knee})))"
            return f"{LED_KNEE_V}/{second}*({soft}) + {LEAK_S}*{across}"
        case "diode":
            raise ValueError("a diode is a part of the simulator's own")
        case _:
            assert_never(law.name)


def _generators(assembly: Assembly, solution: Solution, nodes: Mapping[str, str]) -> list[str]:
    lines = []
    for number, generator in enumerate(assembly.generators, start=1):
        mode = solution.regulation[generator.owner]
        name = assembly.vehicle.devices[generator.owner].designation
        plus, minus = nodes[generator.plus], nodes[generator.minus]
        lines.append(f"* {_plain(name)} is {mode}")
        if mode == "at its limit":
            lines.append(f"I{number} {minus} {plus} {generator.limit_a[solution.modes.engine]:.12g}")
        elif mode == "running away":
            lines.append(f"V{number} {plus} {minus} {generator.most_v[solution.modes.engine]:.12g}")
        elif mode == "regulating":
            sense = plus if generator.owner in solution.sense_open else nodes[generator.sense]
            lines += _regulator(number, plus, minus, sense, generator.setpoint_v)
    return lines


def _regulator(number: int, plus: str, minus: str, sense: str, setpoint_v: float) -> list[str]:
    """A source at the post itself, or an amplifier that holds the sensed point at the setpoint."""
    if sense == plus:
        return [f"V{number} {plus} {minus} {setpoint_v:.12g}"]
    target = f"set{number}"
    return [
        f"V{number} {target} {minus} {setpoint_v:.12g}",
        f"E{number} {plus} {minus} {target} {sense} {SENSE_GAIN:g}",
    ]


def _ties(assembly: Assembly, solution: Solution, nodes: Mapping[str, str]) -> list[str]:
    """A floating point is held by nothing; the simulator needs it held by something."""
    floating = [point for point in assembly.numbers if solution.points[point].floating]
    return [f"Rfloat{number} {nodes[point]} 0 1e12" for number, point in enumerate(floating, start=1)]


def _starts(solution: Solution, nodes: Mapping[str, str]) -> list[str]:
    """A first guess of each potential; many simulators do not find a supply that draws more the less it gets."""
    known = {nodes[point]: result.v for point, result in solution.points.items() if result.v is not None}
    return [f".nodeset V({node})={v:.6g}" for node, v in known.items() if node != "0"]
