"""The one place where preparations are applied: the vehicle as it is during a test, never part of the plan."""

from collections.abc import Iterable
from dataclasses import replace
from functools import singledispatch

from percorso.errors import PercorsoError, PreparationError
from percorso.faults.library import unit_of
from percorso.faults.model import Fault
from percorso.network.branches import reference_point
from percorso.vehicle.devices import Battery, RelayCoil
from percorso.vehicle.ids import free_id
from percorso.vehicle.loads import FilamentLamp
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.naming import named, point_called
from percorso.vehicle.segments import (
    Breaker,
    Connector,
    Diode,
    Fuse,
    FusibleLink,
    Joint,
    RelayContact,
    Resistor,
    SensorSwitch,
    Switch,
    Wire,
)
from percorso.verification.measured.preparations import (
    BatteryOff,
    Bridge,
    LampInPlace,
    Lift,
    LoadPoint,
    Preparation,
    Pull,
    Swap,
    Unplug,
)

LEADS_SWAPPED = "two leads swapped"
JUMPER_OHM, JUMPER_A = 0.02, 20.0  # a test lead with clips and its fuse, common practice
BOOSTER_OHM = 0.002  # 3 m of 35 mm² with its clamps, from memory
LAMP_W = 21.0  # an indicator bulb instead of a fuse lets less than 2 A through, common practice
LOAD_W = 55.0  # a headlamp bulb as a known load, common practice

PULLED = (Fuse, FusibleLink, Breaker, RelayContact)
UNPLUGGED = (Connector, Switch, SensorSwitch)
LIFTED = (Wire, Joint)
SWAPPED = (RelayContact, Switch, SensorSwitch, Diode, Resistor)  # and every device; what is soldered or crimped is not
LAMPED = (Fuse, FusibleLink, Breaker, Switch, SensorSwitch, RelayContact)  # in whose place a lamp can be put


def prepared(vehicle: Vehicle, preparations: Iterable[Preparation]) -> Vehicle:
    """A vehicle at a stage with preparations made in this order.

    Raises PreparationError, whose ``field`` names the preparation: ``("preparations", 1)``.
    """
    for place, each in enumerate(preparations):
        try:
            vehicle = _made(each, vehicle)
        except PercorsoError as error:
            raise PreparationError(str(error), field=("preparations", place)) from error
    return vehicle


@singledispatch
def _made(preparation: Preparation, vehicle: Vehicle) -> Vehicle:
    """The vehicle with one preparation made, by its kind. Raises PreparationError."""
    raise TypeError(f"nothing is known of {type(preparation).__name__}")


@_made.register
def _pulled(preparation: Pull, vehicle: Vehicle) -> Vehicle:
    for device in named(vehicle.devices.values(), preparation.part):
        if isinstance(device.spec, RelayCoil):
            return _relay_out(vehicle, device)
    segment = _segment_of(vehicle, preparation.part, PULLED, "only a fuse, a breaker or a relay is pulled")
    coil = vehicle.devices.get(segment.spec.coil or "") if isinstance(segment.spec, RelayContact) else None
    return _relay_out(vehicle, coil) if coil else _opened(vehicle, segment)


@_made.register
def _unplugged(preparation: Unplug, vehicle: Vehicle) -> Vehicle:
    devices = named(vehicle.devices.values(), preparation.part)
    if devices:
        return _without(vehicle, devices)
    if preparation.part in vehicle.plugs:
        return _opened(vehicle, *vehicle.plugs[preparation.part])
    connector = _segment_of(vehicle, preparation.part, UNPLUGGED, "only a connector, a switch or a device is unplugged")
    return _opened(vehicle, connector)


@_made.register
def _lifted(preparation: Lift, vehicle: Vehicle) -> Vehicle:
    return _opened(vehicle, _segment_of(vehicle, preparation.part, LIFTED, "only a wire or a joint is lifted"))


@_made.register
def _swapped(preparation: Swap, vehicle: Vehicle) -> Vehicle:
    """What is described is there already; what was bad at the part is gone, see ``remaining_faults``."""
    if not named(vehicle.devices.values(), preparation.part):
        _segment_of(vehicle, preparation.part, SWAPPED, "only a device, a relay, a switch or a diode is swapped")
    return vehicle


