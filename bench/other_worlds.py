"""Faults that tracing's own library does not know: put into a vehicle's metal by hand, of any severity.

Nothing here is of ``percorso.faults``: a world is a description changed, and its instruments read the general solver.
A fuse that blew once stays blown, whatever is measured after it.
"""

import random
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, field, replace

from bench.perturbed_vehicle import perturbed
from core.tests.support.generated import GROUNDS
from percorso.network.branches import reference_point
from percorso.network.operating_point import Network
from percorso.vehicle.devices import Alternator, Battery, RelayCoil, Starter
from percorso.vehicle.loads import Load, ResistiveLoad
from percorso.vehicle.model import Device, Point, Segment, Vehicle
from percorso.vehicle.segments import (
    Body,
    Connector,
    Fuse,
    Joint,
    RelayContact,
    Resistor,
    SensorSwitch,
    Splice,
    Switch,
    Wire,
)
from percorso.vehicle.stages import vehicle_at
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.bench.virtual_bench import measure, without_blown
from percorso.verification.measured.measurements import WORDS, Measurement, Situation
from percorso.verification.measured.preparations import Swap, Unplug

LIES_BY = 2.0  # V or A: what a reading that lies is off by at least
COMES_IN = 1 / 3  # of all readings: what comes and goes
MOVES, MOVES_ANYWAY = 0.6, 0.02  # of all who move what comes and goes, or what is sound, so many see a reading move
CONDUCTORS = (Wire, Joint, Connector, Splice, Fuse, Switch, SensorSwitch, RelayContact)


@dataclass
class World:
    """A vehicle with something wrong: by which cause, and the parts of which any is right to name.

    ``right`` is empty where the description cannot hold it; ``near`` is then what it has of it: the wire that lies on
    another point. ``sound`` is the same metal before. ``alone``: of two faults the metal with each
    alone. ``there``: in how many of all readings it is there; ``lies_at``: which reading lies, by its number.
    """

    metal: Vehicle
    cause: str
    right: frozenset[str]
    near: frozenset[str] = frozenset()
    sound: Vehicle | None = None
    blown: set[str] = field(default_factory=set)
    alone: tuple["World", ...] = ()
    there: float = 1.0
    lies_at: int | None = None
    readings: int = 0

    def read(self, asked: Measurement, noise: int) -> Measurement:
        """What an instrument shows now, with what blows by it; of one that lies, of a probe that slipped."""
        self.readings += 1
        shown = self._now(random.Random(noise))._shown(asked, noise)
        return _slipped(shown, random.Random(noise)) if self.readings == self.lies_at else shown

    def _now(self, chance: random.Random) -> "World":
        """The world at a moment: with what comes and goes, or without it."""
        if self.sound is None or chance.random() < self.there:
            return self
        return replace(self, metal=self.sound)

    def _shown(self, asked: Measurement, noise: int) -> Measurement:
        if asked.quantity == "wiggle":
            moves = MOVES if self.there < 1 and asked.segment in self.right else MOVES_ANYWAY
            has_moved = random.Random(f"moves {noise}").random() < moves
            return asked.model_copy(update={"outcome": "moves" if has_moved else "steady"})
        situation = asked.situation
        there = self._as_prepared(situation)
        made = prepared(vehicle_at(there, situation.stage), situation.preparations)
        self.blown |= without_blown(Network(made), situation)[1]
        if asked.quantity == "seen" and asked.segment in self.blown:
            return asked.model_copy(update={"outcome": "blown"})
        there = self._as_prepared(situation)
        return measure(there, [asked], noise=noise)[0]

    def _as_prepared(self, situation: Situation) -> Vehicle:
        """The metal with what has blown, and as sound as before where what is bad is unplugged or another one."""
        away = {each.part for each in situation.preparations if isinstance(each, Unplug | Swap)}
        contacts = self.metal.segments_of(RelayContact)
        away |= {segment.id for segment, spec in contacts if spec.coil in away}
        metal = self._without(away)
        return replace(metal, opened=metal.opened | self.blown)

    def _without(self, away: set[str]) -> Vehicle:
        """The metal without what is bad and away."""
        if self.sound is None or not away & self.right:
            return self.metal
        return next((each.metal for each in self.alone if not away & each.right), self.sound)


def _slipped(shown: Measurement, chance: random.Random) -> Measurement:
    """A reading that lies: nothing where there was something, or something else; or the other word."""
    if shown.value is None:
        others = [each for each in WORDS[shown.quantity] if each not in (shown.outcome, "stays on")]
        return shown.model_copy(update={"outcome": chance.choice(others)})
    value = 0.0 if abs(shown.value) > LIES_BY else shown.value + chance.choice([-1, 1]) * chance.uniform(LIES_BY, 12)
    return shown.model_copy(update={"value": value})


Draw = random.Random
Injector = Callable[[Vehicle, Draw], World]


