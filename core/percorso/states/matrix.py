"""The matrix of a vehicle: what each device does in each state, beside what it is meant to do."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from percorso.network.device_results import DeviceResult, draws
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.vehicle.devices import DeviceKind, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.states import STATES, State

Meant = Literal["must", "must not", "may"]
Does = Literal["runs", "gets too little", "rests", "never comes to rest"]
CellMark = Literal["as it must", "may", "rests", "must not", "must", "too little", "chatters"]


@dataclass(frozen=True)
class Cell:
    """One device in one state; voltage (V) and current (A) are None where there is no telling.

    ``is_wrong``: it does not do what it is meant to. ``mark`` is both in one word.
    """

    device_id: str
    state: State
    meant: Meant
    does: Does
    voltage_v: float | None
    current_a: float | None
    is_wrong: bool
    mark: CellMark


def matrix(network: Network, chosen: Mapping[str, str], states: Iterable[State] = STATES) -> tuple[Cell, ...]:
    """Every device in every state, device by device, with inputs as chosen. Raises StateError for an unknown input.

    >>> cells = matrix(Network(vehicle_at(van, "planned")), {}, ["off", "idle"])
    >>> [(each.state, each.meant, each.does) for each in cells if each.device_id == "m3"]
    [('off', 'may', 'rests'), ('idle', 'must', 'runs')]
    """
    solutions = [network.solve(state, chosen, look_ahead=False) for state in states]
    return tuple(cell_of(solution, device) for device in network.vehicle.devices for solution in solutions)


def cell_of(solution: Solution, device_id: str) -> Cell:
    """One device in a solved state."""
    device, result = solution.vehicle.devices[device_id], solution.devices[device_id]
    wanted, found = meant(device.spec, solution.state), does(device.spec, result)
    is_wrong = not as_meant(wanted, found)
    return Cell(
        device_id=device_id,
        state=solution.state,
        meant=wanted,
        does=found,
        voltage_v=result.voltage_v,
        current_a=result.current_a,
        is_wrong=is_wrong,
        mark=_mark(wanted, found, is_wrong),
    )


def _mark(wanted: Meant, found: Does, is_wrong: bool) -> CellMark:
    """What comes of both: that it never settles before that it is wrong."""
    if found == "never comes to rest":
        return "chatters"
    if is_wrong:
        return "must not" if wanted == "must not" else "must"
    if found == "rests":
        return "rests"
    if found == "gets too little":
        return "too little"
    return "as it must" if wanted == "must" else "may"


def meant(spec: DeviceKind, state: State) -> Meant:
    """What a device is meant to do in a state: as it says itself, and a starter turns while cranking only."""
    if isinstance(spec, Starter):
        return "must" if state == "cranking" else "must not"
    if isinstance(spec, Load):
        return "must" if state in spec.runs_in else "must not" if state in spec.rests_in else "may"
    return "may"


def does(spec: DeviceKind, result: DeviceResult) -> Does:
    """What a device does: a coil runs when it has pulled in, a source when it gives."""
    if result.on is None:
        return "never comes to rest"
    if result.on:
        return "runs"
    return "gets too little" if _starves(spec, result) else "rests"


def _starves(spec: DeviceKind, result: DeviceResult) -> bool:
    if isinstance(spec, RelayCoil):
        return spec.drop_out_v < abs(result.voltage_v or 0.0) < spec.pull_in_v
    if isinstance(spec, Starter):
        return bool(result.pulled_in)
    return isinstance(spec, Load) and draws(spec, result)


def as_meant(meant: Meant, does: Does) -> bool:
    """Whether a device does what it is meant to; one that never comes to rest does nothing it should."""
    if does == "never comes to rest":
        return False
    return does == "rests" if meant == "must not" else does == "runs" or meant == "may"
