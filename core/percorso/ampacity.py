"""How much current a wire of a job may carry where it lies: by table and by the thermal model, and which one rules."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

from percorso.heating import (
    ENGINE_SPACE_C,
    TABLE_AIR_C,
    Cable,
    ampacity_a,
    intermittent_ampacity_a,
    table_ampacity_a,
    temperature_c,
)
from percorso.house_rules import AmpacityRule, HouseRules
from percorso.specs import HOT_ZONES, ZONE_TEMPERATURE_C, Wire, Zone

CRANKS_FOR_S, CRANK_RESTS_S = 30.0, 120.0  # crank no longer, then let it cool; common practice


@dataclass(frozen=True)
class Ampacity:
    """What a wire may carry for long, A, by both rules; ``rule`` is the one the house goes by."""

    table_a: float
    model_a: float
    rule: AmpacityRule

    @property
    def allowed_a(self) -> float:
        """What the house lets it carry, A."""
        return self.table_a if self.rule == "table" else self.model_a


def wire_ampacity(
    spec: Wire, rules: HouseRules, zone_temperature_c: Mapping[Zone, float] = ZONE_TEMPERATURE_C
) -> Ampacity:
    """Ampacity of a wire in its zone and bundle."""
    return cable_ampacity(spec.cable, spec.zone, spec.bundle, rules, zone_temperature_c)


def cable_ampacity(
    wire: Cable, zone: Zone, bundle: int, rules: HouseRules, zone_temperature_c: Mapping[Zone, float]
) -> Ampacity:
    """Ampacity of a cable in a zone and a bundle; the table knows engine spaces, the model the zone's temperature."""
    table_air_c = ENGINE_SPACE_C if zone in HOT_ZONES else TABLE_AIR_C
    return Ampacity(*_both_a(wire, table_air_c, zone_temperature_c[zone], bundle), rules.ampacity_rule)


@cache
def _both_a(wire: Cable, table_air_c: float, air_c: float, bundle: int) -> tuple[float, float]:
    listed = table_ampacity_a(wire.size, limit_c=wire.limit_c, air_c=table_air_c, bundle=bundle)
    return listed, float(ampacity_a(wire, air_c, bundle))


@cache
def copper_c(wire: Cable, current_a: float, air_c: float, bundle: int) -> float:
    """How warm the copper of a cable gets for long, °C; infinite where it would melt."""
    return float(temperature_c(wire, current_a, air_c, bundle))


@cache
def cranking_ampacity_a(wire: Cable, air_c: float) -> float:
    """Current a cable stands while cranking as long and as often as is good for a starter, A."""
    if air_c >= wire.limit_c:
        return 0.0
    return float(intermittent_ampacity_a(wire, CRANKS_FOR_S, CRANK_RESTS_S, air_c))