def worlds(vehicle: Vehicle, chance: Draw, causes: Mapping[str, Injector]) -> Iterator[World]:
    """One world after the other, every cause as often as every other; the metal is never quite as described."""
    while True:
        for inject in chance.sample([*causes.values()], len(causes)):
            sound = perturbed(vehicle, chance)
            with suppress(IndexError):  # nothing of the kind is there
                yield replace(inject(sound, chance), sound=sound)


def _of(vehicle: Vehicle, chance: Draw, *kinds: type) -> Segment:
    """A segment of some kinds, of those that are there as planned."""
    there = vehicle_at(vehicle, "planned").segments
    return chance.choice([vehicle.segments[each.id] for each in there.values() if isinstance(each.spec, kinds)])


def _device(vehicle: Vehicle, chance: Draw, *kinds: type) -> Device:
    there = vehicle_at(vehicle, "planned").devices.values()
    return chance.choice(
        [vehicle.devices[each.id] for each in there if isinstance(each.spec, kinds) and each.terminals]
    )


def _between(chance: Draw, low: float, high: float) -> float:
    """By lot, each factor as likely as every other."""
    return float(low * (high / low) ** chance.random())


def _with(vehicle: Vehicle, *segments: Segment) -> Vehicle:
    return replace(vehicle, segments={**vehicle.segments, **{each.id: each for each in segments}})


def changed(vehicle: Vehicle, device: Device, **values: object) -> Vehicle:
    """A vehicle with other values of a device."""
    spec = device.spec.model_copy(update=values)
    return replace(vehicle, devices={**vehicle.devices, device.id: replace(device, spec=spec)})


def in_series(vehicle: Vehicle, part: Segment, ohm: float) -> Vehicle:
    """A vehicle with a resistance at the far end of a part."""
    rest = Segment("hidden", "hidden", "hidden", part.to_point, Resistor(resistance_ohm=ohm))
    split = replace(vehicle, points={**vehicle.points, "hidden": Point("hidden", "hidden")})
    return _with(split, replace(part, to_point="hidden"), rest)


def _resistance(vehicle: Vehicle, chance: Draw) -> World:
    part = _of(vehicle, chance, *CONDUCTORS)
    resists = in_series(vehicle, part, _between(chance, 0.02, 2000))
    return World(resists, "resistance", frozenset({part.id}))


def _open(vehicle: Vehicle, chance: Draw) -> World:
    part = _of(vehicle, chance, *CONDUCTORS)
    return World(replace(vehicle, opened=vehicle.opened | {part.id}), "open", frozenset({part.id}))


def _short(vehicle: Vehicle, chance: Draw) -> World:
    """A wire chafed through somewhere, to one or another piece of metal."""
    wire, ground = _of(vehicle, chance, Wire), chance.choice(_metal(vehicle))
    assert isinstance(wire.spec, Wire)
    share = chance.uniform(0.1, 0.9)
    near = wire.spec.model_copy(update={"length_m": share * wire.spec.length_m})
    far = wire.spec.model_copy(update={"length_m": (1 - share) * wire.spec.length_m})
    chafed = Segment("chafed", "chafed", "hidden", ground, Resistor(resistance_ohm=_between(chance, 0.01, 0.5)))
    halves = replace(wire, to_point="hidden", spec=near), Segment("rest", "rest", "hidden", wire.to_point, far)
    split = replace(vehicle, points={**vehicle.points, "hidden": Point("hidden", "hidden")})
    return World(_with(split, *halves, chafed), "short", frozenset({wire.id}))


def _metal(vehicle: Vehicle) -> list[str]:
    """The points of grounded metal: of a made-up vehicle those called so, else where its body is joined."""
    called = [each for each in GROUNDS if each in vehicle.points]
    joined = sorted({each for body, _ in vehicle.segments_of(Body) for each in (body.from_point, body.to_point)})
    return [reference_point(vehicle), *(called or joined)]


def shorted(vehicle: Vehicle, device: Device, ohm: float) -> Vehicle:
    """A vehicle with a device that is shorted inside."""
    ends = device.terminals["+"], device.terminals["-"]
    return _with(vehicle, Segment("hidden", "hidden", *ends, Resistor(resistance_ohm=ohm)))


def _shorted_load(vehicle: Vehicle, chance: Draw) -> World:
    load = _device(vehicle, chance, Load)
    return World(shorted(vehicle, load, _between(chance, 0.02, 0.3)), "shorted load", frozenset({load.id}))


def _load(vehicle: Vehicle, chance: Draw) -> World:
    load = _device(vehicle, chance, Load)
    assert isinstance(load.spec, Load)
    times = chance.choice([_between(chance, 0.3, 0.6), _between(chance, 1.8, 3)])
    values = {name: has * times for name in ("measured_a", "rated_a") if (has := getattr(load.spec, name)) is not None}
    return World(changed(vehicle, load, **values), "load", frozenset({load.id}))


