"""The wiring between battery, alternator and consumers as one impedance matrix, with every feed switched on.

Seen from the battery's posts, the voltage at each consumer is the battery's less what all currents lose on the way:
U = V_battery − Z·I. Z comes from one solve of the conductance matrix in which both battery posts are held; entry (j, k)
is what one ampere through consumer k takes from consumer j, in their shared wires and grounds. What is not wired
hangs at the battery's posts and loses nothing.
"""

from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array
from percorso.load_budget.sources import Budgeted
from percorso.network.nodal import conductance_matrix, joined
from percorso.vehicle.alternators import output_limit_a
from percorso.vehicle.copper import segment_ohm
from percorso.vehicle.devices import Alternator
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.segments import is_switched


@dataclass(frozen=True)
class Distribution:
    """Impedances in Ω between the ``ports``: consumers in their order, then the starter, where there is one.

    ``between``: V lost at port j per A through port k, shape (ports, ports); ``raised``: V gained at each port per A of
    the alternator, (ports,). ``sense_lost`` and ``post_lost``: V lost where the regulator looks, and at the
    alternator's post, per A through each port, (ports,); ``sense_raised`` and ``post_raised``: V gained there per A of
    the alternator.
    """

    ports: tuple[Device, ...]
    between: Array
    raised: Array
    sense_lost: Array
    sense_raised: float
    post_lost: Array
    post_raised: float


def distribution(budget: Budgeted) -> Distribution:
    """The impedances of a stage's wiring, solved once for every state, scenario and charge."""
    ports = (*budget.consumers, *((budget.starter,) if budget.starter else ()))
    pairs = [_ends(each) for each in ports]
    pairs += _alternator_ends(budget.alternator)
    impedance = _impedance(budget, pairs, _usual_a(budget, len(pairs)))
    count = len(ports)
    sense, post = count + 1, count
    return Distribution(
        ports=ports,
        between=impedance[:count, :count],
        raised=impedance[:count, post],
        sense_lost=impedance[sense, :count],
        sense_raised=float(impedance[sense, post]),
        post_lost=impedance[post, :count],
        post_raised=float(impedance[post, post]),
    )


Ends = tuple[str, str] | None  # two points, None for what is not wired


def _ends(device: Device) -> Ends:
    plus, minus = device.spec.TERMINALS
    return (device.terminals[plus], device.terminals[minus]) if device.terminals else None


def _alternator_ends(device: Device | None) -> list[Ends]:
    """Its output, and where its regulator looks."""
    if device is None or not device.terminals:
        return [None, None]
    assert isinstance(device.spec, Alternator)
    post, case = device.terminals["B+"], device.terminals["B-"]
    return [(post, case), (device.terminals.get("S", post), case)]


def _held(budget: Budgeted) -> Ends:
    """The battery's posts; without a wired battery the alternator's."""
    found = next((each for each in (budget.battery, budget.alternator) if each and each.terminals), None)
    return _ends(found) if found else None


def _usual_a(budget: Budgeted, count: int) -> Array:
    """What warms the copper, A through each pair: every consumer draws for its share of the time, and the alternator
    gives that, if it can.
    """
    drawn = [spec.drawn_a * spec.duty_percent / 100 for spec in map(budget.load, budget.consumers)]
    usual_a, spec = np.zeros(count), budget.alternator.spec if budget.alternator else None
    usual_a[: len(drawn)] = drawn
    if isinstance(spec, Alternator):
        usual_a[-2] = -min(sum(drawn), output_limit_a(spec, spec.rpm("road")))
    return usual_a


def _impedance(budget: Budgeted, pairs: list[Ends], usual_a: Array) -> Array:
    """Impedance between pairs of points with copper as warm as ``usual_a`` through them makes it, Ω.

    0 for those that no wiring joins with the battery.
    """
    held = _held(budget)
    none = np.zeros((len(pairs), len(pairs)))
    if held is None:
        return none
    vehicle = budget.wired
    number = {point: place for place, point in enumerate(vehicle.points)}
    there = _conductors(vehicle)
    start = np.array([number[each.from_point] for each in there], dtype=int)
    end = np.array([number[each.to_point] for each in there], dtype=int)
    island = joined(np.arange(len(number)), start, end)
    posts = [number[each] for each in held]
    if island[posts[0]] == island[posts[1]]:
        return none  # closing every feed joins plus and minus: two of them are never on at once
    fixed = np.isin(island, island[posts])
    linked = np.array([pair is not None and all(fixed[number[each]] for each in pair) for pair in pairs])
    free = np.flatnonzero(fixed & ~np.isin(np.arange(len(number)), posts))
    unit = np.zeros((len(number), len(pairs)))  # 1 A through each pair
    for place, pair in enumerate(pairs):
        if pair is not None and linked[place]:
            unit[number[pair[0]], place] += 1
            unit[number[pair[1]], place] -= 1

    def raised(siemens: Array) -> Array:
        """Volts at every point for 1 A through each pair."""
        matrix = conductance_matrix(len(number), start, end, siemens)[np.ix_(free, free)]
        volts = np.zeros_like(unit)
        volts[free] = np.linalg.solve(matrix, unit[free])
        return volts

    cold_s = np.array([each.conductance_s(vehicle.zone_temperature_c) for each in there])
    volts = raised(cold_s) @ usual_a
    amps = cold_s * (volts[start] - volts[end])
    ohm = [segment_ohm(vehicle, each, flows) for each, flows in zip(there, amps.tolist(), strict=True)]
    lost: Array = unit.T @ raised(1 / np.array(ohm))
    return lost


def _conductors(vehicle: Vehicle) -> list[Segment]:
    """What joins things together: all that is not switched, and the feeds' contacts.

    Every feed counts as switched on: a consumer that rests draws nothing, so what leads to it alone changes nothing.
    """
    on = {piece for circuit in vehicle.circuits.values() if circuit.device_id for piece in circuit.whole_path}
    return [each for each in vehicle.segments.values() if each.id in on or not is_switched(each.spec)]
