"""What there is to say about a whole circuit after sizing: why its target is out of reach, and the ways out."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from percorso.components.conductors import ConductorSize
from percorso.sizing.limits import CircuitRule
from percorso.sizing.rounds import Round
from percorso.vehicle.model import Circuit
from percorso.vehicle.resistance import is_bad_connection


@dataclass(frozen=True)
class CircuitAdvice:
    """A circuit with the recommended sizes: what it loses and what it may.

    ``problem`` says why its target is out of reach, ``ways_out`` what would bring it within. ``others_v`` is what other
    circuits' current loses besides on metal it shares, ``note`` says so where that leaves too little.
    """

    circuit_id: str
    name: str
    drop_v: float
    allowed_drop_v: float
    problem: str = ""
    ways_out: tuple[str, ...] = ()
    others_v: float = 0.0
    note: str = ""


def circuit_advice(task: Round, sizes: Mapping[str, ConductorSize], circuit: Circuit) -> CircuitAdvice:
    """What there is to say about a circuit with the ``sizes`` of the last round."""
    rule = next(each for each in task.rules_of_circuits if each.circuit.id == circuit.id)
    short = task.out_of_reach.get(circuit.id)
    blocked = [
        f"{task.vehicle.segments[each].designation}: {task.wires[each].blocked}"
        for each in circuit.whole_path
        if each in task.wires and task.wires[each].blocked
    ]
    problem = _why_out_of_reach(task, short) if short else "; ".join(blocked)
    ways_out = (*_heavier_ends(task, circuit, rule), *(_ways_out(task, short) if short else ()))
    used = rule.used(task.wires, sizes)
    others_v, note = _lost_by_others(task, sizes, circuit, rule)
    if not problem and _without_margin(task, rule):
        close = "no size that goes in keeps the margin of the house, so it lands close"
        note = f"{close}; {note}" if note else close
    return CircuitAdvice(circuit.id, circuit.name, used, rule.allowed, problem, ways_out, others_v, note)


def _without_margin(task: Round, rule: CircuitRule) -> bool:
    """Whether a circuit is held to all it may lose, because no size leaves it the house's margin."""
    return rule.most > task.rules.aimed_fraction(rule.circuit.family) * rule.allowed * (1 + 1e-9)


def _heavier_ends(task: Round, circuit: Circuit, rule: CircuitRule) -> Iterator[str]:
    """What the wires of a circuit would have to go into for the sizes they want."""
    wires = [task.wires[each] for each in circuit.whole_path if each in task.wires]
    short = task.out_of_reach.get(circuit.id)
    reachable = short is not None and short.criterion == "voltage drop" and short.fixed < short.most
    if reachable or _without_margin(task, rule) or any(wire.blocked for wire in wires):
        heavier = dict.fromkeys(end.heavier for wire in wires if wire.narrow for end in wire.duty.ends if end.heavier)
        if heavier:
            yield f"thicker wire with {', '.join(heavier)}"


def _lost_by_others(
    task: Round, sizes: Mapping[str, ConductorSize], circuit: Circuit, rule: CircuitRule
) -> tuple[float, str]:
    """What others lose on metal a circuit shares, V, and what to say where they take its allowance."""
    lost = {
        leg.segment_id: (task.currents[circuit.id][leg.segment_id] - task.answered_a(circuit, leg))
        * task.leg_ohm(circuit, leg, sizes)
        for leg in task.legs(circuit)
    }
    others_v, used = sum(lost.values()), rule.used(task.wires, sizes)
    if used > rule.allowed or used + others_v <= rule.allowed:
        return others_v, ""
    most = max(lost, key=lambda each: lost[each])
    name = task.vehicle.segments[most].designation
    note = (
        f"other circuits drop {others_v:.2g} V more on what it shares with them, most of it on {name}: "
        f"repair or thicken {name}, or give it a return of its own"
    )
    return others_v, note


def _why_out_of_reach(task: Round, rule: CircuitRule) -> str:
    if rule.criterion == "short circuit":
        return "even the thickest wires let too little flow into a short at the far end to open the fuse in time"
    if rule.fixed >= rule.most:
        return (
            f"what is not wire (joints, contacts, fuses, body) alone drops {rule.fixed:.2g} V "
            f"of {rule.allowed:.2g} V allowed"
        )
    narrow = any(task.wires[each].narrow for each in rule.weight)
    which = "that fit their ends" if narrow else "made"
    return f"even the thickest wires {which} lose {task.least(rule):.2g} V of {rule.allowed:.2g} V allowed"


def _ways_out(task: Round, rule: CircuitRule) -> Iterator[str]:
    """What would bring a circuit within its target, with the figure of each."""
    used = task.least(rule)
    if rule.criterion == "short circuit":
        yield "a smaller fuse, or one more where the thin wire begins"
        return
    in_wires, left = used - rule.fixed, rule.most - rule.fixed
    yield f"allow {math.ceil(used * 100) / 100:.2f} V"
    if left > 0 and in_wires > 0:
        length = sum(task.wires[each].spec.length_m for each in rule.weight)
        yield f"shorten its {length:.3g} m of wire to {length * left / in_wires:.2g} m"
        ways = math.ceil(in_wires / left)
        if rule.circuit.family in ("ground", "starting"):
            yield f"take {ways} equal cables side by side"
        else:
            yield f"split the feed over {ways} equal ways side by side, each with its own fuse"
    if left <= 0:
        worst = sorted(_fixed_drops(task, rule), reverse=True)[:2]
        yield " and ".join(
            f"{'repair' if bad else 'reroute past'} {name} ({volts:.2g} V)" for volts, name, bad in worst
        )
    yield f"at twice the voltage the same power takes half the current and drops {used / 2:.2g} V"


def _fixed_drops(task: Round, rule: CircuitRule) -> Iterator[tuple[float, str, bool]]:
    """What each piece that no size changes loses, V, and whether it is a bad connection that wants mending."""
    for leg in task.legs(rule.circuit):
        if leg.segment_id not in rule.weight:
            drop = leg.resistance_ohm * leg.current_a
            segment = task.vehicle.segments[leg.segment_id]
            yield drop, segment.designation, is_bad_connection(segment.spec)
