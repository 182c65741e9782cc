"""What makes or uses power: the validated values of each kind of device, and its terminals."""

import re
from collections.abc import Mapping
from itertools import pairwise
from typing import Annotated, Any, ClassVar, Literal, TypeVar, get_args

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, TypeAdapter, model_validator

from percorso.arrays import Array
from percorso.components.batteries import Chemistry
from percorso.components.stiffness import StartedEngine
from percorso.errors import PercorsoError
from percorso.quantities import CURRENT, POWER, Kind
from percorso.vehicle.device_spec import Amperes, Celsius, DeviceSpec, MaybeAmperes, MaybeOhms, MaybeVolts, Ohms, Volts
from percorso.vehicle.form_fields import Asked
from percorso.vehicle.loads import Load, LoadSpec
from percorso.vehicle.states import Engine
from percorso.vehicle.typed_fields import Typed, merged

_Number = TypeVar("_Number", float, Array)
Charge = Annotated[float, Field(ge=0, le=100)]
Peukert = Annotated[float, Field(ge=1, le=1.6)]


class Battery(DeviceSpec):
    """A battery by its state of charge; ``resistance_ohm`` and ``charge_a`` are measured values, if there are any.

    ``nominal_v`` is its own voltage where that is not the vehicle's: two of 12 V in series make 24 V.
    """

    LABEL: ClassVar[str] = "Battery"
    LETTER: ClassVar[str] = "G"
    kind: Literal["battery"] = "battery"
    chemistry: Annotated[Chemistry, Asked("Kind")] = "lead-acid"
    capacity_ah: Annotated[float, Field(ge=0.1, le=2000), Asked("Capacity, Ah", "70")]
    # of lead only: what a lithium battery's label says is its electronics' limit
    cold_cranking_a: Annotated[MaybeAmperes, Asked("Cold cranking current, of lead", "640 A")] = None
    nominal_v: Annotated[MaybeVolts, Asked("Its own voltage", "the vehicle’s")] = None
    state_of_charge_percent: Annotated[Charge, Asked("Charged, %")] = 100.0
    temperature_c: Annotated[Celsius, Asked("Temperature")] = 25.0
    resistance_ohm: Annotated[MaybeOhms, Asked("Internal resistance, if measured", "from its marking")] = None
    charge_a: Annotated[MaybeAmperes, Asked("Takes at 14.4 V, if measured", "from its charge")] = None  # of 12 V
    peukert: Annotated[Peukert | None, Asked("Peukert’s exponent, 1 for none", "usual for its kind")] = None

    @model_validator(mode="after")
    def _cranks(self) -> "Battery":
        if self.cold_cranking_a is None and self.chemistry != "LiFePO4":
            raise PercorsoError(
                "say its cold cranking current; its resistance follows from it", field=("cold_cranking_a",)
            )
        return self


Rpm = Annotated[float, Field(gt=0, le=25000)]
PulleyRatio = Annotated[float, Field(ge=0.5, le=6)]
Belt = Literal["V-belt", "two V-belts", "ribbed belt"]
PULLS_IN, DROPS_OUT = Asked("Pulls in at", "60 % of nominal"), Asked("Drops out at", "20 % of nominal")


