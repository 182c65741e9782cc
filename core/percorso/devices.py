"""What makes or uses power: the validated values of each kind of device, and its terminals."""

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import Field, TypeAdapter, model_validator

from percorso.batteries import Chemistry
from percorso.errors import PercorsoError
from percorso.names import Identifier
from percorso.protection import Inrush
from percorso.quantities import CURRENT, RESISTANCE, TEMPERATURE, VOLTAGE
from percorso.specs import KeepsTyped, merged, typed
from percorso.states import State

Volts = Annotated[float, typed(VOLTAGE)]
Amperes = Annotated[float, typed(CURRENT)]
Ohms = Annotated[float, typed(RESISTANCE)]
Celsius = Annotated[float, typed(TEMPERATURE)]
LOCKED_TO_RATED = 5.0  # standing against running current of a small motor, from memory
MOTOR_RUN_UP_S = 0.05  # time constant of a small motor's start, from memory; measure yours
COLD_TO_RATED = 10.0  # cold against hot current of a filament, from memory
FILAMENT_WARM_UP_S = 0.02  # from memory
MEASURED_INRUSH_S = 0.02  # how long a measured peak counts where nothing is usual
CHARGE = Annotated[float, Field(ge=0, le=100)]


class DeviceSpec(KeepsTyped):
    """Values of one device. ``TERMINALS`` are needed, its voltage is between the two; others may be left open."""

    TERMINALS: ClassVar[tuple[str, str]] = ("+", "-")
    OPTIONAL_TERMINALS: ClassVar[tuple[str, ...]] = ()


class Battery(DeviceSpec):
    """A battery by its state of charge; ``resistance_ohm`` and ``charge_a`` are measured values, if there are any."""

    kind: Literal["battery"] = "battery"
    chemistry: Chemistry = "lead-acid"
    capacity_ah: Annotated[float, Field(gt=0, le=2000)]
    cold_cranking_a: Amperes
    state_of_charge_percent: CHARGE = 100.0
    temperature_c: Celsius = 25.0
    resistance_ohm: Ohms | None = None
    charge_a: Amperes | None = None  # what it takes at 14.4 V (of 12 V)


class Alternator(DeviceSpec):
    """An alternator with its regulator, marked as ISO 8854 does: current at 1 800 and at 6 000 rpm.

    It regulates at terminal S where one is wired, else at its own post; W is the tachometer tap. ``excitation_a`` is
    the current that D+ must take before it wakes up; a self-exciting one needs none from ``self_excites_rpm`` on.
    """

    TERMINALS: ClassVar[tuple[str, str]] = ("B+", "B-")
    OPTIONAL_TERMINALS: ClassVar[tuple[str, ...]] = ("S", "D+", "W")
    kind: Literal["alternator"] = "alternator"
    setpoint_v: Volts
    at_1800_a: Amperes
    at_6000_a: Amperes
    idle_rpm: Annotated[float, Field(gt=0, le=20000)] = 1800.0  # of the alternator, not of the engine
    road_rpm: Annotated[float, Field(gt=0, le=20000)] = 6000.0
    temperature_c: Celsius = 25.0
    excitation_a: Annotated[float, Field(ge=0, le=10)] = 0.02  # 470 Ω in the lead pass about this, common practice
    exciter_max_a: Annotated[float, Field(gt=0, le=10)] = 0.5  # what its regulator stands at D+, from memory
    exciter_ohm: Ohms = 10.0  # field and regulator seen from D+ at rest, from memory
    self_excites_rpm: Annotated[float, Field(gt=0, le=20000)] | None = None

    @model_validator(mode="after")
    def _makes_more_when_faster(self) -> "Alternator":
        if self.at_6000_a < self.at_1800_a:
            message = f"an alternator does not make less at 6000 rpm ({self.at_6000_a:g} A) than at 1800 rpm"
            raise PercorsoError(message, field=("at_6000_a",))
        return self


