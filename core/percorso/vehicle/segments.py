"""What a segment is made of: the validated values of each kind."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal, get_args

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, TypeAdapter, model_validator

from percorso import names
from percorso.components.conductors import ConductorSize, find_size
from percorso.components.fuses import FuseFamily, fuse_ratings_a
from percorso.components.insulation import Insulation, conductor, family, fitting_insulation
from percorso.components.thermal import Cable, cable
from percorso.errors import PercorsoError
from percorso.house_rules import Joining
from percorso.names import Identifier
from percorso.quantities import CURRENT, LENGTH, POWER, RESISTANCE, VOLTAGE, Kind, in_range, parse, show
from percorso.vehicle.states import KEY_INPUT

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

    def read(self, value: Any) -> Any:
        """The SI value of typed text; numbers are held to the kind's range; anything else is for pydantic."""
        if isinstance(value, bool):
            raise PercorsoError(f"yes or no is no {self.kind.name}; write for example {self.kind.example}")
        if isinstance(value, str):
            return parse(value, self.kind)
        if isinstance(value, int | float):
            return in_range(float(value), self.kind)
        return value


def typed(kind: Kind, *, optional: bool = False) -> Any:
    """The annotations of a float field that accepts typed text of ``kind``, or with ``optional`` None."""
    marker = Typed(kind)
    return BeforeValidator(marker.read, json_schema_input_type=float | str | None if optional else float | str)


Length = Annotated[float, typed(LENGTH)]
Current = Annotated[float, typed(CURRENT)]
Resistance = Annotated[float | None, typed(replace(RESISTANCE, above_lowest=False), optional=True)]  # None: typical
Size = Annotated[str, AfterValidator(lambda text: find_size(text).name)]


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
    typed: dict[str, names.Typed] = {}

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
        for name, field in cls.model_fields.items():
            if isinstance(data.get(name), bool) and field.annotation is not bool:
                raise PercorsoError("yes or no is no answer here; write a value", field=(name,))
        texts = {name: data[name] for name in quantities if isinstance(data.get(name), str)}
        kept = {name: text for name, text in data.get("typed", {}).items() if name in quantities}
        return {**data, "typed": kept | texts}


RelayBase = Literal["6.3 mm blades", "9.5 mm blades", "studs"]
BLADE_RELAY_A, WIDE_BLADE_RELAY_A = 40.0, 70.0  # up to which relays have those blades, common practice
End = Literal["ring", "blade 6.3 mm", "connector terminal", "butt splice", "bare"]


class Spec(KeepsTyped):
    """Values of one segment."""


class Wire(Spec):
    """A single-core copper wire of one size through one zone."""

    kind: Literal["wire"] = "wire"
    size: Size
    length_m: Length
    zone: Zone = "cabin"
    colour: Annotated[str, AfterValidator(_colour)] | None = None
    insulation: Insulation | None = None  # None: what is usual for the size
    bundle: Annotated[int, Field(ge=1, le=100)] = 1  # loaded wires that lie together with it, itself counted
    from_end: End | None = None  # terminal at its first point; None: what is usual there
    to_end: End | None = None
    joined: Joining | None = None  # how its terminals are put on; None: as the house does
    moves: bool = False  # it leads to something that moves or shakes against the rest: an engine, a door

    @model_validator(mode="after")
    def _is_made(self) -> "Wire":
        if self.insulation is not None and not family(self.insulation).is_made_in(find_size(self.size).area_mm2):
            raise PercorsoError(f"{self.insulation} is not made in {self.size}", field=("insulation",))
        return self

    @property
    def insulated_with(self) -> Insulation:
        """Its insulation, or what is usual for the size where nobody says."""
        return fitting_insulation(self.insulation, find_size(self.size).area_mm2)

    @property
    def conductor(self) -> ConductorSize:
        """Its size with the copper that it really holds in its insulation."""
        return conductor(find_size(self.size), self.insulated_with)

    @property
    def cable(self) -> Cable:
        """The wire as heat sees it."""
        return cable(self.conductor, self.insulated_with)


