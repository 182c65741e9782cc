"""What a segment is made of: the validated values of each kind, and the resistance they come to."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, Literal, get_args

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, TypeAdapter, model_validator

from percorso import tables
from percorso.conductors import find_size, resistance_ohm
from percorso.errors import PercorsoError
from percorso.protection import FuseFamily, fuse_ratings_a
from percorso.quantities import CURRENT, LENGTH, RESISTANCE, Kind, in_range, parse, show

FUSE_DROP_AT_RATING_V = 0.1  # blade fuse, typical, from memory; measure yours
COLOURS = ("BK", "BN", "RD", "OG", "YE", "GN", "BU", "VT", "GY", "WH", "PK")  # IEC 60757 letter codes

Zone = Literal["cabin", "engine bay", "near exhaust", "outside"]
ZONE_TEMPERATURE_C: Mapping[Zone, float] = {  # common practice, editable per job
    "cabin": 50.0,
    "engine bay": 85.0,
    "near exhaust": 125.0,
    "outside": 40.0,
}
HOT_ZONES: tuple[Zone, ...] = ("engine bay", "near exhaust")


@dataclass(frozen=True)
class Typed:
    """Marks a field that takes an SI number or text as people type it, of ``kind``."""

    kind: Kind

    def read(self, value: object) -> object:
        """The SI value of typed text; numbers are held to the kind's range; anything else is for pydantic."""
        if isinstance(value, str):
            return parse(value, self.kind)
        if isinstance(value, int | float) and not isinstance(value, bool):
            return in_range(float(value), self.kind)
        return value


def typed(kind: Kind) -> Any:
    """The annotations of a float field that accepts typed text of ``kind``."""
    marker = Typed(kind)
    return BeforeValidator(marker.read, json_schema_input_type=float | str)


Length = Annotated[float, typed(LENGTH)]
Current = Annotated[float, typed(CURRENT)]
Resistance = Annotated[float | None, typed(RESISTANCE)]  # None: typical for the condition


def _colour(code: str) -> str:
    letters = code.upper().split("/")
    if len(letters) > 2 or any(letter not in COLOURS for letter in letters):
        raise PercorsoError(f'"{code}" is not a colour code; write one or two of {", ".join(COLOURS)}, as RD or WH/RD')
    return "/".join(letters)


def _fuse_rating(rating_a: float) -> float:
    if rating_a not in fuse_ratings_a():
        made = ", ".join(f"{rating:g}" for rating in fuse_ratings_a())
        raise PercorsoError(f"{rating_a:g} A is not a standard fuse; take one of {made} A")
    return rating_a


