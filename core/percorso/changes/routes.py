"""Changes a vehicle's routes: insert, remove, move and lay segments, keeping every circuit one unbroken path."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from percorso.errors import PathError
from percorso.vehicle.model import SIDES, Circuit, Device, Point, Segment, Side, Vehicle, stations
from percorso.vehicle.segments import Wire, changed_spec
from percorso.vehicle.validity import check_believable, check_circuit, check_segment


def check_circuits(vehicle: Vehicle) -> Vehicle:
    """Return the vehicle if every circuit of it is one path out and one back, else raise PathError."""
    for circuit in vehicle.circuits.values():
        check_circuit(vehicle, circuit)
    return vehicle


def with_segments(vehicle: Vehicle, changed: Iterable[Segment]) -> Vehicle:
    """The vehicle with segments added or exchanged, by id. Raises PathError if one ends nowhere or where it began."""
    segments = {**vehicle.segments, **{segment.id: segment for segment in changed}}
    grown = replace(vehicle, segments=segments)
    for segment in segments.values():
        check_segment(grown, segment)
    return check_circuits(grown)


def with_values(vehicle: Vehicle, changes: Mapping[str, Mapping[str, Any]]) -> Vehicle:
    """The vehicle with other values of some segments, by id. Raises PathError and pydantic's ValidationError."""
    pieces = [vehicle.segments[each] for each in changes]
    return with_segments(vehicle, [replace(each, spec=changed_spec(each.spec, changes[each.id])) for each in pieces])


def named_point(vehicle: Vehicle, name: str, new_id: Callable[[], str]) -> tuple[Vehicle, str]:
    """The vehicle with a point of that name, which is made if there is none, and its id."""
    for point in vehicle.points.values():
        if point.name == name:
            return vehicle, point.id
    made = Point(new_id(), name)
    return replace(vehicle, points={**vehicle.points, made.id: made}), made.id


def with_circuit(vehicle: Vehicle, circuit: Circuit) -> Vehicle:
    """The vehicle with a circuit added or exchanged, by id.

    Raises PathError when its path is not whole, PercorsoError when its voltages are none it can have.
    """
    check_circuit(vehicle, circuit)
    check_believable(vehicle, circuit)
    return replace(vehicle, circuits={**vehicle.circuits, circuit.id: circuit})


@dataclass(frozen=True)
class Insertion:
    """A new piece in series with ``beside``: after or before it, as the current of ``circuit_id`` flows."""

    circuit_id: str
    beside: str
    after: bool


def joint_name(vehicle: Vehicle, piece: Segment, *, after: bool) -> str:
    """A free name for the point that joins ``piece`` to its neighbour: ``F7 in`` or ``F7 out``."""
    name = f"{piece.designation} {'in' if after else 'out'}"
    taken = {point.name for point in vehicle.points.values()}
    numbered = (name if number == 1 else f"{name} {number}" for number in range(1, len(taken) + 2))
    return next(free for free in numbered if free not in taken)


def insert_segment(vehicle: Vehicle, place: Insertion, piece: Segment, joint: Point) -> Vehicle:
    """Put ``piece`` in series with a segment, joined at the new point ``joint``.

    The far end of the neighbour moves to the joint, the piece goes on from there; the ends given in ``piece`` are
    ignored. Every circuit that passes the neighbour passes the piece too: they are in series. Raises PathError.
    """
    circuit = _circuit(vehicle, place.circuit_id)
    side, position = _position(circuit, place.beside)
    points = stations(vehicle, circuit, side)
    outer = points[position + 1] if place.after else points[position]
    neighbour = vehicle.segments[place.beside]
    starts, ends = (joint.id, outer) if place.after else (outer, joint.id)
    moved = _with_end_moved(neighbour, outer, joint.id)
    grown = replace(
        vehicle,
        points={**vehicle.points, joint.id: joint},
        segments={
            **vehicle.segments,
            neighbour.id: moved,
            piece.id: replace(piece, from_point=starts, to_point=ends),
        },
        circuits={
            other.id: _with_neighbour(vehicle, other, neighbour, outer, piece.id) for other in vehicle.circuits.values()
        },
    )
    return check_circuits(grown)