class OutputPoint(BaseModel):
    """What an alternator makes at a speed of its own."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    rpm: Rpm
    current_a: Annotated[float, Field(ge=0, le=3000)]


_NUMBER = r"([0-9]+(?:\.[0-9]+)?)"
_POINT = re.compile(rf"{_NUMBER} *(?:rpm)? *[: ] *{_NUMBER} *A?")
MOST_POINTS = 20
MOST_TYPED = 40  # characters of one of them


def _points(value: Any) -> Any:
    """Points as people type them: ``1500: 20, 3000: 80``; None: none."""
    if not isinstance(value, str):
        return () if value is None else value
    typed = [each.strip() for each in value.split(",", MOST_POINTS)]
    found = [_POINT.fullmatch(each) if len(each) <= MOST_TYPED else None for each in typed]
    if None in found:
        raise PercorsoError('write points as rpm and ampere, for example "1500: 20, 3000: 80"')
    return [{"rpm": float(each[1]), "current_a": float(each[2])} for each in found if each]


class Alternator(DeviceSpec):
    """An alternator with its regulator, marked as ISO 8854 does: current at 1 800 and at 6000 rpm.

    ``output`` are points of its measured or published curve, which then rule. It turns at
    ``idle_rpm`` and ``road_rpm``, or with a ``pulley_ratio`` at so many times the engine's. It regulates at terminal S
    where one is wired, else at its own post, to ``setpoint_v`` at 25 °C and ``setpoint_v_per_k`` more per kelvin
    (usually less: negative). W is the tachometer tap. ``excitation_a`` is the current that D+ must take before it wakes
    up; a self-exciting one needs none from ``self_excites_rpm`` on.
    """

    TERMINALS: ClassVar[tuple[str, str]] = ("B+", "B-")
    OPTIONAL_TERMINALS: ClassVar[tuple[str, ...]] = ("S", "D+", "W")
    LABEL: ClassVar[str] = "Alternator"
    LETTER: ClassVar[str] = "G"
    BY_VOLTAGE: ClassVar[Mapping[str, int]] = {"exciter_ohm": 2}
    kind: Literal["alternator"] = "alternator"
    setpoint_v: Annotated[Volts, Asked("Regulates to", "14.2 V")]
    at_1800_a: Annotated[Amperes, Asked("Makes at 1 800 rpm", "45 A")]
    at_6000_a: Annotated[Amperes, Asked("Makes at 6 000 rpm", "110 A")]
    pulley_ratio: Annotated[PulleyRatio | None, Asked("Pulley, times the engine", "not known")] = None
    engine_idle_rpm: Annotated[Rpm | None, Asked("Engine idling, rpm", "750")] = None
    engine_road_rpm: Annotated[Rpm | None, Asked("Engine on the road, rpm", "2400")] = None
    idle_rpm: Annotated[Rpm, Asked("Else its own speed idling, rpm", more=True)] = 1800.0
    road_rpm: Annotated[Rpm, Asked("Its own speed on the road, rpm", more=True)] = 6000.0
    max_rpm: Annotated[Rpm, Asked("Maximum speed, rpm", more=True)] = 15000.0  # from memory; its maker knows
    output: Annotated[
        tuple[OutputPoint, ...],
        BeforeValidator(_points, json_schema_input_type=str | list[OutputPoint]),
        Field(max_length=MOST_POINTS),
        Asked("Its curve, rpm: A", "from its marking", more=True),
    ] = ()
    belt: Annotated[Belt | None, Asked("Belt", "not known", more=True)] = None
    setpoint_v_per_k: Annotated[float, Field(ge=-0.05, le=0.02), Asked("Regulates, V per K warmer", more=True)] = 0.0
    temperature_c: Annotated[Celsius, Asked("Temperature")] = 25.0
    # most of 12 V built since 1990 do, from memory; others then give all they can
    senses_own_post: Annotated[bool, Asked("Without its sense lead it senses its own post", more=True)] = True
    # 470 Ω in the lead pass about this, common practice
    excitation_a: Annotated[float, Field(ge=0, le=10), Asked("Wakes up with, A")] = 0.02
    exciter_ohm: Annotated[Ohms, Asked("D+ at rest")] = 10.0  # field and regulator seen from D+, from memory
    # what its regulator stands at D+, from memory
    exciter_max_a: Annotated[float, Field(gt=0, le=10), Asked("D+ is good for, A")] = 0.5
    self_excites_rpm: Annotated[Rpm | None, Asked("Wakes up by itself from, rpm", "never")] = None

    @model_validator(mode="after")
    def _makes_more_when_faster(self) -> "Alternator":
        if self.at_6000_a < self.at_1800_a:
            message = (
                f"an alternator does not make less at 6000 rpm ({self.at_6000_a:g} A) "
                f"than at 1800 rpm ({self.at_1800_a:g} A)"
            )
            raise PercorsoError(message, field=("at_6000_a",))
        for slow, fast in pairwise(self.output):
            if fast.rpm <= slow.rpm or fast.current_a < slow.current_a:
                message = "its points go up: more rpm, and not less current, from one to the next"
                raise PercorsoError(message, field=("output",))
        return self

    @model_validator(mode="after")
    def _turns_with_its_engine(self) -> "Alternator":
        if self.pulley_ratio is None:
            return self
        for name in ("engine_idle_rpm", "engine_road_rpm"):
            if getattr(self, name) is None:
                raise PercorsoError("with a pulley ratio goes the speed of the engine", field=(name,))
        return self

    def rpm(self, engine: Engine) -> float:
        """Its own speed idling or on the road, rpm; 0 while the engine does not run."""
        if engine not in ("idle", "road"):
            return 0.0
        if self.pulley_ratio is None:
            return self.idle_rpm if engine == "idle" else self.road_rpm
        return self.pulley_ratio * ((self.engine_idle_rpm if engine == "idle" else self.engine_road_rpm) or 0.0)


class Starter(DeviceSpec):
    """A starter with its solenoid, by its running and its locked-rotor point. Without terminal 50 it runs when fed."""

    TERMINALS: ClassVar[tuple[str, str]] = ("30", "31")
    OPTIONAL_TERMINALS: ClassVar[tuple[str, ...]] = ("50",)
    COIL_TERMINALS: ClassVar[tuple[str, str]] = ("50", "31")
    LABEL: ClassVar[str] = "Starter"
    LETTER: ClassVar[str] = "M"
    BY_VOLTAGE: ClassVar[Mapping[str, int]] = {"pull_in_v": 1, "drop_out_v": 1, "coil_ohm": 2}
    kind: Literal["starter"] = "starter"
    running_v: Annotated[Volts, Asked("Turning the engine, voltage", "10 V")]
    running_a: Annotated[Amperes, Asked("Turning the engine, current", "150 A")]
    locked_v: Annotated[Volts, Asked("Locked, voltage", "4 V")]
    locked_a: Annotated[Amperes, Asked("Locked, current", "400 A")]
    engine: Annotated[StartedEngine, Asked("Turns an engine for", more=True)] = "petrol"
    coil_ohm: Annotated[Ohms, Asked("Solenoid")] = 1.2  # about 10 A at 12 V, from memory
    pull_in_v: Annotated[Volts, PULLS_IN] = 7.2  # 60 % of nominal, from memory
    drop_out_v: Annotated[Volts, DROPS_OUT] = 2.4  # 20 % of nominal, from memory

    @property
    def winding_ohm(self) -> float:
        """Resistance of the standing motor, Ω."""
        return self.locked_v / self.locked_a

    def speed(self, voltage_v: _Number, current_a: _Number) -> _Number:
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
    LABEL: ClassVar[str] = "Relay coil"
    LETTER: ClassVar[str] = "K"
    BY_VOLTAGE: ClassVar[Mapping[str, int]] = {"pull_in_v": 1, "drop_out_v": 1, "resistance_ohm": 2}
    kind: Literal["relay coil"] = "relay coil"
    resistance_ohm: Annotated[Ohms, Asked("Coil")] = 90.0  # of a 12 V power relay, from memory
    pull_in_v: Annotated[Volts, PULLS_IN] = 7.2  # 60-65 % of nominal, from memory
    drop_out_v: Annotated[Volts, DROPS_OUT] = 2.4  # 10-35 % of nominal, from memory
    suppression: Annotated[Literal["none", "resistor", "diode"], Asked("Suppression")] = "none"
    fitted: Annotated[bool, Asked("In its socket")] = True

    @model_validator(mode="after")
    def _has_hysteresis(self) -> "RelayCoil":
        _check_hysteresis(self.drop_out_v, self.pull_in_v)
        return self


def _check_hysteresis(drop_out_v: float, pull_in_v: float) -> None:
    if drop_out_v >= pull_in_v:
        raise PercorsoError("a coil drops out at a lower voltage than it pulls in", field=("drop_out_v",))


DeviceKind = Annotated[
    Battery | Alternator | Starter | RelayCoil | LoadSpec,
    Field(discriminator="kind"),
]
DEVICE_SPEC: TypeAdapter[DeviceKind] = TypeAdapter(DeviceKind)
DEVICE_KINDS: tuple[type[DeviceSpec], ...] = get_args(get_args(DeviceKind)[0])


def new_device(values: Mapping[str, Any], nominal_v: float) -> DeviceKind:
    """A new device's values; what is not given is usual in a vehicle of ``nominal_v``, at the same power.

    Raises pydantic's ValidationError.
    """
    kind = next((each for each in DEVICE_KINDS if each.model_fields["kind"].default == values.get("kind")), None)
    powers = kind.BY_VOLTAGE if kind else {}
    usual = {
        name: kind.model_fields[name].default * (nominal_v / 12) ** power for name, power in powers.items() if kind
    }
    return DEVICE_SPEC.validate_python(usual | dict(values))


def changed_device(spec: DeviceKind, change: Mapping[str, Any]) -> DeviceKind:
    """The spec with some values changed, or a new one when ``change`` names another kind.

    Raises pydantic's ValidationError; typed text of a changed value goes with the old value. Of the watts and amperes
    of one name plate what was said last rules.
    """
    values = merged(spec, change)
    if isinstance(spec, Load):
        if _is_changed(spec, change, "rated_a", CURRENT) and not _is_changed(spec, change, "rated_w", POWER):
            values |= {"rated_w": None, "efficiency": 1.0}
        elif values.get("rated_w") is not None:
            values.pop("rated_a", None)
    return DEVICE_SPEC.validate_python(values)


def _is_changed(spec: Load, change: Mapping[str, Any], name: str, kind: Kind) -> bool:
    """Whether a change gives another value than there is; text that is none is for the model to refuse."""
    if change.get(name) is None:
        return False
    try:
        return bool(Typed(kind).read(change[name]) != getattr(spec, name))
    except PercorsoError:
        return True
