"""The metal between two probes: the pieces that lead from one to the other, as few of them as can be."""

from percorso.vehicle.model import Circuit, Vehicle, stations


def metal_between(vehicle: Vehicle, red: str, black: str, circuit: Circuit | None = None) -> tuple[str, ...]:
    """Segment ids from red to black: along the circuit where both are on one side of it, else the fewest there are.

    Nothing where only devices lead from one to the other.
    """
    if circuit is not None:
        for side in ("supply", "return"):
            points = stations(vehicle, circuit, side)
            if red in points and black in points:
                first, last = sorted((points.index(red), points.index(black)))
                return circuit.path(side)[first:last]
    return _fewest(vehicle, red, black)


def _fewest(vehicle: Vehicle, red: str, black: str) -> tuple[str, ...]:
    """Breadth first over what conducts or can be closed."""
    came: dict[str, tuple[str, str] | None] = {red: None}
    waiting = [red]
    for here in waiting:
        for each in vehicle.meeting.get(here, ()):
            there = each.other_end(here) or here
            if there not in came and each.id not in vehicle.opened:
                came[there] = (each.id, here)
                waiting.append(there)
    path: list[str] = []
    step = came.get(black)
    while step is not None:
        segment_id, point = step
        path.append(segment_id)
        step = came[point]
    return tuple(reversed(path))