def _battery(vehicle: Vehicle, chance: Draw) -> World:
    battery = _device(vehicle, chance, Battery)
    assert isinstance(battery.spec, Battery)
    has_ohm = battery.spec.resistance_ohm or 5.4 / (battery.spec.cold_cranking_a or 600)
    weak = {"resistance_ohm": has_ohm * _between(chance, 2, 10)}
    flat = {"state_of_charge_percent": chance.uniform(0, 40)}
    return World(changed(vehicle, battery, **chance.choice([weak, flat])), "battery", frozenset({battery.id}))


def _starter(vehicle: Vehicle, chance: Draw) -> World:
    starter = _device(vehicle, chance, Starter)
    assert isinstance(starter.spec, Starter)
    drags = {"running_a": starter.spec.running_a * _between(chance, 1.6, 3)}
    return World(changed(vehicle, starter, **drags), "starter", frozenset({starter.id}))


def _coil(vehicle: Vehicle, chance: Draw) -> World:
    coil = _device(vehicle, chance, RelayCoil)
    assert isinstance(coil.spec, RelayCoil)
    stiff = {"pull_in_v": coil.spec.pull_in_v * chance.uniform(1.6, 2.5)}
    broken = {"resistance_ohm": coil.spec.resistance_ohm * _between(chance, 5, 1000)}
    unit = {coil.id} | {
        each.id
        for each in vehicle.segments.values()
        if isinstance(each.spec, RelayContact) and each.spec.coil == coil.id
    }
    return World(changed(vehicle, coil, **chance.choice([stiff, broken])), "relay", frozenset(unit))


def _alternator(vehicle: Vehicle, chance: Draw) -> World:
    alternator = _device(vehicle, chance, Alternator)
    spec = alternator.spec
    assert isinstance(spec, Alternator)
    share = chance.uniform(0, 0.5)
    weak = {"at_1800_a": spec.at_1800_a * share, "at_6000_a": spec.at_6000_a * share}
    regulates = {"setpoint_v": spec.setpoint_v + chance.choice([chance.uniform(-3, -1), chance.uniform(1, 3)])}
    return World(
        changed(vehicle, alternator, **chance.choice([weak, regulates])), "alternator", frozenset({alternator.id})
    )


def _rerouted(vehicle: Vehicle, chance: Draw) -> World:
    """A wire on another point: the description has no such fault."""
    wire = _of(vehicle, chance, Wire)
    other = chance.choice([each for each in vehicle.points if each not in (wire.from_point, wire.to_point)])
    return World(_with(vehicle, replace(wire, to_point=other)), "rerouted", frozenset(), frozenset({wire.id}))


def _added_load(vehicle: Vehicle, chance: Draw) -> World:
    """Something that draws where the description has nothing."""
    ground = reference_point(vehicle)
    point = chance.choice([each for each in vehicle.points if each != ground])
    amps = _between(chance, 1, 40)
    spec = ResistiveLoad.model_validate({"rated_v": vehicle.nominal_v, "rated_a": amps})
    added = Device("added", "added", "added", {"+": point, "-": ground}, spec)
    return World(replace(vehicle, devices={**vehicle.devices, added.id: added}), "added load", frozenset())


def _comes_and_goes(vehicle: Vehicle, chance: Draw) -> World:
    """A break that is there in a third of the readings."""
    return replace(_open(vehicle, chance), cause="comes and goes", there=COMES_IN)


def _two(vehicle: Vehicle, chance: Draw) -> World:
    """Two faults at once, of different parts."""
    first, inject, seed = chance.choice(BREAKING)(vehicle, chance), chance.choice(RESISTING), chance.random()
    both, second = (inject(each, random.Random(seed)) for each in (first.metal, vehicle))
    if first.right & second.right:
        return _two(vehicle, chance)
    return World(both.metal, "two faults", first.right | second.right, alone=(first, second))


def _lying(vehicle: Vehicle, chance: Draw) -> World:
    """One fault, and one of the first four readings after the complaint lies."""
    return replace(chance.choice(SINGLE)(vehicle, chance), cause="one reading lies", lies_at=chance.randint(2, 5))


RESISTING: tuple[Injector, ...] = (_resistance, _short, _shorted_load)
BREAKING: tuple[Injector, ...] = (_open, _load, _battery, _starter, _coil, _alternator)
SINGLE = (*RESISTING, *BREAKING)
CAUSES: Mapping[str, Injector] = {
    "resistance": _resistance,
    "open": _open,
    "short": _short,
    "shorted load": _shorted_load,
    "load": _load,
    "battery": _battery,
    "starter": _starter,
    "relay": _coil,
    "alternator": _alternator,
    "rerouted": _rerouted,
    "added load": _added_load,
}
HARDER: Mapping[str, Injector] = {
    "comes and goes": _comes_and_goes,
    "two faults": _two,
    "one reading lies": _lying,
}
