"""What can be measured along the suspects, and what of that looks at a part itself."""

from collections.abc import Collection, Iterator, Sequence

from percorso.faults.beyond import point_of
from percorso.network.branches import reference_point
from percorso.tracing.next_check import HypothesisSample
from percorso.tracing.suspects import Posterior
from percorso.vehicle.devices import Alternator, Battery
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Breaker, Connector, Fuse, FusibleLink, Wire
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import Bridge, LampInPlace, Lift, Preparation, Pull, Swap, Unplug

MOST_PARTS = 24  # suspects along which measurements are looked for
MOST_LIFTED = 8  # and as many more that the readings point to, however rare they are
WORTH_WIGGLING = 0.02  # probability that a part comes and goes, from which it is moved by hand


def candidates(vehicle: Vehicle, found: Posterior, sample: HypothesisSample, situation: Situation) -> list[Measurement]:
    """What could be measured along the suspects in a situation: voltages, clamps, what is looked at, what is moved."""
    lifts = found.lifts()
    parts = dict.fromkeys(lifts, 0.0) | sample.of_parts()
    suspects = sorted(parts, key=parts.__getitem__, reverse=True)[:MOST_PARTS]
    suspects += sorted(set(parts).difference(suspects), key=lambda part: (-lifts[part], part))[:MOST_LIFTED]
    wiggled = {
        each.part
        for each, share in zip(found.hypotheses.modes, found.of_modes.tolist(), strict=True)
        if each.comes_and_goes and share > WORTH_WIGGLING
    }
    measured: dict[tuple[object, ...], Measurement] = {}
    for part in suspects:
        for each in _at(vehicle, part, situation, comes_and_goes=part in wiggled):
            measured.setdefault(each.key, each)
    return list(measured.values())


def _at(vehicle: Vehicle, part: str, situation: Situation, *, comes_and_goes: bool) -> Iterator[Measurement]:
    """What can be measured at one part; it is moved where what is suspected of it comes and goes."""
    reference = reference_point(vehicle)
    segment, device = vehicle.segments.get(part), vehicle.devices.get(part)
    beyond = point_of(part)
    if beyond is not None:
        for lead in _leads(vehicle, [beyond]):
            yield Measurement(quantity="current", segment=lead, situation=situation)
    ends = [segment.from_point, segment.to_point] if segment else list(device.terminals.values()) if device else []
    ends += [beyond] if beyond is not None else []
    for point in dict.fromkeys(ends):
        if point != reference:
            yield Measurement(quantity="voltage", red_point=point, black_point=reference, situation=situation)
    if segment and segment.from_point != segment.to_point:
        pair = {"red_point": segment.from_point, "black_point": segment.to_point}
        yield Measurement(quantity="voltage", **pair, situation=situation)
        if comes_and_goes:
            far = segment.from_point if segment.to_point == reference else segment.to_point
            read = {"red_point": far, "black_point": reference}
            yield Measurement(quantity="wiggle", segment=part, **read, situation=situation)
        if isinstance(segment.spec, Wire):
            yield Measurement(quantity="current", segment=part, situation=situation)
        lamp_sits_there = LampInPlace(part=part) in situation.preparations
        if isinstance(segment.spec, Fuse | FusibleLink | Breaker) and not lamp_sits_there:
            yield Measurement(quantity="seen", segment=part, situation=situation)
    if device:
        if {"+", "-"} <= set(device.terminals) and device.terminals["+"] != device.terminals["-"]:
            pair = {"red_point": device.terminals["+"], "black_point": device.terminals["-"]}
            yield Measurement(quantity="voltage", **pair, situation=situation)
        for lead in _leads(vehicle, ends):
            yield Measurement(quantity="current", segment=lead, situation=situation)
        if not isinstance(device.spec, Battery | Alternator):  # nobody sees what those do
            yield Measurement(quantity="seen", device=part, situation=situation)


def _leads(vehicle: Vehicle, points: Sequence[str]) -> dict[str, None]:
    """The wires at some points, or behind their plug."""
    found: dict[str, None] = {}
    for point in dict.fromkeys(points):
        for each in vehicle.meeting.get(point, ()):
            beyond = each.to_point if each.from_point == point else each.from_point
            near = vehicle.meeting.get(beyond, ()) if isinstance(each.spec, Connector) else (each,)
            found |= {one.id: None for one in near if isinstance(one.spec, Wire)}
    return found


def at_itself(vehicle: Vehicle, parts: Collection[str], situation: Situation) -> list[Measurement]:
    """What looks at some parts themselves in a situation: also a device that is seen, and a clamp beside a contact."""
    found = [each for part in parts for each in _at(vehicle, part, situation, comes_and_goes=False)]
    itself = [each for each in found if each.device in parts or looks_at(vehicle, parts, each)]
    clamped = [
        Measurement(quantity="current", segment=lead, situation=situation) for lead in _leads_beside(vehicle, parts)
    ]
    return list({each.key: each for each in (*itself, *clamped)}.values())


def looks_at(vehicle: Vehicle, parts: Collection[str], measurement: Measurement, *, conducts: bool = False) -> bool:
    """Whether a measurement is of one of some parts itself: across it, of the current through it, of a fuse by eye, of
    what moves with it, or of anything while it is bridged, swapped or out of the way.

    ``conducts``: of a part that conducts where it must not a voltage is none, for what lies beside it conducts as well,
    and a clamp on a wire only where that joins nothing but the part.
    """
    if any(_is_on_trial(vehicle, parts, each) for each in measurement.situation.preparations):
        return True
    if measurement.segment is not None:
        return measurement.segment in (*parts, *_leads_beside(vehicle, parts, alone=conducts))
    pair = {measurement.red_point, measurement.black_point}
    across = any(pair <= ends for ends in (_ends(vehicle, each) for each in parts) if None not in pair)
    return across and not conducts


def _leads_beside(vehicle: Vehicle, parts: Collection[str], *, alone: bool = False) -> dict[str, None]:
    """The wires at those of some parts that are none; ``alone``: where nothing else meets them."""
    others = [each for each in parts if each in vehicle.devices or not isinstance(vehicle.segments[each].spec, Wire)]
    points = [point for each in others for point in _ends(vehicle, each)]
    return _leads(vehicle, [each for each in points if not alone or _is_alone(vehicle, each)])


def _is_alone(vehicle: Vehicle, point: str) -> bool:
    """Whether no more than two things meet at a point."""
    return len(vehicle.meeting.get(point, ())) + len(vehicle.wired.get(point, ())) <= 2


def _is_on_trial(vehicle: Vehicle, parts: Collection[str], preparation: Preparation) -> bool:
    match preparation:
        case Bridge(from_point=start, to_point=end):
            return any({start, end} == _ends(vehicle, each) for each in parts)
        case Pull() | Unplug() | Lift() | Swap() | LampInPlace():
            return preparation.part in parts
    return False


def _ends(vehicle: Vehicle, part: str) -> set[str]:
    device = vehicle.devices.get(part)
    if device is not None:
        return set(device.terminals.values())
    segment = vehicle.segments[part]
    return {segment.from_point, segment.to_point}


def leads_of(vehicle: Vehicle, device_id: str) -> dict[str, None]:
    """The wires at a device, or behind its plugs."""
    return _leads(vehicle, list(vehicle.devices[device_id].terminals.values()))