class Starter(DeviceSpec):
    """A starter with its solenoid, by its running and its locked-rotor point. Without terminal 50 it runs when fed."""

    TERMINALS: ClassVar[tuple[str, str]] = ("30", "31")
    OPTIONAL_TERMINALS: ClassVar[tuple[str, ...]] = ("50",)
    COIL_TERMINALS: ClassVar[tuple[str, str]] = ("50", "31")
    kind: Literal["starter"] = "starter"
    running_v: Volts
    running_a: Amperes
    locked_v: Volts
    locked_a: Amperes
    coil_ohm: Ohms = 1.2  # solenoid, about 10 A at 12 V, from memory
    pull_in_v: Volts = 7.2  # 60 % of nominal, from memory
    drop_out_v: Volts = 2.4  # 20 % of nominal, from memory

    @property
    def winding_ohm(self) -> float:
        """Resistance of the standing motor, Ω."""
        return self.locked_v / self.locked_a

    def speed(self, voltage_v: float, current_a: float) -> float:
        """Share of the speed it has at its running point: a motor turns as fast as its voltage behind the winding."""
        return (voltage_v - current_a * self.winding_ohm) / (self.running_v - self.running_a * self.winding_ohm)

    @model_validator(mode="after")
    def _turns_at_its_running_point(self) -> "Starter":
        if self.running_a * self.winding_ohm >= self.running_v:
            message = f"at {self.running_v:g} V and {self.running_a:g} A a motor locked at these values does not turn"
            raise PercorsoError(message, field=("running_a",))
        _check_hysteresis(self.drop_out_v, self.pull_in_v)
        return self


class RelayCoil(DeviceSpec):
    """A relay's coil; its contacts are segments that name it. A coil diode has its cathode at 86."""

    TERMINALS: ClassVar[tuple[str, str]] = ("86", "85")
    COIL_TERMINALS: ClassVar[tuple[str, str]] = ("86", "85")
    kind: Literal["relay coil"] = "relay coil"
    resistance_ohm: Ohms = 90.0  # of a 12 V power relay, from memory
    pull_in_v: Volts = 7.2  # 60-65 % of nominal, from memory
    drop_out_v: Volts = 2.4  # 10-35 % of nominal, from memory
    suppression: Literal["none", "resistor", "diode"] = "none"
    fitted: bool = True

    @model_validator(mode="after")
    def _has_hysteresis(self) -> "RelayCoil":
        _check_hysteresis(self.drop_out_v, self.pull_in_v)
        return self


def _check_hysteresis(drop_out_v: float, pull_in_v: float) -> None:
    if drop_out_v >= pull_in_v:
        raise PercorsoError("a coil drops out at a lower voltage than it pulls in", field=("drop_out_v",))


class Load(DeviceSpec):
    """A consumer at its name-plate point; below ``min_v`` it does not do its work.

    ``runs_in`` and ``rests_in`` are the states in which it must and must not run; what is in neither is free.
    ``keeps_engine_running``: a running engine stops when this is no longer fed, as an ignition coil or a fuel valve.
    """

    rated_v: Volts
    rated_a: Amperes
    min_v: Volts | None = None
    max_v: Volts | None = None
    runs_in: tuple[State, ...] = ()
    rests_in: tuple[State, ...] = ()
    keeps_engine_running: bool = False
    independent_of: Identifier | None = None  # the device that must keep working when this one fails
    inrush_a: Amperes | None = None  # measured peak; None: what is usual for its kind
    inrush_s: Annotated[float, Field(gt=0, le=60)] | None = None  # for how long that peak counts

    LEAST_SHARE: ClassVar[float] = 0.6  # of rated voltage, where no minimum is given; from memory

    @property
    def least_v(self) -> float:
        """The voltage from which it counts as on, V."""
        return self.min_v if self.min_v is not None else self.LEAST_SHARE * self.rated_v

    @property
    def usual_inrush(self) -> Inrush | None:
        """The start that is usual for its kind; None where it has none to speak of."""
        return None

    @property
    def inrush(self) -> Inrush | None:
        """Its start, as measured or as usual."""
        usual = self.usual_inrush
        if self.inrush_a is None:
            return usual
        return Inrush(self.inrush_a, self.inrush_s or (usual.equivalent_s if usual else MEASURED_INRUSH_S))


