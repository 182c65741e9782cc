"""Reads the quantities people type ("30 ft", "650 mA", "4ga") into SI, strictly, and writes them back."""

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass

from percorso.errors import QuantityError

FOOT_M = 0.3048  # exact, international foot (1959)
INCH_M = 0.0254  # exact
MAX_TYPED_LENGTH = 60
_NUMBER = r"[+-]?(?:[0-9]+(?:\.[0-9]*)?|\.[0-9]+)(?:[eE][+-]?[0-9]+)?"
_NUMBER_AND_UNIT = re.compile(rf"({_NUMBER})\s*(\D.*)?")
_FEET_AND_INCHES = re.compile(rf"({_NUMBER})\s*(?:ft|feet|foot|')\s*({_NUMBER})\s*(?:in|inch|inches|\"|'')")


@dataclass(frozen=True)
class Kind:
    """One kind of quantity: how its units are spelled and what is believable on a vehicle.

    ``units`` maps each accepted spelling to (factor, offset) with SI = factor * typed + offset.
    ``lowest`` and ``highest`` bound the SI value; ``above_lowest`` excludes the lower bound itself.
    """

    name: str
    unit: str
    units: Mapping[str, tuple[float, float]]
    lowest: float
    highest: float
    above_lowest: bool
    example: str


def _scaled(unit: str, spellings: str, **prefixes: str) -> dict[str, tuple[float, float]]:
    """Spellings of a unit and of its prefixed forms; ``prefixes`` maps a prefix letter to its factor."""
    units = {unit: (1.0, 0.0)} | dict.fromkeys(spellings.split(), (1.0, 0.0))
    for prefix, factor in prefixes.items():
        units |= {prefix + word: (float(factor), 0.0) for word in (unit, *spellings.split())}
    return units


LENGTH = Kind(
    "length",
    "m",
    {"m": (1.0, 0.0), "metre": (1.0, 0.0), "metres": (1.0, 0.0), "meter": (1.0, 0.0), "meters": (1.0, 0.0)}
    | {"cm": (0.01, 0.0), "mm": (0.001, 0.0), "km": (1000.0, 0.0)}
    | dict.fromkeys(("ft", "foot", "feet", "'"), (FOOT_M, 0.0))
    | dict.fromkeys(("in", "inch", "inches", '"', "''"), (INCH_M, 0.0))
    | dict.fromkeys(("yd", "yard", "yards"), (3 * FOOT_M, 0.0)),
    0.0,
    200.0,
    True,
    '"30 ft", "9.1 m" or "360 in"',
)
CURRENT = Kind(
    "current", "A", _scaled("A", "amp amps ampere amperes", m="1e-3", k="1e3"), 0.0, 3000.0, True, '"20 A" or "650 mA"'
)
VOLTAGE = Kind("voltage", "V", _scaled("V", "volt volts", m="1e-3", k="1e3"), 0.0, 100.0, True, '"13.8 V" or "250 mV"')
RESISTANCE = Kind(
    "resistance",
    "ohm",
    _scaled("ohm", "ohms Ω Ω", m="1e-3", k="1e3", u="1e-6", µ="1e-6"),
    0.0,
    1e6,
    True,
    '"470 ohm" or "2 mohm"',
)
POWER = Kind("power", "W", _scaled("W", "watt watts", m="1e-3", k="1e3"), 0.0, 1e5, True, '"55 W" or "1.2 kW"')
TEMPERATURE = Kind(
    "temperature",
    "°C",
    dict.fromkeys(("C", "°C", "degC"), (1.0, 0.0))
    | dict.fromkeys(("F", "°F", "degF"), (5 / 9, -160 / 9))
    | {"K": (1.0, -273.15)},
    -60.0,
    300.0,
    False,
    '"20C" or "120F"',
)
PERCENT = Kind("share", "%", {"%": (1.0, 0.0), "percent": (1.0, 0.0)}, 0.0, 100.0, True, '"3%"')
KINDS = {kind.name: kind for kind in (LENGTH, CURRENT, VOLTAGE, RESISTANCE, POWER, TEMPERATURE, PERCENT)}


def parse(text: str, kind: Kind) -> float:
    """Read what a person typed as a quantity of ``kind``.

    Returns the value in the kind's SI unit (temperature: °C; share: percent).
    Raises QuantityError when the text is no number with a known unit, could mean two things, or is out of range.
    """
    typed = _cleaned(text, kind.example)
    if kind is LENGTH and (both := _FEET_AND_INCHES.fullmatch(typed)):
        return in_range(float(both[1]) * FOOT_M + float(both[2]) * INCH_M, kind)
    match = _NUMBER_AND_UNIT.fullmatch(typed)
    if not match:
        raise QuantityError(f'"{typed}" is not a {kind.name}; write for example {kind.example}')
    number, unit = match.groups()
    if unit is None:
        raise QuantityError(f'"{typed}" has no unit; write for example {kind.example}')
    factor, offset = _unit(unit, kind)
    return in_range(factor * float(number) + offset, kind)


