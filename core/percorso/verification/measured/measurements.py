"""A measurement as data: which quantity, where, in what condition of the vehicle, with what, and what came."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Annotated, Any, Literal, get_args

from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    TypeAdapter,
    ValidationInfo,
    model_validator,
)

from percorso.errors import MeasurementError, UnknownNameError
from percorso.names import Identifier
from percorso.quantities import CURRENT, RESISTANCE, VOLTAGE, Kind
from percorso.vehicle.model import Device, Point, Segment, Stage, Vehicle
from percorso.vehicle.naming import device_called, point_called, segment_called
from percorso.vehicle.states import ENGINE, State
from percorso.vehicle.typed_fields import Typed
from percorso.verification.measured.instruments import UNITS, USUAL, Instrument, Quantity, measures
from percorso.verification.measured.preparations import BatteryOff, Preparation

Lit = Literal["dark", "dim", "bright"]
Through = Literal["connected", "open"]
Seen = Literal["works", "weak", "dead", "clicks", "clicks once", "whole", "blown", "hot", "stays on"]
Moves = Literal["moves", "steady"]
Word = Literal[Lit, Through, Seen, Moves]
WORDS: Mapping[Quantity, tuple[str, ...]] = {
    "resistance": ("open",),
    "continuity": get_args(Through),
    "lamp": get_args(Lit),
    "seen": get_args(Seen),
    "wiggle": get_args(Moves),
}
MOST_PREPARATIONS = 12
BETWEEN_POINTS: tuple[Quantity, ...] = ("voltage", "resistance", "continuity", "lamp")
NEEDED: Mapping[Quantity, tuple[str, ...]] = dict.fromkeys(BETWEEN_POINTS, ("red_point", "black_point")) | {
    "current": ("segment",)
}
DEAD: tuple[Quantity, ...] = ("resistance", "continuity")  # measured in a circuit without power only


class _Frozen(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Situation(_Frozen):
    """In what condition something is measured. Inputs that are not named stand as they usually do in the state."""

    stage: Stage = "planned"
    state: State = "off"
    inputs: dict[Identifier, Identifier] = {}
    preparations: Annotated[tuple[Preparation, ...], Field(max_length=MOST_PREPARATIONS)] = ()

    @property
    def key(self) -> tuple[Any, ...]:
        """Tells situations apart."""
        return self.stage, self.state, tuple(sorted(self.inputs.items())), self.preparations

    def __hash__(self) -> int:
        return hash(self.key)

    @property
    def is_dead(self) -> bool:
        """Whether the battery is off and the engine stands."""
        off = any(isinstance(each, BatteryOff) for each in self.preparations)
        return off and ENGINE[self.state] == "stopped"


_BY_QUANTITY: Mapping[str, Kind] = {
    "voltage": VOLTAGE,
    "current": CURRENT,
    **dict.fromkeys(DEAD, replace(RESISTANCE, highest=1e8)),
}
READ: Mapping[str, Kind] = {  # what can be read: nothing, and either way round
    quantity: replace(kind, lowest=-kind.highest, above_lowest=False) for quantity, kind in _BY_QUANTITY.items()
}


def read_value(value: Any, info: ValidationInfo) -> Any:
    """A value as a number of SI or as people type it, ``640 mV``, of the measurement's quantity."""
    kind = READ.get(info.data.get("quantity", ""))
    return value if value is None or kind is None else Typed(kind).read(value)


class Measurement(_Frozen):
    """What is measured: between two points, along a segment (its first point to its second), or of a device.

    ``value`` is V, A or Ω, ``outcome`` a word where there is no number. Of what is seen, ``device`` or ``segment`` is
    what was looked at; of a wiggle they are what was moved, and the points what was read meanwhile.
    """

    quantity: Quantity
    red_point: str | None = None
    black_point: str | None = None
    segment: str | None = None
    device: str | None = None
    situation: Situation = Situation()
    instrument: Instrument | None = None
    value: Annotated[float | None, BeforeValidator(read_value, json_schema_input_type=float | str | None)] = None
    outcome: Word | None = None

    @model_validator(mode="after")
    def _says_where(self) -> "Measurement":
        for name in NEEDED.get(self.quantity, ()):
            if getattr(self, name) is None:
                raise MeasurementError(f"a {self.quantity} needs its {name.replace('_', ' ')}", field=(name,))
        if self.quantity in ("seen", "wiggle") and (self.segment is None) == (self.device is None):
            raise MeasurementError("say one segment or one device that is looked at", field=("device",))
        if self.red_point is not None and self.red_point == self.black_point:
            raise MeasurementError("both probes are on one point", field=("black_point",))
        return self

    @model_validator(mode="after")
    def _fits_its_quantity(self) -> "Measurement":
        if not measures(self.with_what, self.quantity):
            raise MeasurementError(f"a {self.with_what} does not measure {self.quantity}", field=("instrument",))
        if self.value is not None and self.quantity not in UNITS:
            words = ", ".join(WORDS[self.quantity])
            raise MeasurementError(f"{self.quantity} is told in a word: {words}", field=("value",))
        if self.outcome is not None and self.outcome not in WORDS.get(self.quantity, ()):
            words = ", ".join(WORDS.get(self.quantity, ())) or "none: it is a number"
            raise MeasurementError(
                f'"{self.outcome}" is no word for {self.quantity}; there is {words}', field=("outcome",)
            )
        if self.quantity in DEAD and not self.situation.is_dead:
            message = "an ohmmeter measures a dead circuit: battery off, engine stopped"
            raise MeasurementError(message, field=("situation", "preparations"))
        return self

    @property
    def with_what(self) -> Instrument:
        """The instrument, or what is usual for the quantity."""
        return self.instrument or USUAL[self.quantity]

    @property
    def key(self) -> tuple[Any, ...]:
        """Tells apart what is measured: the same key is the same measurement, whatever came."""
        return self.situation.stage, *self.key_at_any_stage

    @property
    def key_at_any_stage(self) -> tuple[Any, ...]:
        """The same for the same measurement before and after the work."""
        where = self.red_point, self.black_point, self.segment, self.device
        return self.quantity, self.with_what, *where, *self.situation.key[1:]


MEASUREMENTS: TypeAdapter[list[Measurement]] = TypeAdapter(list[Measurement])


def by_ids(vehicle: Vehicle, measurement: Measurement) -> Measurement:
    """A measurement with points and parts by their ids, where it has them by name. Raises MeasurementError."""
    found: dict[str, str] = {}
    for name, find in _CALLED.items():
        text = getattr(measurement, name)
        if text is None:
            continue
        try:
            found[name] = find(vehicle, text).id
        except UnknownNameError as error:
            raise MeasurementError(str(error), field=(name,)) from error
    return measurement.model_copy(update=found)


def places(vehicle: Vehicle, measurement: Measurement) -> list[str]:
    """The names of the two points that are measured, or the designation of the part; what is not there by its id."""
    points = [each for each in (measurement.red_point, measurement.black_point) if each is not None]
    if points:
        return [vehicle.points[each].name if each in vehicle.points else each for each in points]
    part_id = measurement.device or measurement.segment or ""
    part = vehicle.devices.get(part_id) or vehicle.segments.get(part_id)
    return [part.designation if part else part_id]


_CALLED: Mapping[str, Callable[[Vehicle, str], Point | Segment | Device]] = {
    "red_point": point_called,
    "black_point": point_called,
    "segment": segment_called,
    "device": device_called,
}