class ResistiveLoad(Load):
    """A heater, a glow plug, an ignition coil."""

    kind: Literal["resistive"] = "resistive"


class MotorLoad(Load):
    """A pump, fan or lift motor under its usual load; standing it draws ``locked_a`` (default: five times rated)."""

    kind: Literal["motor"] = "motor"
    locked_a: Amperes | None = None

    @property
    def standing_a(self) -> float:
        """What it draws while it stands, A."""
        return self.locked_a or LOCKED_TO_RATED * self.rated_a

    @property
    def usual_inrush(self) -> Inrush:
        """A current that dies down with a time constant heats a fuse as its peak does in half of that."""
        return Inrush(self.standing_a, MOTOR_RUN_UP_S / 2)


class FilamentLamp(Load):
    """A bulb; it glows from a fraction of its voltage on."""

    LEAST_SHARE: ClassVar[float] = 0.2
    kind: Literal["filament lamp"] = "filament lamp"

    @property
    def usual_inrush(self) -> Inrush:
        """A cold filament draws ten times as much and is hot at once."""
        return Inrush(COLD_TO_RATED * self.rated_a, FILAMENT_WARM_UP_S / 2)


class ConstantCurrentLoad(Load):
    """Electronics that draw the same current at any voltage they work at."""

    kind: Literal["constant current"] = "constant current"


class ConstantPowerLoad(Load):
    """Electronics with a switching supply: less voltage, more current, down to their minimum."""

    kind: Literal["constant power"] = "constant power"


class IndicatorLamp(Load):
    """A tell-tale: a small bulb, or an LED with its resistor that lights one way round only."""

    LEAST_SHARE: ClassVar[float] = 0.2
    kind: Literal["indicator lamp"] = "indicator lamp"
    technology: Literal["filament", "LED"] = "filament"


DeviceKind = Annotated[
    Battery
    | Alternator
    | Starter
    | RelayCoil
    | ResistiveLoad
    | MotorLoad
    | FilamentLamp
    | ConstantCurrentLoad
    | ConstantPowerLoad
    | IndicatorLamp,
    Field(discriminator="kind"),
]
DEVICE_SPEC: TypeAdapter[DeviceKind] = TypeAdapter(DeviceKind)
DEVICE_KINDS: tuple[type[DeviceSpec], ...] = get_args(get_args(DeviceKind)[0])
DEVICE_LETTER: Mapping[str, str] = {  # IEC 81346-2 style item letters as the trade uses them
    "battery": "G",
    "alternator": "G",
    "starter": "M",
    "relay coil": "K",
    "resistive": "E",
    "motor": "M",
    "filament lamp": "E",
    "constant current": "A",
    "constant power": "A",
    "indicator lamp": "P",
}


_OF_TWELVE_VOLT: Mapping[str, Mapping[str, int]] = {  # usual values that go with a power of the nominal voltage
    "relay coil": {"pull_in_v": 1, "drop_out_v": 1, "resistance_ohm": 2},
    "starter": {"pull_in_v": 1, "drop_out_v": 1, "coil_ohm": 2},
    "alternator": {"exciter_ohm": 2},
}


def new_device(values: Mapping[str, Any], nominal_v: float) -> DeviceKind:
    """A new device's values; what is not given is usual in a vehicle of ``nominal_v``, at the same power.

    Raises pydantic's ValidationError.
    """
    kind = next((each for each in DEVICE_KINDS if each.model_fields["kind"].default == values.get("kind")), None)
    powers = _OF_TWELVE_VOLT.get(str(values.get("kind")), {}) if kind else {}
    usual = {
        name: kind.model_fields[name].default * (nominal_v / 12) ** power for name, power in powers.items() if kind
    }
    return DEVICE_SPEC.validate_python(usual | dict(values))


def changed_device(spec: DeviceKind, change: Mapping[str, Any]) -> DeviceKind:
    """The spec with some values changed, or a new one when ``change`` names another kind.

    Raises pydantic's ValidationError; typed text of a changed value goes with the old value.
    """
    return DEVICE_SPEC.validate_python(merged(spec, change))
