"""A drive step by step: what each device gets, and what pulls in, starts charging, comes on and goes off on the way."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.states.matrix import Cell, cell_of
from percorso.vehicle.devices import Alternator, Battery, RelayCoil
from percorso.vehicle.states import Step, check_way

Event = Literal["pulls in", "drops out", "starts charging", "stops charging", "comes on", "goes off", "chatters"]


@dataclass(frozen=True)
class StepTaken:
    """One step of a drive: every device, and what happened on the way there."""

    step: Step
    cells: tuple[Cell, ...]
    events: tuple[tuple[str, Event], ...]
    running_on: bool


def time_line(network: Network, way: Sequence[Step]) -> tuple[StepTaken, ...]:
    """A way step by step. Raises StateError where key and engine cannot go so, and for an unknown input."""
    check_way(way)
    solutions = network.sequence(way)
    before: list[Solution | None] = [None, *solutions[:-1]]
    return tuple(
        StepTaken(
            step,
            tuple(cell_of(solution, device) for device in network.vehicle.devices),
            tuple(_events(earlier, solution)) if earlier else (),
            solution.running_on,
        )
        for step, (earlier, solution) in zip(way, zip(before, solutions, strict=True), strict=True)
    )


def _events(before: Solution, after: Solution) -> Iterator[tuple[str, Event]]:
    """What changes from one step to the next, in the order in which one thing makes another."""
    for device in after.vehicle.devices.values():
        one, other = before.devices[device.id].on, after.devices[device.id].on
        if other is None and isinstance(device.spec, RelayCoil):
            yield device.id, "chatters"
        elif isinstance(device.spec, RelayCoil) and bool(one) != bool(other):
            yield device.id, "pulls in" if other else "drops out"
    for device in after.vehicle.devices.values():
        was, is_ = (device.id in each.modes.excited for each in (before, after))
        if isinstance(device.spec, Alternator) and was != is_:
            yield device.id, "starts charging" if is_ else "stops charging"
    for device in after.vehicle.devices.values():
        one, other = before.devices[device.id].on, after.devices[device.id].on
        if not isinstance(device.spec, RelayCoil | Alternator | Battery) and bool(one) != bool(other):
            yield device.id, "comes on" if other else "goes off"
