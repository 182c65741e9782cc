"""Consumers: the validated values of each kind of load, by its name plate and as measured, and when it runs."""

import math
from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import Field, model_validator

from percorso.components.fuses import Inrush
from percorso.errors import PercorsoError
from percorso.names import Identifier, Name
from percorso.quantities import CURRENT, POWER, VOLTAGE
from percorso.vehicle.device_spec import Amperes, DeviceSpec, MaybeAmperes, MaybeVolts, MaybeWatts, Volts
from percorso.vehicle.form_fields import Asked
from percorso.vehicle.scenarios import SEASONS, TIMES, Scenario, Season, Time
from percorso.vehicle.states import State
from percorso.vehicle.typed_fields import Typed

LOCKED_TO_RATED = 5.0  # standing against running current of a small motor, from memory
MOTOR_RUN_UP_S = 0.05  # time constant of a small motor's start, from memory; measure yours
COLD_TO_RATED = 10.0  # cold against hot current of a filament, from memory
FILAMENT_WARM_UP_S = 0.02  # from memory
MEASURED_INRUSH_S = 0.02  # how long a measured peak counts where nothing is usual
WORKS_DOWN_TO = 0.1  # of its voltage, below which no switching supply works; from memory
LED_FORWARD_V = 2.0  # of a small LED, from memory
LED_LEAST_V = LED_FORWARD_V + 0.5  # what its resistor needs besides; from memory
AGREES_WITHIN = 0.01  # by which the watts and amperes of one name plate may differ and still be rounded

Priority = Literal["engine", "safety", "work", "comfort"]  # what may be switched off last stands first
PRIORITIES: tuple[Priority, ...] = get_args(Priority)
HowMeasured = Literal["in series", "clamp", "shunt"]
Percent = Annotated[float, Field(gt=0, le=100)]
Share = Annotated[float, Field(gt=0, le=1)]
PeakTime = Annotated[float, Field(gt=0, le=60)]


class Load(DeviceSpec):
    """A consumer at its name-plate point; below ``min_v`` it does not do its work.

    Its plate says amperes, or watts and how much of them come out again (``efficiency``): both are at ``rated_v``.
    What was measured beats the plate. ``runs_in`` and ``rests_in`` are the states in which it must and must not run;
    ``used_in`` those in which a load budget counts it, at those times and in those seasons, for ``duty_percent`` of the
    time. ``keeps_engine_running``: a running engine stops when this is no longer fed, as an ignition coil or a fuel
    valve.
    """

    rated_v: Annotated[Volts, Asked("Rated voltage", "12 V")]
    rated_a: Annotated[Amperes, Asked("Rated current", "5 A")]
    rated_w: Annotated[MaybeWatts, Asked("Rated power instead", "from its current", more=True)] = None
    efficiency: Annotated[Share, Asked("Efficiency of that, 0 to 1", more=True)] = 1.0
    min_v: Annotated[MaybeVolts, Asked("Works from", "60 % of rated")] = None
    max_v: Annotated[MaybeVolts, Asked("Stands up to", "not said")] = None
    runs_in: Annotated[tuple[State, ...], Asked("Must run in")] = ()
    rests_in: Annotated[tuple[State, ...], Asked("Must rest in")] = ()
    keeps_engine_running: Annotated[bool, Asked("The engine stops without it")] = False
    # the device that must keep working when this one fails
    independent_of: Annotated[
        Identifier | None, Asked("Must outlive", "nothing in particular", more=True, among="devices")
    ] = None
    inrush_a: Annotated[MaybeAmperes, Asked("Inrush, if measured", "usual for its kind", more=True)] = None
    inrush_s: Annotated[PeakTime | None, Asked("Inrush lasts, s", "usual for its kind", more=True)] = None
    measured_a: Annotated[MaybeAmperes, Asked("Measured current", "not yet", more=True, part="measured")] = None
    # at its terminals while measured_a was read; None: at rated_v
    measured_v: Annotated[MaybeVolts, Asked("Measured at", "rated voltage", more=True, part="measured")] = None
    measured_how: Annotated[HowMeasured | None, Asked("How measured", "not said", more=True, part="measured")] = None
    duty_percent: Annotated[Percent, Asked("Runs, % of the time", more=True, part="duty")] = 100.0
    # None: where it must run, or else while the engine turns
    used_in: Annotated[tuple[State, ...] | None, Asked("Counts in", "idle and road", more=True, part="duty")] = None
    times: Annotated[tuple[Time, ...], Asked("At times", more=True, part="duty")] = TIMES
    seasons: Annotated[tuple[Season, ...], Asked("Seasons", more=True, part="duty")] = SEASONS
    priority: Annotated[Priority, Asked("Needed for", more=True, part="duty")] = "work"
    group: Annotated[Name | None, Asked("Listed under", "what it is needed for", more=True, part="duty")] = None

    LEAST_SHARE: ClassVar[float] = 0.6  # of rated voltage, where no minimum is given; from memory

    @model_validator(mode="before")
    @classmethod
    def _amperes_of_watts(cls, data: Any) -> Any:
        """Amperes where the plate says watts."""
        if not isinstance(data, dict):
            return data
        if data.get("rated_w") is None:
            if data.get("rated_a") is None:
                raise PercorsoError("say what it draws, in ampere or in watts", field=("rated_a",))
            return data
        if data.get("rated_v") is None:
            raise PercorsoError("watts say nothing without the volts they are at", field=("rated_v",))
        said = data.get("rated_a")
        try:
            watts, volts = Typed(POWER).read(data["rated_w"]), Typed(VOLTAGE).read(data["rated_v"])
            current = watts / volts / float(data.get("efficiency", 1.0))
            agrees = said is None or math.isclose(Typed(CURRENT).read(said), current, rel_tol=AGREES_WITHIN)
        except (PercorsoError, TypeError, ValueError, ArithmeticError):
            return {"rated_a": 1.0, **data}  # which of them is wrong is for the fields themselves to say
        if not agrees:
            message = f"{watts:g} W at {volts:g} V draw {current:.3g} A, not {said}; give one of the two"
            raise PercorsoError(message, field=("rated_a",))
        return {**data, "rated_a": current}

    @model_validator(mode="after")
    def _needs_no_more_than_it_stands(self) -> "Load":
        if self.min_v is not None and self.max_v is not None and self.min_v > self.max_v:
            message = f"it cannot need {self.min_v:g} V and be good for only {self.max_v:g} V"
            raise PercorsoError(message, field=("min_v",))
        return self

    @model_validator(mode="after")
    def _measured_says_how_much(self) -> "Load":
        if self.measured_a is None and (self.measured_v is not None or self.measured_how is not None):
            raise PercorsoError("say what current was measured", field=("measured_a",))
        return self

    @property
    def drawn_v(self) -> float:
        """The voltage at which its current is known, V."""
        return self.rated_v if self.measured_a is None else self.measured_v or self.rated_v

    @property
    def drawn_a(self) -> float:
        """The current it is known to draw, A: measured, or else as its plate says."""
        return self.rated_a if self.measured_a is None else self.measured_a

    @property
    def counted_in(self) -> tuple[State, ...]:
        """The states in which a load budget counts it."""
        if self.used_in is not None:
            return self.used_in
        turning: tuple[State, ...] = ("idle", "road")
        return self.runs_in or tuple(each for each in turning if each not in self.rests_in)

    def duty(self, scenario: Scenario, device_id: str) -> float:
        """The share of the time it draws its current under a scenario, 0 to 1."""
        if device_id in scenario.duty_percent:
            return scenario.duty_percent[device_id] / 100
        runs = scenario.state in self.counted_in and scenario.time in self.times and scenario.season in self.seasons
        return self.duty_percent / 100 if runs else 0.0

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

    LABEL: ClassVar[str] = "Heater, coil: resistive"
    LETTER: ClassVar[str] = "E"
    kind: Literal["resistive"] = "resistive"


