"""What a segment is made of: the validated values of each kind."""

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal, assert_never, get_args

from pydantic import AfterValidator, Field, TypeAdapter, model_validator

from percorso.components.conductors import ConductorSize, find_size
from percorso.components.fuses import FuseFamily, fuse_ratings_a
from percorso.components.insulation import Insulation, family, fitting_insulation
from percorso.components.thermal import Cable, cable_of
from percorso.errors import PercorsoError
from percorso.house_rules import Joining
from percorso.names import Designation, Identifier
from percorso.quantities import CURRENT, LENGTH, POWER, RESISTANCE, VOLTAGE, show
from percorso.vehicle.form_fields import Asked
from percorso.vehicle.states import KEY_INPUT
from percorso.vehicle.typed_fields import Current, KeepsTyped, Length, Resistance, merged, typed

COLOURS = ("BK", "BN", "RD", "OG", "YE", "GN", "BU", "VT", "GY", "WH", "PK")  # IEC 60757 letter codes

Zone = Literal["cabin", "engine bay", "near exhaust", "outside"]
ZONE_TEMPERATURE_C: Mapping[Zone, float] = {  # common practice, editable per job
    "cabin": 50.0,
    "engine bay": 85.0,
    "near exhaust": 125.0,
    "outside": 40.0,
}
HOT_ZONES: tuple[Zone, ...] = ("engine bay", "near exhaust")

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


RelayBase = Literal["6.3 mm blades", "9.5 mm blades", "studs"]
BLADE_RELAY_A, WIDE_BLADE_RELAY_A = 40.0, 70.0  # up to which relays have those blades, common practice
End = Literal["ring", "blade 6.3 mm", "connector terminal", "butt splice", "bare"]

MEASURED = Asked("Resistance, if measured", "typical")
RATED = Asked("Rated", "40 A")
DRIVEN = Asked("Driven by", among="key and inputs")
CLOSED_IN = Asked("Closed in", among="positions")


class Spec(KeepsTyped):
    """Values of one segment: ``LABEL`` is what its kind is called, ``LETTER`` what its designations begin with.

    The letters are those of IEC 81346-2 as the trade uses them.
    """

    LABEL: ClassVar[str]
    LETTER: ClassVar[str]


class Wire(Spec):
    """A single-core copper wire of one size through one zone."""

    LABEL: ClassVar[str] = "Wire"
    LETTER: ClassVar[str] = "W"
    kind: Literal["wire"] = "wire"
    size: Annotated[Size, Asked("Size", "10 AWG or 6 mm2", quantity="size")]
    length_m: Annotated[Length, Asked("Length", "13 ft or 4.1 m")]
    zone: Annotated[Zone, Asked("Through")] = "cabin"
    colour: Annotated[Annotated[str, AfterValidator(_colour)] | None, Asked("Colour", "RD or WH/RD")] = None
    insulation: Annotated[Insulation | None, Asked("Insulation", "usual for its size", more=True)] = None
    # loaded wires that lie together with it, itself counted
    bundle: Annotated[int, Field(ge=1, le=100), Asked("Loaded wires in its bundle", more=True)] = 1
    from_end: Annotated[End | None, Asked("First terminal", "usual for the place", more=True)] = None
    to_end: Annotated[End | None, Asked("Second terminal", "usual for the place", more=True)] = None
    joined: Annotated[Joining | None, Asked("Terminals are", "as the house does", more=True)] = None
    # or shakes against the rest: an engine, a door
    moves: Annotated[bool, Asked("Leads to something that moves", more=True)] = False

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
        return self.cable.size

    @property
    def cable(self) -> Cable:
        """The wire as heat sees it."""
        return cable_of(self.size, self.insulation)