class Fuse(Spec):
    """A fuse of a standard rating; its resistance is typical for the rating unless measured."""

    kind: Literal["fuse"] = "fuse"
    rating_a: Annotated[Current, AfterValidator(_fuse_rating)]
    family: FuseFamily = "blade"
    fitted: bool = True
    resistance_ohm: Resistance = None

    @model_validator(mode="after")
    def _is_made(self) -> "Fuse":
        made = fuse_ratings_a(self.family)
        if self.rating_a not in made:
            ratings = ", ".join(f"{rating:g}" for rating in made)
            raise PercorsoError(f"a {self.family} fuse is made in {ratings} A", field=("rating_a",))
        return self


class FusibleLink(Spec):
    """A short piece of thinner wire with link insulation, at the source end of the wire it guards."""

    kind: Literal["fusible link"] = "fusible link"
    size: Size
    length_m: Length = 0.15
    zone: Zone = "engine bay"


class Breaker(Spec):
    """A resettable breaker; its resistance is that of a fuse of the same rating unless measured."""

    kind: Literal["breaker"] = "breaker"
    rating_a: Current
    resistance_ohm: Resistance = None


class Connector(Spec):
    """A pair of mating terminals."""

    kind: Literal["connector"] = "connector"
    condition: Literal["new blade", "tired blade", "bulkhead pair"] = "new blade"
    resistance_ohm: Resistance = None


class Splice(Spec):
    """Two conductors joined end to end."""

    kind: Literal["splice"] = "splice"
    condition: Literal["crimped", "crimped and soldered", "twisted and taped"] = "crimped"
    resistance_ohm: Resistance = None


class Joint(Spec):
    """A ring or lug fastened to what carries on."""

    kind: Literal["joint"] = "joint"
    condition: Literal["ring on clean stud", "lug on paint or rust"] = "ring on clean stud"
    resistance_ohm: Resistance = None


class Body(Spec):
    """Metal that was not laid as a conductor and is one: body seams, a control cable, a bearing."""

    kind: Literal["body"] = "body"
    condition: Literal["seam path", "control cable", "bearing"] = "seam path"
    resistance_ohm: Resistance = None


class Switch(Spec):
    """One contact of a switch: closed in the positions listed, of the key or of another input."""

    kind: Literal["switch"] = "switch"
    condition: Literal["switch"] = "switch"
    input: Identifier = KEY_INPUT
    closed_in: tuple[Identifier, ...] = ("on", "start")
    rated_a: Annotated[float | None, typed(CURRENT, optional=True)] = None
    resistance_ohm: Resistance = None


class SensorSwitch(Spec):
    """A contact that a named condition closes or opens: oil pressure, a level, a temperature."""

    kind: Literal["sensor switch"] = "sensor switch"
    condition: Literal["pressure", "level", "temperature"] = "pressure"
    input: Identifier
    closed_in: tuple[Identifier, ...] = ("on",)
    rated_a: Annotated[float | None, typed(CURRENT, optional=True)] = None
    resistance_ohm: Resistance = None


class RelayContact(Spec):
    """A relay's contact: normally open (30-87) or normally closed (30-87a).

    ``coil`` is the id of the relay coil that moves it; while it has none it is taken as closed.
    """

    kind: Literal["relay contact"] = "relay contact"
    condition: Literal["relay"] = "relay"
    form: Literal["NO", "NC"] = "NO"
    coil: Identifier | None = None
    rated_a: Annotated[float | None, typed(CURRENT, optional=True)] = None
    base: RelayBase | None = None  # what its wires go on; None: what is usual for its rating
    resistance_ohm: Resistance = None

    @property
    def seat(self) -> RelayBase:
        """What its wires go on: as said, or as relays of its rating are made (common practice)."""
        usual: RelayBase = "studs"
        if (self.rated_a or 0.0) <= BLADE_RELAY_A:
            usual = "6.3 mm blades"
        elif (self.rated_a or 0.0) <= WIDE_BLADE_RELAY_A:
            usual = "9.5 mm blades"
        return self.base or usual