def _cleaned(text: str, example: str) -> str:
    typed = text.strip().replace("\u2212", "-").replace("\u2032", "'").replace("\u2033", '"').replace("\xa0", " ")
    if not typed:
        raise QuantityError(f"nothing was typed; write for example {example}")
    if len(typed) > MAX_TYPED_LENGTH:
        raise QuantityError(f"that is longer than {MAX_TYPED_LENGTH} characters; write for example {example}")
    if re.search(r"[0-9],[0-9]", typed):
        raise QuantityError(f'"{typed}" has a comma, which could mean two things; write a decimal point')
    return typed


def _unit(unit: str, kind: Kind) -> tuple[float, float]:
    if unit in kind.units:
        return kind.units[unit]
    lowered = unit.lower()
    if unit.startswith("M") and any(lowered == "m" + other.lower() for other in kind.units):
        raise QuantityError(f'"{unit}" could mean milli or mega; write "m{unit[1:]}" for thousandths')
    spelled = {known.lower(): value for known, value in kind.units.items()}
    if lowered in spelled:
        return spelled[lowered]
    raise QuantityError(f'"{unit}" is not a unit of {kind.name}; write for example {kind.example}')


def in_range(value: float, kind: Kind) -> float:
    """Return ``value`` (SI) if it is finite and believable for ``kind``, else raise QuantityError naming the range."""
    too_low = value <= kind.lowest if kind.above_lowest else value < kind.lowest
    if not math.isfinite(value) or too_low or value > kind.highest:
        lower = f"above {kind.lowest:g}" if kind.above_lowest else f"from {kind.lowest:g}"
        raise QuantityError(f"{kind.name} must be {lower} up to {kind.highest:g} {kind.unit}")
    return value


@dataclass(frozen=True)
class TypedSize:
    """A conductor size as typed: series "awg" (gauge, 0 for 1/0, -1 for 2/0 …) or "metric" (area in mm²)."""

    series: str
    number: float


_AWG = re.compile(r"(?:AWG\s*)?([0-9]{1,2})(/0)?\s*(AWG|gauge|gage|ga)?\.?", re.IGNORECASE)
_METRIC = re.compile(rf"({_NUMBER})\s*(?:mm2|mm²|mm\^2|sq\.?\s*mm|mmq)", re.IGNORECASE)
SIZE_EXAMPLE = '"10 AWG", "2/0" or "10 mm2"'


def parse_size(text: str) -> TypedSize:
    """Read a conductor size: ``4 AWG``, ``4ga``, ``2/0``, ``10 mm2``, ``10mm²``.

    Raises QuantityError when it is neither, or could be either ("10", "10 mm").
    Whether such a size is made is for ``conductors.find_size`` to say.
    """
    typed = _cleaned(text, SIZE_EXAMPLE)
    if metric := _METRIC.fullmatch(typed):
        return TypedSize("metric", float(metric[1]))
    if awg := _AWG.fullmatch(typed):
        gauge, aught = int(awg[1]), awg[2] is not None
        if not aught and not re.search("[a-z]", typed, re.IGNORECASE):
            raise QuantityError(f'"{typed}" could be AWG or mm²; write "{typed} AWG" or "{typed} mm2"')
        return TypedSize("awg", 1 - gauge if aught else gauge)
    if re.fullmatch(rf"{_NUMBER}\s*mm", typed):
        raise QuantityError(f'"{typed}" is a diameter; write the area, "{typed}2", or the AWG number')
    raise QuantityError(f'"{typed}" is not a conductor size; write for example {SIZE_EXAMPLE}')


def show(value: float, kind: Kind) -> str:
    """Write an SI value as people do: ``9.14 m``, ``251 mV``, ``12.9 V``, ``3.2 mohm``, ``20 °C``."""
    if kind is PERCENT:
        return f"{value:g} %"
    if kind not in (TEMPERATURE, LENGTH) and 0 < abs(value) < 0.9995:
        return f"{_three_figures(value * 1000)} m{kind.unit}"
    return f"{_three_figures(value)} {kind.unit}"


def _three_figures(value: float) -> str:
    """Three significant figures without an exponent; more where the whole part needs them."""
    if value == 0:
        return "0"
    decimals = max(0, 2 - math.floor(math.log10(abs(value))))
    text = f"{value:.{decimals}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text
