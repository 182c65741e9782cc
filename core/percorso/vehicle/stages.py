"""As found and as planned: the two networks of one job."""

from dataclasses import replace

from percorso.vehicle.model import SIDES, Circuit, Device, Part, Stage, Vehicle, stations


def vehicle_at(vehicle: Vehicle, stage: Stage) -> Vehicle:
    """The vehicle with the segments and wired devices that are there at a stage, and the circuits whole by then."""
    there = replace(
        vehicle,
        segments={each.id: each for each in vehicle.segments.values() if is_there(each, stage)},
        devices={each.id: each for each in devices_at(vehicle, stage) if each.terminals},
    )
    circuits = (_circuit_at(vehicle, there, circuit) for circuit in vehicle.circuits.values())
    return replace(there, circuits={each.id: each for each in circuits if each is not None})


def devices_at(vehicle: Vehicle, stage: Stage) -> list[Device]:
    """The devices that are there at a stage, wired or not yet."""
    return [each for each in vehicle.devices.values() if is_there(each, stage)]


def is_there(part: Part, stage: Stage) -> bool:
    """As found is what exists; as planned is what is kept, old and new."""
    return part.origin == "existing" if stage == "found" else part.fate == "kept"


def _circuit_at(vehicle: Vehicle, there: Vehicle, circuit: Circuit) -> Circuit | None:
    """A piece or device that is not there gives way to one in the same place; None where there is none."""
    device_id = _device_at(vehicle, there, circuit.device_id)
    if device_id is None and circuit.device_id is not None and vehicle.devices[circuit.device_id].terminals:
        return None
    if device_id == circuit.device_id and all(each in there.segments for each in circuit.whole_path):
        return circuit
    paths = []
    for side in SIDES:
        points = stations(vehicle, circuit, side)
        path = []
        for segment_id, start, end in zip(circuit.path(side), points, points[1:], strict=False):
            between = (each.id for each in there.segments.values() if {each.from_point, each.to_point} == {start, end})
            piece = segment_id if segment_id in there.segments else next(between, None)
            if piece is None:
                return None
            path.append(piece)
        paths.append(tuple(path))
    return replace(circuit, supply=paths[0], return_path=paths[1], device_id=device_id)


def _device_at(vehicle: Vehicle, there: Vehicle, device_id: str | None) -> str | None:
    """The device itself, or one of its kind at its terminals, as an old battery in the place of the new one."""
    if device_id is None or device_id in there.devices:
        return device_id
    gone = vehicle.devices[device_id]
    if not gone.terminals:
        return None
    ends = [gone.terminals[each] for each in gone.spec.TERMINALS]
    for other in there.devices.values():
        if other.spec.kind == gone.spec.kind and [other.terminals[each] for each in other.spec.TERMINALS] == ends:
            return other.id
    return None


def is_changed(vehicle: Vehicle) -> bool:
    """Whether as planned differs from as found."""
    parts = (*vehicle.segments.values(), *vehicle.devices.values())
    return any(is_there(part, "found") != is_there(part, "planned") for part in parts)
