"""Assembles a vehicle into branches between numbered points: what each conducts, by which law, and when."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal, assert_never

from percorso.components.batteries import (
    charge_acceptance_a,
    charge_resistance_ohm,
    internal_resistance_ohm,
    lithium_resistance_ohm,
    open_circuit_v,
)
from percorso.components.stiffness import stiffness
from percorso.network.laws import (
    LawOf,
    battery_law,
    constant_current_law,
    constant_power_law,
    diode_law,
    filament_law,
    led_law,
    motor_law,
    rectifier_law,
    resistor_law,
)
from percorso.network.modes import TURNING, Modes
from percorso.vehicle.alternators import most_v, output_limit_a, setpoint_v
from percorso.vehicle.connectivity import buses
from percorso.vehicle.devices import Alternator, Battery, RelayCoil, Starter
from percorso.vehicle.loads import (
    LED_FORWARD_V,
    ConstantCurrentLoad,
    ConstantPowerLoad,
    FilamentLamp,
    IndicatorLamp,
    LoadSpec,
    MotorLoad,
    ResistiveLoad,
)
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.segments import Diode, Fuse, RelayContact, SensorSwitch, Switch
from percorso.vehicle.states import Engine

NOTHING_OHM = 1e6  # what a battery that takes no charge opposes to it
RECTIFIER_OHM = 0.05  # an alternator's diodes to D+, from memory
COIL_DIODE = (1.0, 0.9)  # suppression diode of a relay: rated A, forward V; from memory


@dataclass(frozen=True)
class Gate:
    """When a branch conducts: by where one input (or the key) stands, or by what one coil or alternator is."""

    by: Literal["input", "coil", "alternator"]
    name: str
    closed_in: frozenset[str]  # positions of an input; "on" or "off" of a coil or an alternator

    def closed(self, modes: Modes) -> bool:
        """Whether the branch conducts."""
        if self.by == "input":
            return modes.positions.get(self.name) in self.closed_in
        latched = modes.pulled_in if self.by == "coil" else modes.excited
        return ("on" if self.name in latched else "off") in self.closed_in

    def is_held_open(self, positions: Mapping[str, str]) -> bool:
        """Whether the branch does not conduct where inputs stand so, whatever pulls in."""
        return not self.closed_in or (self.by == "input" and positions.get(self.name) not in self.closed_in)


ON, OFF = frozenset(("on",)), frozenset(("off",))
NEVER = Gate("coil", "", frozenset())


@dataclass(frozen=True)
class Branch:
    """One two-terminal piece: a plain resistance, or an element with a current law; ``when`` it conducts.

    ``owner`` is a segment or device id, ``part`` tells apart the branches of one device.
    """

    owner: str
    part: str
    start: str
    end: str
    resistance_ohm: float | None = None
    law: LawOf | None = None
    when: Gate | None = None


@dataclass(frozen=True)
class Generator:
    """An alternator's output between two points, regulated between ``sense`` and ``minus``."""

    owner: str
    plus: str
    minus: str
    sense: str
    setpoint_v: float
    limit_a: Mapping[Engine, float]
    most_v: Mapping[Engine, float]  # that its rotor induces
    senses_own_post: bool  # where its sense lead leads nowhere


@dataclass(frozen=True)
class Assembly:
    """A vehicle as branches, the number of each point, and the point all voltages count from.

    The first branches are the segments, in the vehicle's order.
    """

    vehicle: Vehicle
    branches: tuple[Branch, ...]
    generators: tuple[Generator, ...]
    numbers: Mapping[str, int]
    reference: str

    @property
    def size(self) -> int:
        """How many points there are."""
        return len(self.numbers)

    @property
    def reference_number(self) -> int:
        """The number of the reference point."""
        return self.numbers[self.reference]


def assemble(vehicle: Vehicle, like: Assembly | None = None) -> Assembly:
    """The branches of a vehicle whose segments and devices end on its own points.

    ``like`` is that of the same vehicle before something was done to it, from which what was left alone is taken.
    """
    same = _left_alone(like, vehicle) if like else {}
    pieces: list[Branch] = []
    for segment in vehicle.segments.values():
        pieces += same.get(id(segment)) or [_segment_branch(segment, vehicle)]
    for device in vehicle.devices.values():
        pieces += same.get(id(device)) or branches_of(device, vehicle)
    generators = tuple(
        _generator(device, device.spec, vehicle.nominal_v)
        for device in vehicle.devices.values()
        if isinstance(device.spec, Alternator)
    )
    numbers = {point: number for number, point in enumerate(vehicle.points)}
    return Assembly(vehicle, tuple(pieces), generators, numbers, reference_point(vehicle))


