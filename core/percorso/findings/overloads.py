"""What carries too much in a solved state: shorts, fuses, wires, resistors, metal no current belongs in."""

from collections.abc import Iterator
from dataclasses import dataclass

from percorso.changes.edits import AddSegment, ChangeSegment, ResizeCircuit
from percorso.components.fuses import Guard, opens_between_s
from percorso.findings.finding import Finding, Remedy
from percorso.findings.rules import named
from percorso.house_rules import HouseRules
from percorso.network.branches import battery_law_of
from percorso.network.results import Solution
from percorso.sizing.ampacity import wire_ampacity
from percorso.sizing.protection_zones import saved_by_guard
from percorso.vehicle.devices import Battery
from percorso.vehicle.model import Device, Segment, Vehicle, passing
from percorso.vehicle.segments import Body, Breaker, Fuse, Resistor, Wire

STRAY_A, STRAY_W = 10.0, 3.0  # more of either in a control cable or a bearing harms it; from memory
STRAP_SIZE, STRAP_M = "25 mm2", 0.5  # a ground strap, common practice
RESISTOR_RATINGS_W = (0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0, 25.0, 50.0)  # common practice
IN_HAND = 1.1  # a resistor's rating over its heat, at least
SHORT_SHARE = 0.5  # of what a battery can give at all, from where on something is shorted
WITH_IT = 0.8  # a segment that carries this share of a current lies in its loop


@dataclass(frozen=True)
class View:
    """A solution with the vehicle it is of."""

    vehicle: Vehicle
    solution: Solution
    rules: HouseRules

    def current_a(self, segment: Segment) -> float:
        """Size of a segment's current, A; nothing where it never settles."""
        return abs(self.solution.segments[segment.id].current_a or 0.0)

    def volts(self, device: Device) -> str:
        """The voltage of a device in words."""
        voltage = self.solution.devices[device.id].voltage_v
        return "voltage unknown" if voltage is None else f"{voltage:.1f} V"


def overloads(view: View) -> Iterator[Finding]:
    """Every overload of a state."""
    yield from _shorted_batteries(view)
    yield from _blowing_fuses(view)
    yield from _hot_wires(view)
    yield from _stray_currents(view)
    yield from _hot_resistors(view)


@named(
    "battery-shorted",
    says="a battery is as good as shorted",
    when="it gives more than half of what it can give at all",
    source="Ohm's law",
)
def _shorted_batteries(view: View) -> Iterator[Finding]:
    for device, spec in view.vehicle.devices_of(Battery):
        _, most_a = _rest_and_most(view, spec)
        current = view.solution.devices[device.id].current_a or 0.0
        if current > SHORT_SHARE * most_a:
            title = f"{device.name} is as good as shorted: {current:.0f} A flow."
            reason = f"{_what_limits(view, current)} Disconnect it before you look for the place."
            yield Finding("error", title, reason, _loop(view, current), device_ids=(device.id,))


def _rest_and_most(view: View, spec: Battery) -> tuple[float, float]:
    """Rest voltage of a battery, V, and the current it would give into a dead short, A."""
    rest_v, gives_s, _ = battery_law_of(spec, view.vehicle.nominal_v).parameters
    return rest_v, rest_v * gives_s


@named(
    "fuse-opens",
    says="a fuse or breaker opens",
    when="more flows than it holds for long",
    source="ISO 8820-3, from memory",
)
def _blowing_fuses(view: View) -> Iterator[Finding]:
    rated: list[tuple[Segment, float, Guard]] = [
        (each, spec.rating_a, "fuse") for each, spec in view.vehicle.segments_of(Fuse)
    ]
    rated += [(each, spec.rating_a, "breaker") for each, spec in view.vehicle.segments_of(Breaker)]
    for segment, rating, guard in rated:
        current = view.current_a(segment)
        within = opens_between_s(rating, current, guard).latest_s
        if within is not None:
            title = f"{segment.designation} {rating:g} A opens within {within:.2g} s: {current:.3g} A flow through it."
            yield Finding("error", title, _what_limits(view, current), (segment.id,))