def _with_neighbour(vehicle: Vehicle, circuit: Circuit, neighbour: Segment, outer: str, piece_id: str) -> Circuit:
    """The circuit with the piece on the ``outer`` side of the neighbour, whichever way its current passes."""
    for side in SIDES:
        path = circuit.path(side)
        if neighbour.id in path:
            position = path.index(neighbour.id)
            leaves_by_outer = stations(vehicle, circuit, side)[position + 1] == outer
            at = position + 1 if leaves_by_outer else position
            return _with_path(circuit, side, (*path[:at], piece_id, *path[at:]))
    return circuit


def split_wire(vehicle: Vehicle, wire: Segment, first_m: float, piece: Segment, joint: Point) -> Vehicle:
    """Cut a wire in two at a new point, ``first_m`` (m) from its first point; ``piece`` is the second part.

    Every circuit that passes it passes both. Raises PathError for another kind of segment or a cut outside the wire.
    """
    if not isinstance(wire.spec, Wire) or not isinstance(piece.spec, Wire):
        raise PathError(f"{wire.designation} is no wire, so it cannot be split", field=("segment_id",))
    whole = wire.spec.length_m
    if not 0 < first_m < whole:
        message = f"{wire.designation} is {whole:g} m long: split it between 0 and {whole:g} m"
        raise PathError(message, field=("first_m",))
    first = replace(wire, to_point=joint.id, spec=_shortened(wire.spec, first_m))
    second = replace(piece, from_point=joint.id, to_point=wire.to_point, spec=_shortened(piece.spec, whole - first_m))
    grown = replace(
        vehicle,
        points={**vehicle.points, joint.id: joint},
        segments={**vehicle.segments, wire.id: first, piece.id: second},
        circuits={
            each.id: _with_neighbour(vehicle, each, wire, wire.to_point, piece.id) for each in vehicle.circuits.values()
        },
    )
    return check_circuits(grown)


def _shortened(spec: Wire, length_m: float) -> Wire:
    texts = {name: text for name, text in spec.typed.items() if name != "length_m"}
    return spec.model_copy(update={"length_m": length_m, "typed": texts})


def lead_over(vehicle: Vehicle, circuit_id: str, segment_ids: Sequence[str]) -> Vehicle:
    """Lead a circuit over pieces beside its route, in any order, instead of what lies between their two ends.

    What no circuit passes any more goes, with the points nothing else touches. Raises PathError when the pieces do not
    lead from one station of one side to another.
    """
    circuit = _circuit(vehicle, circuit_id)
    pieces = [_segment(vehicle, each) for each in segment_ids]
    for side in SIDES:
        points = stations(vehicle, circuit, side)
        ends = [point for point in points if sum(piece.other_end(point) is not None for piece in pieces) == 1]
        if len(ends) != 2:
            continue
        start, end = (points.index(each) for each in ends)
        path = circuit.path(side)
        led = _with_path(circuit, side, (*path[:start], *_in_line(pieces, ends[0]), *path[end:]))
        changed = replace(vehicle, circuits={**vehicle.circuits, circuit_id: led})
        check_circuit(changed, led)
        return _without_unused(changed, set(path[start:end]))
    raise PathError("these pieces do not lead from one place of the route to another", field=("segment_ids",))


def _in_line(pieces: Sequence[Segment], start: str) -> tuple[str, ...]:
    """Ids of pieces in the order in which they lead on from a point, as far as they do."""
    left, at, order = list(pieces), start, []
    while following := next((each for each in left if each.other_end(at)), None):
        left.remove(following)
        order.append(following.id)
        at = following.other_end(at) or at
    return tuple(order)


