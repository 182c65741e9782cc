"""Why a device runs or rests: the closed path its current takes as a route, and what holds each contact on it."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from heapq import heappop, heappush
from itertools import count, pairwise

from percorso.network.results import Flow, Solution
from percorso.vehicle.devices import Alternator, Battery, RelayCoil, Starter
from percorso.vehicle.model import SIDES, Device, Segment, Vehicle, stations
from percorso.vehicle.segments import Contact, Diode, RelayContact
from percorso.vehicle.states import KEY_INPUT

LEAST_A = 1e-6  # what is less is no current to follow
HOP = 1e-3  # of an open contact: among ways with as many open, the shortest


@dataclass(frozen=True)
class Hop:
    """A segment of the path, or a device it passes through, the way the current takes it; ``is_open``: it cannot."""

    part: str
    start: str
    end: str
    current_a: float
    is_open: bool


@dataclass(frozen=True)
class Held:
    """What holds a contact open or closed; ``why`` is the path of its coil's current, where a coil holds it."""

    segment_id: str
    is_open: bool
    says: str
    why: "Why | None"


@dataclass(frozen=True)
class Why:
    """The path of a part's current, out from ``source`` and back to one; ``flows``: current takes it.

    Where none flows it is the device's own route, or the way to it with the fewest contacts open. ``hops`` is empty
    where nothing at all leads there. The part itself is the hop at ``place``.
    """

    part: str
    source: str | None
    flows: bool
    hops: tuple[Hop, ...]
    place: int
    held: tuple[Held, ...]

    @property
    def parts(self) -> tuple[str, ...]:
        """Ids from the source on, through everything the current passes."""
        return (*((self.source,) if self.source else ()), *(hop.part for hop in self.hops))

    @property
    def whole(self) -> tuple[str, ...]:
        """Ids of all that has a part in it: on the path, and on the paths of the coils that hold its contacts."""
        return (*self.parts, *(part for held in self.held if held.why for part in held.why.whole))

    @property
    def out(self) -> tuple[Hop, ...]:
        """From the source to the part."""
        return self.hops[: self.place]

    @property
    def back(self) -> tuple[Hop, ...]:
        """From the part back to a source."""
        return self.hops[self.place + 1 :]


def why(solution: Solution, part: str) -> Why:
    """Why a device does what it does in a solved state, or through what a segment's current comes and goes."""
    return _why(solution, part, frozenset())


def _why(solution: Solution, part: str, asked: frozenset[str]) -> Why:
    """``asked``: parts whose why this is part of, so that a relay which holds itself is asked once."""
    device = solution.vehicle.devices.get(part)
    nothing = Why(part, None, False, (), 0, ())
    if device is not None and isinstance(device.spec, Battery | Alternator):
        return nothing
    path = _flowing(solution, part) or (_leading(solution, device) if device else nothing)
    held = tuple(_held(solution, hop, asked | {part}) for hop in path.hops if _is_contact(solution.vehicle, hop))
    return Why(part, path.source, path.flows, path.hops, path.place, held)


def _is_contact(vehicle: Vehicle, hop: Hop) -> bool:
    segment = vehicle.segments.get(hop.part)
    return segment is not None and (isinstance(segment.spec, Contact) or hop.is_open)


def _flowing(solution: Solution, part: str) -> Why | None:
    """The strongest current through a part, followed up to a source and down to one; None where none flows.

    Current falls from point to point, so that the way never comes round. A source that gives ends it.
    """
    flows = [each for each in solution.flows if each.current_a > LEAST_A]
    own = max((each for each in flows if each.owner == part), key=_strength, default=None)
    if own is None:
        return None
    arriving, leaving = _by(flows, lambda flow: flow.end), _by(flows, lambda flow: flow.start)
    out = _followed(solution.vehicle, own.start, arriving, lambda flow: flow.start)
    back = _followed(solution.vehicle, own.end, leaving, lambda flow: flow.end)
    source = out.pop().owner if out and _gives(solution.vehicle, out[-1]) else None
    if back and _gives(solution.vehicle, back[-1]):
        back.pop()
    hops = tuple(Hop(each.owner, each.start, each.end, each.current_a, False) for each in (*out[::-1], own, *back))
    return Why(part, source, True, hops, len(out), ())


def _strength(flow: Flow) -> float:
    return flow.current_a


def _by(flows: Iterable[Flow], point: Callable[[Flow], str]) -> Mapping[str, list[Flow]]:
    found: dict[str, list[Flow]] = {}
    for each in flows:
        found.setdefault(point(each), []).append(each)
    return found


def _followed(
    vehicle: Vehicle, point: str, beside: Mapping[str, list[Flow]], onward: Callable[[Flow], str]
) -> list[Flow]:
    """The strongest flow from point to point until a source, the source's own last."""
    found: list[Flow] = []
    seen: set[str] = set()
    while point not in seen and point in beside:
        seen.add(point)
        strongest = max(beside[point], key=_strength)
        found.append(strongest)
        if _gives(vehicle, strongest):
            break
        point = onward(strongest)
    return found


def _gives(vehicle: Vehicle, flow: Flow) -> bool:
    """Whether a flow is what a source gives: it comes out at its plus post. An alternator's field only takes."""
    device = vehicle.devices.get(flow.owner)
    return device is not None and flow.end in _plus_of(device)


