"""The resistance a segment comes to: measured, typical of its kind, or of its copper; and what is a bad connection."""

from collections.abc import Mapping
from functools import cache
from typing import assert_never

from percorso import tables
from percorso.components.conductors import find_size, resistance_ohm, warmed
from percorso.errors import PercorsoError
from percorso.house_rules import Joining
from percorso.vehicle.segments import (
    ZONE_TEMPERATURE_C,
    Body,
    Breaker,
    Connector,
    Diode,
    Fuse,
    FusibleLink,
    Joint,
    RelayContact,
    Resistor,
    SegmentSpec,
    SensorSwitch,
    Shunt,
    Splice,
    Switch,
    Wire,
    Zone,
)

FUSE_DROP_AT_RATING_V = 0.1  # blade fuse, typical, from memory; measure yours
BAD_TIMES = 3.0  # the most a sound connection has: from there on it is bad for certain
IDEAL_OHM = 1e-6  # what a link of no resistance is taken as, so that currents in a loop of them are defined


@cache
def connection_ohm(kind: str, condition: str) -> tuple[float, float, float]:
    """The least, the typical and the most resistance of a sound connection, Ω; the table names the source."""
    for row in tables.rows("connections"):
        if (row["kind"], row["condition"]) == (kind, condition):
            low, typical, high = (float(row[each]) / 1000 for each in ("low_mohm", "typical_mohm", "high_mohm"))
            return low, typical, high
    raise PercorsoError(f"no typical resistance is known for {kind}, {condition}")


def sound_at_most_ohm(spec: SegmentSpec) -> float | None:
    """The most a sound connection of its kind has, Ω; None for what is no connection or was not measured."""
    if isinstance(spec, Fuse):
        return None if spec.resistance_ohm is None else FUSE_DROP_AT_RATING_V / spec.rating_a
    if not isinstance(spec, Joint | Splice | Connector | RelayContact) or spec.resistance_ohm is None:
        return None
    return connection_ohm(spec.kind, spec.condition)[2]


def is_bad_connection(spec: SegmentSpec) -> bool:
    """Whether a connection was measured to have far more than a sound one."""
    most = sound_at_most_ohm(spec)
    return most is not None and segment_resistance_ohm(spec) > BAD_TIMES * most


def ends_resistance_ohm(spec: Wire) -> float:
    """Typical resistance of the terminals a wire is said to have, Ω; those that are only usual count nothing."""
    said = sum(end is not None for end in (spec.from_end, spec.to_end))
    return said * joining_ohm(spec.joined or "crimped") if said else 0.0


@cache
def joining_ohm(method: Joining) -> float:
    """Typical resistance of a terminal put on by a method, Ω; the table names its limits."""
    row = next(row for row in tables.rows("joining") if row["method"] == method)
    return float(row["typical_mohm"]) / 1000


def ohms(spec: SegmentSpec) -> tuple[float, float]:
    """A segment while it conducts, Ω: its copper at 20 °C, and what heat does not change, measured or typical.

    A diode counts as the chord of its forward drop at its rating.
    """
    match spec:
        case Wire():
            return resistance_ohm(spec.conductor, spec.length_m), ends_resistance_ohm(spec)
        case FusibleLink():
            return resistance_ohm(find_size(spec.size), spec.length_m), 0.0
        case Shunt():
            return 0.0, spec.full_scale_drop_v / spec.full_scale_a
        case Diode():
            return 0.0, spec.forward_v / spec.rated_a
        case Resistor():
            return 0.0, spec.resistance_ohm
        case Fuse() | Breaker():
            typical = FUSE_DROP_AT_RATING_V / spec.rating_a
        case Connector() | Splice() | Joint() | Body() | Switch() | SensorSwitch() | RelayContact():
            typical = connection_ohm(spec.kind, spec.condition)[1]
        case _:
            assert_never(spec)
    return 0.0, typical if spec.resistance_ohm is None else spec.resistance_ohm


def segment_resistance_ohm(spec: SegmentSpec, zone_temperature_c: Mapping[Zone, float] = ZONE_TEMPERATURE_C) -> float:
    """Resistance of a segment while it conducts, Ω: its copper at its zone's temperature, and the rest."""
    copper, rest = ohms(spec)
    return copper * warmed(zone_temperature_c[spec.zone]) + rest if isinstance(spec, Wire | FusibleLink) else rest
