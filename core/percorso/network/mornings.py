"""A vehicle that stood outside over night: its batteries, copper and engine are as cold, and so it is cranked."""

from dataclasses import dataclass, replace

from percorso.network.branches import battery_posts, usual_resistance_ohm
from percorso.network.operating_point import Network
from percorso.vehicle.devices import Battery, Starter
from percorso.vehicle.model import Device, Vehicle
from percorso.vehicle.segments import ZONE_TEMPERATURE_C

LEAST_SPEED = 1 / 3  # of the speed at the running point: slower an engine hardly starts, common practice
LEAST_POSTS_V = 9.6  # at the posts of a 12 V battery while cranking, common practice


@dataclass(frozen=True)
class Cranking:
    """A starter on a morning: volts at the battery's posts and at the starter, what is lost on the way there, back, and
    to its trigger (V), its speed as a share of that at its running point, its current (A), and what its trigger gets
    (V). None where it never comes to rest.
    """

    outside_c: float
    rest_v: float
    posts_v: float | None
    starter_v: float | None
    plus_lost_v: float | None
    ground_lost_v: float | None
    trigger_lost_v: float | None
    speed: float | None
    current_a: float | None
    trigger_v: float | None
    pulled_in: bool
    pull_in_v: float  # that its trigger needs; nothing where it has none

    @property
    def is_triggered(self) -> bool:
        """Whether its solenoid is pulled in, and with the starter's current too gets enough to pull in again."""
        return self.pulled_in and (self.trigger_v or 0.0) >= self.pull_in_v

    @property
    def does(self) -> str:
        """What it does, in the words of the trade."""
        if self.speed is None:
            return "chatters"
        if not self.is_triggered:
            return f"gets {self.trigger_v or 0.0:.2f} V at its solenoid and needs {self.pull_in_v:g} V"
        return f"turns at {self.speed:.0%} of its speed" if self.speed else "does not turn"

    def starts(self, nominal_v: float) -> bool:
        """Whether the engine is cranked well enough to start."""
        turns = self.is_triggered and (self.speed or 0.0) >= LEAST_SPEED
        return turns and (self.posts_v or 0.0) >= LEAST_POSTS_V * nominal_v / 12


def on_a_morning(vehicle: Vehicle, outside_c: float) -> Vehicle:
    """The vehicle as it is before its engine has run, at a temperature outside, °C; a start hardly warms its copper."""
    devices = {each.id: _as_cold(vehicle, each, outside_c) for each in vehicle.devices.values()}
    zones = dict.fromkeys(ZONE_TEMPERATURE_C, outside_c)
    return replace(vehicle, devices=devices, zone_temperature_c=zones, copper="zone temperature", outside_c=outside_c)


def _as_cold(vehicle: Vehicle, device: Device, outside_c: float) -> Device:
    """A battery as cold as it is outside; one whose resistance was measured has as many times more as its kind."""
    spec = device.spec
    if not isinstance(spec, Battery):
        return device
    cold = spec.model_copy(update={"temperature_c": outside_c})
    if spec.resistance_ohm is not None:
        times = usual_resistance_ohm(cold, vehicle.nominal_v) / usual_resistance_ohm(spec, vehicle.nominal_v)
        cold = cold.model_copy(update={"resistance_ohm": spec.resistance_ohm * times})
    return replace(device, spec=cold)


def cranked(vehicle: Vehicle, starter: Device, outside_c: float) -> Cranking:
    """A starter on a morning of so many °C."""
    network = Network(on_a_morning(vehicle, outside_c))
    rest, solution = network.solve("off"), network.solve("cranking")
    posts = battery_posts(vehicle)
    assert posts is not None
    plus, minus = posts
    result = solution.devices[starter.id]
    spec, trigger = starter.spec, starter.terminals.get("50")
    assert isinstance(spec, Starter)
    return Cranking(
        outside_c=outside_c,
        rest_v=rest.voltage_v(plus, minus) or 0.0,
        posts_v=solution.voltage_v(plus, minus),
        starter_v=result.voltage_v,
        plus_lost_v=solution.voltage_v(plus, starter.terminals["30"]),
        ground_lost_v=solution.voltage_v(starter.terminals["31"], minus),
        speed=result.speed,
        current_a=result.current_a,
        trigger_lost_v=solution.voltage_v(plus, trigger) if trigger else None,
        trigger_v=solution.voltage_v(trigger, starter.terminals["31"]) if trigger else None,
        pulled_in=trigger is None or bool(result.pulled_in),
        pull_in_v=spec.pull_in_v if trigger else 0.0,
    )