def _left_alone(before: Assembly, vehicle: Vehicle) -> dict[int, list[Branch]]:
    """The branches of parts that are the same still and conduct always, by the identity of the part."""
    branches: dict[str, list[Branch]] = {}
    for each in before.branches:
        branches.setdefault(each.owner, []).append(each)
    opened = vehicle.opened | before.vehicle.opened
    parts = [each for each in vehicle.segments.values() if not isinstance(each.spec, GATED) and each.id not in opened]
    same: list[Segment | Device] = [each for each in parts if before.vehicle.segments.get(each.id) is each]
    same += [each for each in vehicle.devices.values() if before.vehicle.devices.get(each.id) is each]
    return {id(each): branches[each.id] for each in same if each.id in branches}


def has_source(vehicle: Vehicle) -> bool:
    """Whether anything makes a voltage: without a battery or an alternator there is nothing to solve."""
    return any(isinstance(device.spec, Battery | Alternator) for device in vehicle.devices.values())


def battery_posts(vehicle: Vehicle) -> tuple[str, str] | None:
    """Plus and minus of the first battery; of several in series plus of the highest and minus of the lowest."""
    batteries = [each.terminals for each, _ in vehicle.devices_of(Battery) if each.terminals]
    if len(batteries) < 2:
        return (batteries[0]["+"], batteries[0]["-"]) if batteries else None
    bus = buses(replace(vehicle, opened=frozenset()))  # the same with a link held open
    plus, minus = ({bus[each[mark]] for each in batteries} for mark in "+-")
    highest = min(batteries, key=lambda each: bus[each["+"]] in minus)
    lowest = min(batteries, key=lambda each: bus[each["-"]] in plus)
    return highest["+"], lowest["-"]


def reference_point(vehicle: Vehicle) -> str:
    """The minus post of the batteries; without one an alternator's case, and without either the first point, if any."""
    posts = battery_posts(vehicle)
    cases = [each.terminals["B-"] for each, _ in vehicle.devices_of(Alternator) if each.terminals]
    return next(iter((*(posts[1:] if posts else ()), *cases, *vehicle.points)), "")


def _segment_branch(segment: Segment, vehicle: Vehicle) -> Branch:
    spec = segment.spec
    ends = (segment.id, "", segment.from_point, segment.to_point)
    when = NEVER if segment.id in vehicle.opened else _gate(segment, vehicle) if isinstance(spec, GATED) else None
    if isinstance(spec, Diode):
        return Branch(*ends, law=diode_law(spec.rated_a, spec.forward_v), when=when)
    return Branch(*ends, resistance_ohm=1 / segment.conductance_s(vehicle.zone_temperature_c), when=when)


GATED = (Switch, SensorSwitch, Fuse, RelayContact)  # segments that do not conduct at all times


def _gate(segment: Segment, vehicle: Vehicle) -> Gate | None:
    """When a gated segment conducts; None for one that always does."""
    is_welded = segment.id in vehicle.welded
    match segment.spec:
        case (Switch() | SensorSwitch()) as spec:
            return None if is_welded else Gate("input", spec.input, frozenset(spec.closed_in))
        case Fuse(fitted=False):
            return NEVER
        case RelayContact(coil=str() as coil, form=form):
            device = vehicle.devices.get(coil)
            if device is None or not (isinstance(device.spec, RelayCoil) and device.spec.fitted):
                return NEVER  # the relay is not in its socket
            return None if is_welded else Gate("coil", coil, ON if form == "NO" else OFF)
    return None


def branches_of(device: Device, vehicle: Vehicle) -> list[Branch]:
    """The branches of one device, by its kind."""
    match device.spec:
        case Battery() as battery:
            return [_between(device, battery_law_of(battery, vehicle.nominal_v))]
        case Alternator() as alternator:
            return _of_alternator(alternator, device)
        case Starter() as starter:
            return _of_starter(starter, device, vehicle)
        case RelayCoil() as coil:
            return _of_coil(coil, device)
        case ResistiveLoad() as load:
            return [Branch(device.id, "", device.terminals["+"], device.terminals["-"], load.drawn_v / load.drawn_a)]
        case load:
            return [_between(device, load_law(load))]


def _between(device: Device, law: LawOf, start: str = "+", end: str = "-", part: str = "") -> Branch:
    return Branch(device.id, part, device.terminals[start], device.terminals[end], law=law)