class Fuse(Spec):
    """A fuse of a standard rating; its resistance is typical for the rating unless measured."""

    LABEL: ClassVar[str] = "Fuse"
    LETTER: ClassVar[str] = "F"
    kind: Literal["fuse"] = "fuse"
    rating_a: Annotated[Current, AfterValidator(_fuse_rating), Asked("Rating", "25 A")]
    family: Annotated[FuseFamily, Asked("Family")] = "blade"
    fitted: Annotated[bool, Asked("In its holder")] = True
    resistance_ohm: Annotated[Resistance, MEASURED] = None

    @model_validator(mode="after")
    def _is_made(self) -> "Fuse":
        made = fuse_ratings_a(self.family)
        if self.rating_a not in made:
            ratings = ", ".join(f"{rating:g}" for rating in made)
            raise PercorsoError(f"a {self.family} fuse is made in {ratings} A", field=("rating_a",))
        return self


class FusibleLink(Spec):
    """A short piece of thinner wire with link insulation, at the source end of the wire it guards."""

    LABEL: ClassVar[str] = "Fusible link"
    LETTER: ClassVar[str] = "F"
    kind: Literal["fusible link"] = "fusible link"
    size: Annotated[Size, Asked("Size", "14 AWG", quantity="size")]
    length_m: Annotated[Length, Asked("Length")] = 0.15
    zone: Annotated[Zone, Asked("Through")] = "engine bay"


class Breaker(Spec):
    """A resettable breaker; its resistance is that of a fuse of the same rating unless measured."""

    LABEL: ClassVar[str] = "Breaker"
    LETTER: ClassVar[str] = "F"
    kind: Literal["breaker"] = "breaker"
    rating_a: Annotated[Current, Asked("Rating", "30 A")]
    resistance_ohm: Annotated[Resistance, MEASURED] = None


class Connector(Spec):
    """A pair of mating terminals: a connector of its own, or one ``way`` of a ``plug`` with several.

    All ways of one plug part together when it is unplugged; a way may be pushed out alone.
    """

    LABEL: ClassVar[str] = "Connector"
    LETTER: ClassVar[str] = "X"
    kind: Literal["connector"] = "connector"
    condition: Annotated[Literal["new blade", "tired blade", "bulkhead pair"], Asked("Which")] = "new blade"
    resistance_ohm: Annotated[Resistance, MEASURED] = None
    plug: Annotated[Designation | None, Asked("Way of a plug", "a connector of its own", more=True)] = None
    way: Annotated[Designation | None, Asked("Its number in the plug", "1", more=True)] = None

    @model_validator(mode="after")
    def _way_of_a_plug(self) -> "Connector":
        if (self.plug is None) != (self.way is None):
            missing = "way" if self.way is None else "plug"
            raise PercorsoError("a way has a plug and a number in it", field=(missing,))
        return self


class Splice(Spec):
    """Two conductors joined end to end."""

    LABEL: ClassVar[str] = "Splice"
    LETTER: ClassVar[str] = "X"
    kind: Literal["splice"] = "splice"
    condition: Annotated[Literal["crimped", "crimped and soldered", "twisted and taped"], Asked("Which")] = "crimped"
    resistance_ohm: Annotated[Resistance, MEASURED] = None


class Joint(Spec):
    """A ring or lug fastened to what carries on."""

    LABEL: ClassVar[str] = "Joint: ring or lug"
    LETTER: ClassVar[str] = "J"
    kind: Literal["joint"] = "joint"
    condition: Annotated[Literal["ring on clean stud", "lug on paint or rust"], Asked("Which")] = "ring on clean stud"
    resistance_ohm: Annotated[Resistance, MEASURED] = None


class Body(Spec):
    """Metal that was not laid as a conductor and is one: body seams, a control cable, a bearing."""

    LABEL: ClassVar[str] = "Body metal, cable, bearing"
    LETTER: ClassVar[str] = "B"
    kind: Literal["body"] = "body"
    condition: Annotated[Literal["seam path", "control cable", "bearing"], Asked("Which")] = "seam path"
    resistance_ohm: Annotated[Resistance, MEASURED] = None