def _without_unused(vehicle: Vehicle, gone: set[str]) -> Vehicle:
    """The vehicle without those of some segments that no circuit passes, and the points they leave bare."""
    passed = {each for circuit in vehicle.circuits.values() for side in SIDES for each in circuit.path(side)}
    unused = {each: vehicle.segments[each] for each in gone - passed}
    segments = {each.id: each for each in vehicle.segments.values() if each.id not in unused}
    touched = {end for each in segments.values() for end in (each.from_point, each.to_point)}
    touched |= {point for each in vehicle.devices.values() for point in each.terminals.values()}
    bared = {end for each in unused.values() for end in (each.from_point, each.to_point)} - touched
    points = {each.id: each for each in vehicle.points.values() if each.id not in bared}
    return check_circuits(replace(vehicle, segments=segments, points=points))


def remove_segment(vehicle: Vehicle, segment_id: str) -> Vehicle:
    """Take a segment out and join what it connected; one that no circuit passes just goes.

    One of its two points vanishes, the one where nothing else branches off; the neighbour there takes over. Raises
    PathError when a circuit would be left without a way, or when other paths meet at both ends.
    """
    segment = _segment(vehicle, segment_id)
    if not any(segment_id in circuit.path(side) for circuit in vehicle.circuits.values() for side in SIDES):
        return replace(vehicle, segments={each.id: each for each in vehicle.segments.values() if each.id != segment_id})
    for circuit in vehicle.circuits.values():
        for side in SIDES:
            if circuit.path(side) == (segment_id,):
                raise PathError(f"{segment.designation} is all there is of the {side} side of {circuit.name}")
    rest = {other.id: other for other in vehicle.segments.values() if other.id != segment_id}
    vanishing, staying = _mergeable_ends(vehicle, segment, rest)
    joined = {other.id: _with_end_moved(other, vanishing, staying) for other in rest.values()}
    return check_circuits(
        replace(
            vehicle,
            points={point.id: point for point in vehicle.points.values() if point.id != vanishing},
            segments=joined,
            devices={each.id: _with_terminal_moved(each, vanishing, staying) for each in vehicle.devices.values()},
            circuits={
                circuit.id: _without(circuit, segment_id, vanishing, staying) for circuit in vehicle.circuits.values()
            },
        )
    )


def _mergeable_ends(vehicle: Vehicle, segment: Segment, rest: Mapping[str, Segment]) -> tuple[str, str]:
    """(vanishing, staying) ends of a segment to remove; a terminal of a circuit stays if it can."""
    terminals = {end for circuit in vehicle.circuits.values() for end in _terminals(vehicle, circuit)}
    ends = [(segment.from_point, segment.to_point), (segment.to_point, segment.from_point)]
    for vanishing, staying in sorted(ends, key=lambda pair: pair[0] in terminals):
        branches = [other for other in rest.values() if other.other_end(vanishing)]
        if len(branches) <= 1:
            return vanishing, staying
    names = " and ".join(vehicle.points[end].name for end in ends[0])
    raise PathError(f"other segments meet at both ends of {segment.designation}, {names}: move their ends first")


def _terminals(vehicle: Vehicle, circuit: Circuit) -> set[str]:
    return {end for side in SIDES if (points := stations(vehicle, circuit, side)) for end in (points[0], points[-1])}


def _without(circuit: Circuit, segment_id: str, vanishing: str, staying: str) -> Circuit:
    return replace(
        circuit,
        supply=tuple(each for each in circuit.supply if each != segment_id),
        return_path=tuple(each for each in circuit.return_path if each != segment_id),
        source_point=staying if circuit.source_point == vanishing else circuit.source_point,
        return_point=staying if circuit.return_point == vanishing else circuit.return_point,
    )


def remove_circuit(vehicle: Vehicle, circuit_id: str) -> Vehicle:
    """Take a circuit out, with the segments only it passes and the points nothing else touches."""
    circuit = _circuit(vehicle, circuit_id)
    others = {other.id: other for other in vehicle.circuits.values() if other.id != circuit_id}
    shared = {segment for other in others.values() for side in SIDES for segment in other.path(side)}
    own = {segment for side in SIDES for segment in circuit.path(side)} - shared
    segments = {segment.id: segment for segment in vehicle.segments.values() if segment.id not in own}
    touched = {end for segment in segments.values() for end in (segment.from_point, segment.to_point)}
    touched |= {point for device in vehicle.devices.values() for point in device.terminals.values()}
    passed = {point for side in SIDES for point in stations(vehicle, circuit, side)}
    points = {point.id: point for point in vehicle.points.values() if point.id in touched or point.id not in passed}
    return check_circuits(replace(vehicle, points=points, segments=segments, circuits=others))