class MotorLoad(Load):
    """A pump, fan or lift motor under its usual load; standing it draws ``locked_a`` (default: five times rated)."""

    LABEL: ClassVar[str] = "Motor: pump, fan, lift"
    LETTER: ClassVar[str] = "M"
    kind: Literal["motor"] = "motor"
    locked_a: Annotated[MaybeAmperes, Asked("Standing", "5 × rated")] = None

    @model_validator(mode="after")
    def _draws_most_while_it_stands(self) -> "MotorLoad":
        if self.locked_a is not None and self.locked_a <= self.drawn_a:
            message = f"standing it draws more than the {self.drawn_a:g} A it runs with, usually five times as much"
            raise PercorsoError(message, field=("locked_a",))
        return self

    @property
    def standing_a(self) -> float:
        """What it draws while it stands, A."""
        return self.locked_a or LOCKED_TO_RATED * self.drawn_a

    @property
    def usual_inrush(self) -> Inrush:
        """A current that dies down with a time constant heats a fuse as its peak does in half of that."""
        return Inrush(self.standing_a, MOTOR_RUN_UP_S / 2)


class FilamentLamp(Load):
    """A bulb; it glows from a fraction of its voltage on."""

    LEAST_SHARE: ClassVar[float] = 0.2
    LABEL: ClassVar[str] = "Filament bulb"
    LETTER: ClassVar[str] = "E"
    kind: Literal["filament lamp"] = "filament lamp"

    @property
    def usual_inrush(self) -> Inrush:
        """A cold filament draws ten times as much and is hot at once."""
        return Inrush(COLD_TO_RATED * self.drawn_a, FILAMENT_WARM_UP_S / 2)


class ConstantCurrentLoad(Load):
    """Electronics that draw the same current at any voltage they work at."""

    LABEL: ClassVar[str] = "Electronics, constant current"
    LETTER: ClassVar[str] = "A"
    kind: Literal["constant current"] = "constant current"


class ConstantPowerLoad(Load):
    """Electronics with a switching supply: less voltage, more current, down to their minimum."""

    LABEL: ClassVar[str] = "Electronics, constant power"
    LETTER: ClassVar[str] = "A"
    kind: Literal["constant power"] = "constant power"

    @model_validator(mode="after")
    def _gives_up_somewhere(self) -> "ConstantPowerLoad":
        least = round(WORKS_DOWN_TO * self.drawn_v, 2)
        if self.min_v is not None and self.min_v < least:
            message = f"a supply of {self.drawn_v:g} V works from {least:g} V on at the lowest"
            raise PercorsoError(message, field=("min_v",))
        return self


class IndicatorLamp(Load):
    """A tell-tale: a small bulb, or an LED with its resistor that lights one way round only."""

    LEAST_SHARE: ClassVar[float] = 0.2
    LABEL: ClassVar[str] = "Indicator lamp"
    LETTER: ClassVar[str] = "P"
    kind: Literal["indicator lamp"] = "indicator lamp"
    technology: Annotated[Literal["filament", "LED"], Asked("Made as")] = "filament"

    @model_validator(mode="after")
    def _lights_up(self) -> "IndicatorLamp":
        if self.technology == "LED" and self.drawn_v <= LED_LEAST_V:
            field = "rated_v" if self.measured_v is None or self.measured_a is None else "measured_v"
            raise PercorsoError(f"an LED with its resistor is for more than {LED_LEAST_V:g} V", field=(field,))
        return self


LoadSpec = ResistiveLoad | MotorLoad | FilamentLamp | ConstantCurrentLoad | ConstantPowerLoad | IndicatorLamp