class Switch(Spec):
    """One contact of a switch: closed in the positions listed, of the key or of another input."""

    LABEL: ClassVar[str] = "Switch contact"
    LETTER: ClassVar[str] = "S"
    kind: Literal["switch"] = "switch"
    condition: Literal["switch"] = "switch"
    input: Annotated[Identifier, DRIVEN] = KEY_INPUT
    closed_in: Annotated[tuple[Identifier, ...], CLOSED_IN] = ("on", "start")
    rated_a: Annotated[float | None, typed(CURRENT, optional=True), RATED] = None
    resistance_ohm: Annotated[Resistance, MEASURED] = None


class SensorSwitch(Spec):
    """A contact that a named condition closes or opens: oil pressure, a level, a temperature."""

    LABEL: ClassVar[str] = "Pressure, level or heat switch"
    LETTER: ClassVar[str] = "S"
    kind: Literal["sensor switch"] = "sensor switch"
    condition: Annotated[Literal["pressure", "level", "temperature"], Asked("Which")] = "pressure"
    input: Annotated[Identifier, Asked("Driven by", among="inputs")]
    closed_in: Annotated[tuple[Identifier, ...], CLOSED_IN] = ("on",)
    rated_a: Annotated[float | None, typed(CURRENT, optional=True), RATED] = None
    resistance_ohm: Annotated[Resistance, MEASURED] = None


CONTACT_NAMES = {"NO": "open at rest, 87", "NC": "closed at rest, 87a"}


class RelayContact(Spec):
    """A relay's contact: normally open (30-87) or normally closed (30-87a).

    ``coil`` is the id of the relay coil that moves it; while it has none it is taken as closed.
    """

    LABEL: ClassVar[str] = "Relay contact"
    LETTER: ClassVar[str] = "K"
    kind: Literal["relay contact"] = "relay contact"
    condition: Literal["relay"] = "relay"
    coil: Annotated[Identifier | None, Asked("Moved by", "always closed", among="coils")] = None
    form: Annotated[Literal["NO", "NC"], Asked("Contact", names=CONTACT_NAMES)] = "NO"
    rated_a: Annotated[float | None, typed(CURRENT, optional=True), RATED] = None
    base: Annotated[RelayBase | None, Asked("Its wires go on", "usual for its rating", more=True)] = None
    resistance_ohm: Annotated[Resistance, MEASURED] = None

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

    LABEL: ClassVar[str] = "Diode"
    LETTER: ClassVar[str] = "V"
    kind: Literal["diode"] = "diode"
    rated_a: Annotated[Current, Asked("Rated")] = 3.0
    # silicon at its rating, from memory
    forward_v: Annotated[float, typed(VOLTAGE), Field(ge=0.2, le=2), Asked("Forward drop at its rating")] = 0.9


class Resistor(Spec):
    """A resistor and what heat it stands."""

    LABEL: ClassVar[str] = "Resistor"
    LETTER: ClassVar[str] = "R"
    kind: Literal["resistor"] = "resistor"
    resistance_ohm: Annotated[float, typed(RESISTANCE), Asked("Resistance", "470 ohm")]
    rated_w: Annotated[float, typed(POWER), Asked("Rated")] = 0.25


class Shunt(Spec):
    """An ammeter in the path: its shunt, by what it drops at full scale."""

    LABEL: ClassVar[str] = "Ammeter"
    LETTER: ClassVar[str] = "P"
    kind: Literal["shunt"] = "shunt"
    full_scale_a: Annotated[Current, Asked("Full scale")] = 60.0
    # 60-75 mV shunts, common practice
    full_scale_drop_v: Annotated[float, typed(VOLTAGE), Asked("Drops at full scale")] = 0.075


Contact = Switch | SensorSwitch | RelayContact
GUARDS = (Fuse, FusibleLink, Breaker)  # what protects a wire, over which no jumper ever lies
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
        case Connector() | Splice() | Joint() | Body():
            text = spec.condition
        case _:
            assert_never(spec)
    return text


def is_switched(spec: SegmentSpec) -> bool:
    """Whether a segment conducts only sometimes, or one way only."""
    return isinstance(spec, Switch | SensorSwitch | Diode) or (isinstance(spec, RelayContact) and spec.coil is not None)