def remove_point(vehicle: Vehicle, point_id: str) -> Vehicle:
    """Take out a point nothing ends on. Raises PathError naming what does."""
    attached = [segment.designation for segment in vehicle.segments.values() if segment.other_end(point_id)]
    attached += [device.designation for device in vehicle.devices.values() if point_id in device.terminals.values()]
    if point_id not in vehicle.points:
        raise PathError("this job does not have that point", field=("point_id",))
    if attached:
        raise PathError(f"{', '.join(sorted(attached))} end here: move or delete them first")
    return replace(vehicle, points={point.id: point for point in vehicle.points.values() if point.id != point_id})


def move_segment(vehicle: Vehicle, circuit_id: str, segment_id: str, steps: int) -> Vehicle:
    """Exchange a segment with its neighbour ``steps`` (+1 or −1) along a circuit's side; the points stay in place.

    Raises PathError when there is no neighbour there, or when another circuit shares only one of the two.
    """
    circuit = _circuit(vehicle, circuit_id)
    side, position = _position(circuit, segment_id)
    path = circuit.path(side)
    if not 0 <= position + steps < len(path):
        raise PathError(f"{vehicle.segments[segment_id].designation} is already at the end of the {side} side")
    first = min(position, position + steps)
    points = stations(vehicle, circuit, side)
    left, right = vehicle.segments[path[first]], vehicle.segments[path[first + 1]]
    start, middle, end = points[first : first + 3]
    exchanged = {
        left.id: _between(left, start, middle, end),
        right.id: _between(right, middle, start, middle),
    }
    circuits = {other.id: _with_exchanged(other, left.id, right.id) for other in vehicle.circuits.values()}
    return check_circuits(replace(vehicle, segments={**vehicle.segments, **exchanged}, circuits=circuits))


def _between(segment: Segment, old_start: str, start: str, end: str) -> Segment:
    """The segment between two other points, lying the same way round as before."""
    forward = segment.from_point == old_start
    return replace(segment, from_point=start if forward else end, to_point=end if forward else start)


def _with_exchanged(circuit: Circuit, left: str, right: str) -> Circuit:
    swap = {left: right, right: left}
    for side in SIDES:
        path = circuit.path(side)
        if left in path and right in path:
            return _with_path(circuit, side, tuple(swap.get(each, each) for each in path))
    return circuit


def _with_end_moved(segment: Segment, old: str, new: str) -> Segment:
    return replace(
        segment,
        from_point=new if segment.from_point == old else segment.from_point,
        to_point=new if segment.to_point == old else segment.to_point,
    )


def _with_terminal_moved(device: Device, old: str, new: str) -> Device:
    terminals = {mark: new if point == old else point for mark, point in device.terminals.items()}
    return replace(device, terminals=terminals)


def _with_path(circuit: Circuit, side: Side, path: tuple[str, ...]) -> Circuit:
    return replace(circuit, supply=path) if side == "supply" else replace(circuit, return_path=path)


def _position(circuit: Circuit, segment_id: str) -> tuple[Side, int]:
    for side in SIDES:
        if segment_id in circuit.path(side):
            return side, circuit.path(side).index(segment_id)
    raise PathError(f"{circuit.name} does not pass that segment", field=("segment",))


def _circuit(vehicle: Vehicle, circuit_id: str) -> Circuit:
    if circuit_id not in vehicle.circuits:
        raise PathError("this job does not have that circuit", field=("circuit",))
    return vehicle.circuits[circuit_id]


def _segment(vehicle: Vehicle, segment_id: str) -> Segment:
    if segment_id not in vehicle.segments:
        raise PathError("this job does not have that segment", field=("segment",))
    return vehicle.segments[segment_id]
