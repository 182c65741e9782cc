"""What the trade fits besides what the sums ask for: fuses with their wires, the thinnest wire for a use, and the
densest current while cranking. Sizes of both series stand side by side, as shops see them: 14 AWG for 2.5 mm².
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache

from percorso import tables
from percorso.components.conductors import ConductorSize, find_size, stocked_sizes
from percorso.floors import Use
from percorso.house_rules import HouseRules, School
from percorso.targets import Family
from percorso.vehicle.devices import Battery, DeviceKind, RelayCoil
from percorso.vehicle.devices import Starter as StarterMotor
from percorso.vehicle.loads import ConstantCurrentLoad, ConstantPowerLoad, Load
from percorso.vehicle.model import Circuit, Segment, Vehicle, passing
from percorso.vehicle.segments import Body, Switch
from percorso.vehicle.states import KEY_INPUT

ALTERNATOR_FUSE_SHARE = 1.1  # of its marked output: a cold one makes more, common practice
MEMORY_A = 0.2  # what only keeps a memory draws less
# While cranking, common practice.
DENSEST_A_MM2: Mapping[School, float] = {"light": 10.0, "usual": 7.0, "generous": 5.0}
THINNEST_AWG = "20 AWG"  # that shops stock beside 0.5 mm²


@dataclass(frozen=True)
class Least:
    """The thinnest wire of each series that is fitted for something; the light school may go a size under it."""

    metric: ConductorSize
    awg: ConductorSize

    def is_met(self, size: ConductorSize, school: School) -> bool:
        """Whether a size is at least that."""
        return find_size(size.name).area_mm2 >= self.of(size, school).area_mm2 * (1 - 1e-9)

    def of(self, size: ConductorSize, school: School) -> ConductorSize:
        """In the series of a size."""
        least = self.metric if size.series == "metric" else self.awg
        return _next_thinner(least) if school == "light" else least


@cache
def _next_thinner(size: ConductorSize) -> ConductorSize:
    """The next thinner of the sizes that shops pair with fuses, or the thinnest of all made."""
    listed = {each.of(size, "usual") for _, each in _pairs()} | {stocked_sizes(size.series)[0]}
    return max((each for each in listed if each.area_mm2 < size.area_mm2), key=lambda each: each.area_mm2, default=size)


@dataclass(frozen=True)
class Floor:
    """What is fitted at least for a use."""

    use: Use
    wire: Least

    @property
    def with_article(self) -> str:
        """The use with its article."""
        return f"{'an' if self.use[0] in 'aeiou' else 'a'} {self.use}"


@cache
def least_fuses_a() -> Mapping[str, float]:
    """The smallest fuse that is fitted for a use, where it has one of its own, A."""
    return {row["use"]: float(row["fuse_a"]) for row in tables.rows("wire_floors") if row["fuse_a"]}


@cache
def _pairs() -> tuple[tuple[float, Least], ...]:
    return tuple((float(row["fuse_up_to_a"]), _least(row)) for row in tables.rows("fuse_pairs"))


def _least(row: Mapping[str, str]) -> Least:
    return Least(find_size(f"{row['mm2']} mm2"), find_size(f"{row['awg']} AWG"))


def paired_with(fuse_a: float) -> Least | None:
    """The thinnest wire that is fitted behind a fuse; None behind one that is larger than the list goes."""
    return next((least for up_to_a, least in _pairs() if fuse_a <= up_to_a), None)


def uses_of(vehicle: Vehicle, segment: Segment) -> tuple[Use, ...]:
    """What a wire is for, by the circuits that pass it and by what it leads to."""
    found = [use for circuit in passing(vehicle, segment.id) if (use := use_of(vehicle, circuit))]
    return tuple(dict.fromkeys([*found, *_by_its_ends(vehicle, segment)]))


def floor_for(vehicle: Vehicle, segment: Segment, rules: HouseRules) -> Floor | None:
    """The thickest of the house's floors for what a wire is for."""
    mm2, uses = dict(rules.floors), uses_of(vehicle, segment)
    use = max(uses, key=mm2.__getitem__, default=None)
    return None if use is None else Floor(use, _least_of(mm2[use]))


@cache
def _least_of(mm2: float) -> Least:
    """An area with the AWG number that shops pair with the same fuse."""
    beside = (least.awg for _, least in _pairs() if least.metric.area_mm2 >= mm2 * (1 - 1e-9))
    awg = find_size(THINNEST_AWG) if mm2 <= find_size("0.5 mm2").area_mm2 else next(beside, _pairs()[-1][1].awg)
    return Least(find_size(f"{mm2:g} mm2"), awg)


def use_of(vehicle: Vehicle, circuit: Circuit) -> Use | None:
    """What the wires of a circuit are for; None of a charge cable, which its current alone makes thick."""
    if circuit.family in ("charging", "ground"):
        return "starter cable" if circuit.state == "cranking" else None
    by_family: Mapping[Family, Use] = {"starting": "starter cable", "exciter": "exciter lead", "sense": "sense lead"}
    device = vehicle.devices.get(circuit.device_id or "")
    return by_family.get(circuit.family) or _feed_of(device.spec if device else None, circuit)


def _feed_of(spec: DeviceKind | None, circuit: Circuit) -> Use:
    match spec:
        case StarterMotor():
            return "trigger"
        case RelayCoil():
            return "relay coil"
        case ConstantCurrentLoad() | ConstantPowerLoad():
            return "memory feed" if circuit.design_current_a < MEMORY_A else "electronics feed"
        case Load(keeps_engine_running=True):
            return "ignition feed"
    return "consumer feed"


def _by_its_ends(vehicle: Vehicle, segment: Segment) -> Iterator[Use]:
    """What a wire is for by what it leads to: the key, or from a battery to the body."""
    ends = segment.from_point, segment.to_point
    met = [[each for each in vehicle.meeting.get(end, ()) if each.id != segment.id] for end in ends]
    for each in (one for those in met for one in those):
        if isinstance(each.spec, Switch) and each.spec.input == KEY_INPUT and each.from_point in ends:
            yield "key feed"
    minus = {each.terminals["-"] for each in vehicle.devices.values() if isinstance(each.spec, Battery)}
    for end, those in zip(ends[::-1], met, strict=True):
        if end in minus and any(isinstance(each.spec, Body) for each in those):
            yield "ground strap"