def _what_limits(view: View, current_a: float) -> str:
    """What stands against a current, the most first, by the voltage each part of its loop takes."""
    drops = view.solution.segments
    taken = [(each.designation, abs(drops[each.id].drop_v or 0.0)) for each in _in_loop(view, current_a)]
    for device, spec in view.vehicle.devices_of(Battery):
        voltage = view.solution.devices[device.id].voltage_v
        if voltage is not None:
            taken.append((f"{device.name} itself", max(0.0, _rest_and_most(view, spec)[0] - voltage)))
    total = sum(volts for _, volts in taken)
    most = sorted(taken, key=lambda pair: -pair[1])[:3]
    if total <= 0:
        return "Nothing that is known limits it."
    return f"What limits it: {', '.join(f'{name} {volts / total:.0%}' for name, volts in most)}."


def _in_loop(view: View, current_a: float) -> list[Segment]:
    return [each for each in view.vehicle.segments.values() if view.current_a(each) >= WITH_IT * current_a]


def _loop(view: View, current_a: float) -> tuple[str, ...]:
    return tuple(segment.id for segment in _in_loop(view, current_a))


@named(
    "wire-overloaded",
    says="a wire carries more than it is good for",
    when="in this state, and no guard opens before its insulation is harmed",
    source="ABYC E-11, ISO 10133, from memory; IEC 60364-4-43, from memory",
    cure="the circuit sized anew",
)
def _hot_wires(view: View) -> Iterator[Finding]:
    if view.solution.state == "cranking":
        return
    for segment, spec in view.vehicle.segments_of(Wire):
        ampacity = wire_ampacity(spec, view.rules, view.vehicle.zone_temperature_c)
        stands, current = ampacity.allowed_a, view.current_a(segment)
        if current > stands > 0 and not _guard_opens(view, spec, current):
            watts = view.solution.segments[segment.id].power_w or 0.0
            title = f"{segment.designation} carries {current:.3g} A and is good for {stands:.3g} A."
            reason = f"It makes {watts:.3g} W of heat; by the {ampacity.ruling} its insulation would cook."
            circuit = next(iter(passing(view.vehicle, segment.id)), None)
            cure = Remedy(f"size {circuit.name} anew", (ResizeCircuit(circuit_id=circuit.id),)) if circuit else None
            yield Finding("error", title, reason, (segment.id,), cure)


def _guard_opens(view: View, wire: Wire, current_a: float) -> bool:
    """Whether a guard that carries the same current opens before it harms a wire that lies there cold."""
    guards = (each.spec for each in _in_loop(view, current_a) if isinstance(each.spec, Fuse | Breaker))
    return saved_by_guard(wire.cable, view.vehicle.zone_temperature_c[wire.zone], current_a, guards)


@named(
    "stray-current",
    says="metal that no current belongs in carries some",
    when="more than 10 A or 3 W in a cable, a bearing, an exhaust",
    source="from memory",
    cure="a ground strap beside it",
)
def _stray_currents(view: View) -> Iterator[Finding]:
    for segment, spec in view.vehicle.segments_of(Body):
        current, condition = view.current_a(segment), spec.condition
        watts = view.solution.segments[segment.id].power_w or 0.0
        if condition != "seam path" and (current > STRAY_A or watts > STRAY_W):
            title = f"{segment.designation}, a {condition}, carries {current:.3g} A ({watts:.3g} W of heat)."
            reason = "Current takes it because its own return is missing or bad: look for a ground strap."
            strap = {"kind": "wire", "size": STRAP_SIZE, "length_m": STRAP_M, "zone": "engine bay", "moves": True}
            edit = AddSegment(from_point=segment.from_point, to_point=segment.to_point, spec=strap)
            yield Finding("error", title, reason, (segment.id,), Remedy(f"a {STRAP_SIZE} strap beside it", (edit,)))


@named(
    "resistor-burns",
    says="a resistor burns",
    when="its heat is over its rating",
    source="Joule's law",
    cure="the next bigger rating",
)
def _hot_resistors(view: View) -> Iterator[Finding]:
    for segment, spec in view.vehicle.segments_of(Resistor):
        watts = view.solution.segments[segment.id].power_w or 0.0
        if watts > spec.rated_w:
            title = f"{segment.designation} burns: {watts:.2g} W in a {spec.rated_w:g} W resistor."
            reason = "Take the next bigger rating, with half as much again in hand."
            bigger = next((each for each in RESISTOR_RATINGS_W if each >= IN_HAND * watts), None)
            cure = None
            if bigger is not None:
                edit = ChangeSegment(segment_id=segment.id, change={"rated_w": bigger})
                cure = Remedy(f"{segment.designation} for {bigger:g} W", (edit,))
            yield Finding("error", title, reason, (segment.id,), cure)