def remaining_faults(vehicle: Vehicle, preparations: Iterable[Preparation], faults: Iterable[Fault]) -> list[Fault]:
    """The faults that are left where parts are swapped: not those of a part that is another one now, but for leads that
    sit on the wrong terminals of it.
    """
    good = set[str]().union(*(_units(vehicle, each.part) for each in preparations if isinstance(each, Swap)))
    return [each for each in faults if each.fault == LEADS_SWAPPED or not good or not good & _units(vehicle, each.part)]


def _units(vehicle: Vehicle, name: str) -> set[str]:
    """What is renewed for the parts of that id or designation."""
    parts: list[Segment | Device] = [*named(vehicle.devices.values(), name), *named(vehicle.segments.values(), name)]
    return {unit_of(each) for each in parts}


@_made.register
def _bridged(preparation: Bridge, vehicle: Vehicle) -> Vehicle:
    start, end = point_called(vehicle, preparation.from_point), point_called(vehicle, preparation.to_point)
    if start.id == end.id:
        raise PreparationError(f"both ends of the jumper are on {start.name}; bridge two different points")
    jumper_id = free_id("jumper", vehicle.segments)
    lead: Fuse | Resistor = Fuse(rating_a=JUMPER_A, resistance_ohm=JUMPER_OHM)
    if preparation.lead == "booster cable":
        lead = Resistor(resistance_ohm=BOOSTER_OHM)
    jumper = Segment(jumper_id, f"jumper {start.name} – {end.name}", start.id, end.id, lead)
    return replace(vehicle, segments={**vehicle.segments, jumper_id: jumper})


@_made.register
def _lamp_in_place(preparation: LampInPlace, vehicle: Vehicle) -> Vehicle:
    segment = _segment_of(vehicle, preparation.part, LAMPED, "a lamp goes in place of a fuse or a contact")
    return _with_lamp(_opened(vehicle, segment), segment.from_point, segment.to_point, LAMP_W)


@_made.register
def _loaded(preparation: LoadPoint, vehicle: Vehicle) -> Vehicle:
    point, reference = point_called(vehicle, preparation.point), reference_point(vehicle)
    if point.id == reference:
        raise PreparationError(f"the lamp would hang with both ends on {point.name}, where voltages count from")
    return _with_lamp(vehicle, point.id, reference, LOAD_W)


@_made.register
def _battery_off(_: BatteryOff, vehicle: Vehicle) -> Vehicle:
    return _without(vehicle, [each for each in vehicle.devices.values() if isinstance(each.spec, Battery)])


def _relay_out(vehicle: Vehicle, coil: Device) -> Vehicle:
    out = replace(coil, spec=coil.spec.model_copy(update={"fitted": False}))
    return replace(vehicle, devices={**vehicle.devices, coil.id: out})


def _without(vehicle: Vehicle, gone: Iterable[Device]) -> Vehicle:
    """The vehicle without some devices; circuits keep their routes."""
    out = {each.id for each in gone}
    devices = {each.id: each for each in vehicle.devices.values() if each.id not in out}
    circuits = {
        each.id: replace(each, device_id=None) if each.device_id in out else each for each in vehicle.circuits.values()
    }
    return replace(vehicle, devices=devices, circuits=circuits)


def _opened(vehicle: Vehicle, *segments: Segment) -> Vehicle:
    return replace(vehicle, opened=vehicle.opened.union(each.id for each in segments))


def _with_lamp(vehicle: Vehicle, plus: str, minus: str, watts: float) -> Vehicle:
    lamp_id = free_id("lamp", vehicle.devices)
    bulb = FilamentLamp.model_validate({"rated_v": vehicle.nominal_v, "rated_w": watts, "rated_a": None})
    lamp = Device(lamp_id, lamp_id, f"{watts:g} W test lamp", {"+": plus, "-": minus}, bulb)
    return replace(vehicle, devices={**vehicle.devices, lamp_id: lamp})


def _segment_of(vehicle: Vehicle, part: str, kinds: tuple[type, ...], otherwise: str) -> Segment:
    """The segment of that name of one of these kinds. Raises PreparationError."""
    found = named(vehicle.segments.values(), part)
    fitting = [each for each in found if isinstance(each.spec, kinds)]
    if fitting:
        return fitting[0]
    others: list[Segment | Device] = [*found, *named(vehicle.devices.values(), part)]
    if not others:
        raise PreparationError(f'there is no part "{part}" at this stage')
    raise PreparationError(f"{others[0].designation} is a {others[0].spec.kind}: {otherwise}")