def _leading(solution: Solution, device: Device) -> Why:
    """The way that leads to a device and back while no current flows; to a starter's trigger, which comes first."""
    vehicle = solution.vehicle
    triggered = isinstance(device.spec, Starter) and "50" in device.terminals
    marks = Starter.COIL_TERMINALS if triggered else device.spec.TERMINALS
    plus, minus = (device.terminals[each] for each in marks)
    circuits = (each for each in vehicle.circuits.values() if each.device_id == device.id and each.supply)
    own = next((each for each in circuits if stations(vehicle, each, "supply")[-1] == plus), None)
    if own is not None:
        out, back = (_along(solution, own.path(side), stations(vehicle, own, side)) for side in SIDES)
    else:
        posts = _posts(vehicle)
        out = _fewest_open(solution, [each for each, _ in posts], plus)
        back = [_turned(each) for each in reversed(_fewest_open(solution, [each for _, each in posts], minus, -1))]
    if not (out or back):
        return Why(device.id, None, False, (), 0, ())
    passes = Hop(device.id, out[-1].end if out else plus, back[0].start if back else minus, 0.0, False)
    source = next((each.id for each in vehicle.devices.values() if out and out[0].start in _plus_of(each)), None)
    return Why(device.id, source, False, (*out, passes, *back), len(out), ())


def _along(solution: Solution, path: Iterable[str], points: Iterable[str]) -> list[Hop]:
    ends = pairwise(points)
    return [_hop(solution, segment_id, start, end) for segment_id, (start, end) in zip(path, ends, strict=False)]


def _hop(solution: Solution, segment_id: str, start: str, end: str) -> Hop:
    flow = solution.flow_a.get(segment_id, 0.0)
    forward = solution.vehicle.segments[segment_id].from_point == start
    return Hop(segment_id, start, end, flow if forward else -flow, segment_id not in solution.conducting)


def _turned(hop: Hop) -> Hop:
    return Hop(hop.part, hop.end, hop.start, -hop.current_a, hop.is_open)


def _posts(vehicle: Vehicle) -> list[tuple[str, str]]:
    """Plus and minus of every source."""
    return [
        (each.terminals[each.spec.TERMINALS[0]], each.terminals[each.spec.TERMINALS[1]])
        for each in vehicle.devices.values()
        if isinstance(each.spec, Battery | Alternator)
    ]


def _plus_of(device: Device) -> tuple[str, ...]:
    is_source = isinstance(device.spec, Battery | Alternator)
    return (device.terminals[device.spec.TERMINALS[0]],) if is_source else ()


def _fewest_open(solution: Solution, starts: Iterable[str], goal: str, sense: int = 1) -> list[Hop]:
    """The way from any of some points with the fewest open segments, of those the shortest (Dijkstra).

    ``sense`` −1: current will come the other way, which matters to a diode.
    """
    vehicle, order = solution.vehicle, count()
    queue: list[tuple[float, int, str, Hop | None]] = []
    for each in starts:
        heappush(queue, (0.0, next(order), each, None))
    came: dict[str, Hop | None] = {}
    while queue and goal not in came:
        cost, _, point, hop = heappop(queue)
        if point in came:
            continue
        came[point] = hop
        for segment in vehicle.meeting.get(point, ()):
            end = segment.other_end(point)
            if end is None or end in came or not _lets_pass(segment, point, sense):
                continue
            onward = _hop(solution, segment.id, point, end)
            heappush(queue, (cost + HOP + onward.is_open, next(order), end, onward))
    way: list[Hop] = []
    last = came.get(goal)
    while last is not None:
        way.append(last)
        last = came[last.start]
    return way[::-1]


def _lets_pass(segment: Segment, point: str, sense: int) -> bool:
    return not isinstance(segment.spec, Diode) or (segment.from_point == point) == (sense > 0)


def _held(solution: Solution, hop: Hop, asked: frozenset[str]) -> Held:
    """What holds the contact of a hop."""
    vehicle = solution.vehicle
    spec = vehicle.segments[hop.part].spec
    if hop.part in vehicle.opened or not isinstance(spec, Contact):
        return Held(hop.part, hop.is_open, "is out", None)
    if isinstance(spec, RelayContact):
        coil = vehicle.devices.get(spec.coil or "")
        if coil is None or not isinstance(coil.spec, RelayCoil):
            return Held(hop.part, hop.is_open, "has no coil", None)
        held = None if coil.id in asked else _why(solution, coil.id, asked)
        return Held(hop.part, hop.is_open, _coil_says(solution, coil), held)
    position = solution.modes.positions.get(spec.input, "").replace("_", " ")
    says = f"key {position}" if spec.input == KEY_INPUT else f"{vehicle.inputs[spec.input].name}: {position}"
    return Held(hop.part, hop.is_open, says, None)


def _coil_says(solution: Solution, coil: Device) -> str:
    result = solution.devices[coil.id]
    if result.pulled_in is None:
        return f"{coil.designation} chatters"
    volts = "nothing" if result.voltage_v is None else f"{abs(result.voltage_v):.1f} V"
    if isinstance(coil.spec, RelayCoil) and not coil.spec.fitted:
        return f"{coil.designation} out of its socket"
    return f"{'pulled in' if result.pulled_in else 'at rest'}, {volts} at the coil of {coil.designation}"