def battery_law_of(spec: Battery, nominal_v: float) -> LawOf:
    """The law of a battery in a vehicle of ``nominal_v``: rest voltage, resistance when giving, when taking."""
    nominal_v = spec.nominal_v or nominal_v
    rest = open_circuit_v(spec.chemistry, spec.state_of_charge_percent, nominal_v)
    gives = spec.resistance_ohm or usual_resistance_ohm(spec, nominal_v)
    accepts = usual_acceptance_a(spec) if spec.charge_a is None else spec.charge_a
    takes = charge_resistance_ohm(accepts, rest, nominal_v) if accepts else NOTHING_OHM
    return battery_law(rest, gives, max(takes, gives) if spec.charge_a is None else takes)


def usual_resistance_ohm(spec: Battery, nominal_v: float) -> float:
    """What a battery's marking says of its resistance in a vehicle of ``nominal_v``, Ω."""
    nominal_v = spec.nominal_v or nominal_v
    if spec.cold_cranking_a is None or spec.chemistry == "LiFePO4":
        return lithium_resistance_ohm(spec.capacity_ah, spec.temperature_c, nominal_v)
    charge, temperature = spec.state_of_charge_percent, spec.temperature_c
    return internal_resistance_ohm(spec.cold_cranking_a, charge, temperature, nominal_v)


def usual_acceptance_a(spec: Battery) -> float:
    """What a battery of its kind takes at 14.4 V (of 12 V), A."""
    return charge_acceptance_a(spec.chemistry, spec.capacity_ah, spec.state_of_charge_percent, spec.temperature_c)


def _of_alternator(spec: Alternator, device: Device) -> list[Branch]:
    if "D+" not in device.terminals:
        return []
    ends = device.terminals["D+"], device.terminals["B-"]
    asleep, awake_only = Gate("alternator", device.id, OFF), Gate("alternator", device.id, ON)
    at_rest = Branch(device.id, "field", *ends, resistance_ohm=spec.exciter_ohm, when=asleep)
    awake = Branch(
        device.id,
        "D+",
        device.terminals["D+"],
        device.terminals["B+"],
        law=rectifier_law(RECTIFIER_OHM),
        when=awake_only,
    )
    return [at_rest, awake]


def _of_starter(spec: Starter, device: Device, vehicle: Vehicle) -> list[Branch]:
    ends = device.terminals["30"], device.terminals["31"]
    asks_a = spec.running_a * stiffness(spec.engine, vehicle.outside_c)  # a motor's torque goes with its current
    law = motor_law(spec.running_v, asks_a, spec.winding_ohm)
    if "50" not in device.terminals:
        return [Branch(device.id, "", *ends, law=law)]
    motor = Branch(device.id, "", *ends, law=law, when=Gate("coil", device.id, ON))
    coil = Branch(device.id, "coil", device.terminals["50"], device.terminals["31"], resistance_ohm=spec.coil_ohm)
    return [motor, coil]


def _of_coil(spec: RelayCoil, device: Device) -> list[Branch]:
    if not spec.fitted:
        return []
    ends = device.terminals["86"], device.terminals["85"]
    coil = Branch(device.id, "coil", *ends, resistance_ohm=spec.resistance_ohm)
    if spec.suppression != "diode":
        return [coil]
    return [coil, _between(device, diode_law(*COIL_DIODE), "85", "86", "diode")]


def load_law(spec: LoadSpec) -> LawOf:
    """The law of a load through the point at which its current is known."""
    volts, amperes = spec.drawn_v, spec.drawn_a
    match spec:
        case MotorLoad():
            return motor_law(volts, amperes, volts / spec.standing_a)
        case ConstantCurrentLoad():
            return constant_current_law(volts, amperes)
        case ConstantPowerLoad():
            return constant_power_law(volts * amperes, spec.least_v)
        case IndicatorLamp(technology="LED"):
            return led_law(volts, amperes, LED_FORWARD_V)
        case FilamentLamp() | IndicatorLamp():
            return filament_law(volts, amperes)
        case ResistiveLoad():
            return resistor_law(volts / amperes)
    assert_never(spec)


def _generator(device: Device, spec: Alternator, nominal_v: float) -> Generator:
    plus, minus = device.terminals["B+"], device.terminals["B-"]
    return Generator(
        owner=device.id,
        plus=plus,
        minus=minus,
        sense=device.terminals.get("S", plus),
        setpoint_v=setpoint_v(spec, spec.temperature_c),
        limit_a={engine: output_limit_a(spec, spec.rpm(engine)) for engine in TURNING},
        most_v={engine: most_v(spec, spec.rpm(engine), nominal_v) for engine in TURNING},
        senses_own_post=spec.senses_own_post,
    )
