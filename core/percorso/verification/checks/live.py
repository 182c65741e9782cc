"""In what situation something runs, so that it can be measured: found by trying, the usual one first."""

from collections.abc import Callable, Iterator, Mapping
from itertools import combinations

from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.vehicle.model import Circuit, Stage, Vehicle
from percorso.vehicle.states import State, positions
from percorso.verification.measured.measurements import Situation

MOST_MOVED = 2  # switches away from where they usually stand
LEAST_SHARE = 0.2  # of its design current, from which a circuit counts as loaded


At = Mapping[str, str]  # where the key and every input stand


def found(
    network: Network,
    stage: Stage,
    states: tuple[State, ...],
    runs: Callable[[Solution], bool],
    cannot: Callable[[At], bool] = lambda at: False,
) -> Situation | None:
    """The first situation in which something runs; None where it never does.

    ``cannot``: that it does not run is plain from where the inputs stand; that is not solved.
    """
    for state in states:
        for chosen in _positions(network.vehicle, state):
            if cannot(positions(network.vehicle.inputs, state, chosen)):
                continue
            if runs(network.solve(state, chosen, look_ahead=False)):
                return Situation(stage=stage, state=state, inputs=dict(chosen))
    return None


def circuit_live(network: Network, stage: Stage, circuit: Circuit) -> Situation | None:
    """Where a circuit carries a good part of its design current: a charge cable while its alternator turns."""
    can = GIVING if circuit.family == "charging" else WARMEST_LAST
    states = (circuit.state, *(each for each in can if each != circuit.state))
    gates = [gate for each in circuit.whole_path if (gate := network.gate_of(each)) is not None]

    def runs(solution: Solution) -> bool:
        flow = [abs(solution.flow_a.get(each, 0.0)) for each in circuit.whole_path]
        return not solution.unsettled and min(flow, default=0.0) >= LEAST_SHARE * circuit.design_current_a

    def cannot(at: At) -> bool:
        return circuit.design_current_a > 0 and any(each.is_held_open(at) for each in gates)

    return found(network, stage, states, runs, cannot)


def device_on(network: Network, stage: Stage, device_id: str, states: tuple[State, ...]) -> Situation | None:
    """Where a device runs: a coil has pulled in, a starter turns."""

    def runs(solution: Solution) -> bool:
        return solution.devices[device_id].on is True

    return found(network, stage, states, runs, lambda at: network.cannot_pull_in(device_id, at))


GIVING: tuple[State, ...] = ("idle", "road")  # in which an alternator gives
# without a running engine first
WARMEST_LAST: tuple[State, ...] = ("on", "accessory", "idle", "off", "road", "cranking")


def _positions(vehicle: Vehicle, state: State) -> Iterator[Mapping[str, str]]:
    """Nothing chosen, then one input elsewhere, then two."""
    moves = [
        (each.id, position)
        for each in vehicle.inputs.values()
        for position in each.possible(state)
        if position != each.position(state)
    ]
    for count in range(MOST_MOVED + 1):
        for chosen in combinations(moves, count):
            if len({name for name, _ in chosen}) == count:
                yield dict(chosen)