class Diode(Spec):
    """A silicon diode that conducts from its first point to its second; ``forward_v`` is at ``rated_a``."""

    kind: Literal["diode"] = "diode"
    rated_a: Current = 3.0
    forward_v: Annotated[float, typed(VOLTAGE), Field(ge=0.2, le=2)] = 0.9  # silicon at its rating, from memory


class Resistor(Spec):
    """A resistor and what heat it stands."""

    kind: Literal["resistor"] = "resistor"
    resistance_ohm: Annotated[float, typed(RESISTANCE)]
    rated_w: Annotated[float, typed(POWER)] = 0.25


class Shunt(Spec):
    """An ammeter in the path: its shunt, by what it drops at full scale."""

    kind: Literal["shunt"] = "shunt"
    full_scale_a: Current = 60.0
    full_scale_drop_v: Annotated[float, typed(VOLTAGE)] = 0.075  # 60-75 mV shunts, common practice


SegmentSpec = Annotated[
    Wire
    | Fuse
    | FusibleLink
    | Breaker
    | Switch
    | SensorSwitch
    | RelayContact
    | Connector
    | Splice
    | Joint
    | Body
    | Diode
    | Resistor
    | Shunt,
    Field(discriminator="kind"),
]
SEGMENT_SPEC: TypeAdapter[SegmentSpec] = TypeAdapter(SegmentSpec)
KINDS: tuple[type[Spec], ...] = get_args(get_args(SegmentSpec)[0])
DESIGNATION_LETTER: Mapping[str, str] = {  # IEC 81346-2 style item letters as the trade uses them
    "wire": "W",
    "fuse": "F",
    "fusible link": "F",
    "breaker": "F",
    "switch": "S",
    "sensor switch": "S",
    "relay contact": "K",
    "connector": "X",
    "splice": "X",
    "joint": "J",
    "body": "B",
    "diode": "V",
    "resistor": "R",
    "shunt": "P",
}


def merged(spec: KeepsTyped, change: Mapping[str, Any]) -> dict[str, Any]:
    """Values of ``spec`` with ``change`` over them, not yet validated; nothing is kept when the kind changes.

    Typed text of a changed value goes with the old value.
    """
    values = spec.model_dump()
    kept = {} if change.get("kind", values["kind"]) != values["kind"] else values
    texts = {name: text for name, text in kept.pop("typed", {}).items() if name not in change}
    return {**kept, **change, "typed": texts}


def changed_spec(spec: SegmentSpec, change: Mapping[str, Any]) -> SegmentSpec:
    """The spec with some values changed, or a new one when ``change`` names another kind.

    Raises pydantic's ValidationError.
    """
    return SEGMENT_SPEC.validate_python(merged(spec, change))


def describe(spec: SegmentSpec) -> str:
    """One line for a segment under its designation: what it is, in the units it was typed in."""
    match spec:
        case Wire() | FusibleLink():
            text = f"{spec.size}, {spec.typed.get('length_m') or show(spec.length_m, LENGTH)}"
        case Fuse():
            text = f"{spec.rating_a:g} A {spec.family}" + ("" if spec.fitted else ", pulled")
        case Breaker():
            text = f"{spec.rating_a:g} A breaker"
        case Switch() | SensorSwitch():
            text = f"{spec.input.replace('_', ' ')}: {', '.join(spec.closed_in)}"
        case RelayContact():
            text = "relay" if spec.form == "NO" else "relay, 87a"
        case Diode():
            text = f"{spec.rated_a:g} A diode"
        case Resistor():
            text = f"{show(spec.resistance_ohm, RESISTANCE)}, {spec.rated_w:g} W"
        case Shunt():
            text = f"ammeter, {spec.full_scale_a:g} A"
        case _:
            text = spec.condition
    return text


def is_switched(spec: SegmentSpec) -> bool:
    """Whether a segment conducts only sometimes, or one way only."""
    return isinstance(spec, Switch | SensorSwitch | Diode) or (isinstance(spec, RelayContact) and spec.coil is not None)