class KeepsTyped(BaseModel):
    """Values of which ``typed`` keeps, by field, the text a person typed for a quantity."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    typed: dict[str, Annotated[str, Field(max_length=60)]] = {}

    @model_validator(mode="before")
    @classmethod
    def _keep_what_was_typed(cls, data: Any) -> Any:
        if not isinstance(data, dict) or not isinstance(data.get("typed", {}), dict):
            return data
        quantities = [
            name
            for name, field in cls.model_fields.items()
            if any(isinstance(mark, BeforeValidator) for mark in field.metadata)
        ]
        texts = {name: data[name] for name in quantities if isinstance(data.get(name), str)}
        kept = {name: text for name, text in data.get("typed", {}).items() if name in quantities}
        return {**data, "typed": kept | texts}


class Spec(KeepsTyped):
    """Values of one segment."""


class Wire(Spec):
    """A single-core copper wire of one size through one zone."""

    kind: Literal["wire"] = "wire"
    size: Annotated[str, AfterValidator(lambda text: find_size(text).name)]
    length_m: Length
    zone: Zone = "cabin"
    colour: Annotated[str, AfterValidator(_colour)] | None = None


class Fuse(Spec):
    """A fuse of a standard rating; its resistance is typical for the rating unless measured."""

    kind: Literal["fuse"] = "fuse"
    rating_a: Annotated[Current, AfterValidator(_fuse_rating)]
    family: FuseFamily = "blade"
    resistance_ohm: Resistance = None

    @model_validator(mode="after")
    def _is_made(self) -> "Fuse":
        made = fuse_ratings_a(self.family)
        if self.rating_a not in made:
            ratings = ", ".join(f"{rating:g}" for rating in made)
            raise PercorsoError(f"a {self.family} fuse is made in {ratings} A", field=("rating_a",))
        return self


class Connector(Spec):
    """A pair of mating terminals."""

    kind: Literal["connector"] = "connector"
    condition: Literal["new blade", "tired blade", "bulkhead pair"] = "new blade"
    resistance_ohm: Resistance = None


class Contact(Spec):
    """A switching contact, of a relay or a switch."""

    kind: Literal["contact"] = "contact"
    condition: Literal["relay", "switch"] = "relay"
    rated_a: Annotated[float | None, typed(CURRENT)] = None
    resistance_ohm: Resistance = None


class Joint(Spec):
    """A ring, lug or splice fastened to what carries on."""

    kind: Literal["joint"] = "joint"
    condition: Literal["ring on clean stud", "lug on paint or rust", "crimped splice"] = "ring on clean stud"
    resistance_ohm: Resistance = None


class Body(Spec):
    """Body or chassis metal used as conductor, seams included."""

    kind: Literal["body"] = "body"
    condition: Literal["seam path"] = "seam path"
    resistance_ohm: Resistance = None


SegmentSpec = Annotated[Wire | Fuse | Connector | Contact | Joint | Body, Field(discriminator="kind")]
SEGMENT_SPEC: TypeAdapter[SegmentSpec] = TypeAdapter(SegmentSpec)
KINDS: tuple[type[Spec], ...] = get_args(get_args(SegmentSpec)[0])
DESIGNATION_LETTER: Mapping[str, str] = {  # IEC 81346-2 style item letters as the trade uses them
    "wire": "W",
    "fuse": "F",
    "connector": "X",
    "contact": "K",
    "joint": "J",
    "body": "B",
}


def changed_spec(spec: SegmentSpec, change: Mapping[str, Any]) -> SegmentSpec:
    """The spec with some values changed, or a new one when ``change`` names another kind.

    Raises pydantic's ValidationError; typed text of a changed value goes with the old value.
    """
    kept = {} if change.get("kind", spec.kind) != spec.kind else spec.model_dump()
    texts = {name: text for name, text in kept.pop("typed", {}).items() if name not in change}
    return SEGMENT_SPEC.validate_python({**kept, **change, "typed": texts})


def describe(spec: SegmentSpec) -> str:
    """One line for a segment under its designation: what it is, in the units it was typed in."""
    if isinstance(spec, Wire):
        return f"{spec.size}, {spec.typed.get('length_m') or show(spec.length_m, LENGTH)}"
    if isinstance(spec, Fuse):
        return f"{spec.rating_a:g} A {spec.family}"
    return spec.condition


@cache
def typical_resistance_ohm(kind: str, condition: str) -> float:
    """Typical resistance of a connection, Ω; the table gives its range and source."""
    for row in tables.rows("connections"):
        if (row["kind"], row["condition"]) == (kind, condition):
            return float(row["typical_mohm"]) / 1000
    raise PercorsoError(f"no typical resistance is known for {kind}, {condition}")


def segment_resistance_ohm(spec: SegmentSpec, zone_temperature_c: Mapping[Zone, float] = ZONE_TEMPERATURE_C) -> float:
    """Resistance of a segment, Ω: a wire at its zone's temperature, the rest as measured or else as typical."""
    if isinstance(spec, Wire):
        return resistance_ohm(find_size(spec.size), spec.length_m, zone_temperature_c[spec.zone])
    if spec.resistance_ohm is not None:
        return spec.resistance_ohm
    if isinstance(spec, Fuse):
        return FUSE_DROP_AT_RATING_V / spec.rating_a
    return typical_resistance_ohm(spec.kind, spec.condition)
