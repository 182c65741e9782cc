"""How much current a wire of a job may carry where it lies: by table and by the thermal model, and which one rules."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache

from percorso.components.published_ampacity import table_ampacity_a
from percorso.components.thermal import Cable, ampacity_a, intermittent_ampacity_a, temperature_c
from percorso.house_rules import AmpacityRule, HouseRules
from percorso.vehicle.segments import HOT_ZONES, ZONE_TEMPERATURE_C, Wire, Zone

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
        by_rule = {"table": self.table_a, "thermal model": self.model_a}
        return by_rule.get(self.rule, min(self.table_a, self.model_a))

    @property
    def ruling(self) -> str:
        """The rule that gives the allowed figure, in words."""
        lower = "table" if self.table_a <= self.model_a else "thermal model"
        return lower if self.rule == "lower of both" else self.rule


def wire_ampacity(
    spec: Wire, rules: HouseRules, zone_temperature_c: Mapping[Zone, float] = ZONE_TEMPERATURE_C
) -> Ampacity:
    """Ampacity of a wire in its zone and bundle."""
    air_c, engine_space = zone_temperature_c[spec.zone], spec.zone in HOT_ZONES
    return cable_ampacity(spec.cable, air_c, spec.bundle, rules, engine_space=engine_space)


def cable_ampacity(
    wire: Cable, air_c: float, bundle: int, rules: HouseRules, *, engine_space: bool = False
) -> Ampacity:
    """Ampacity of a cable in air of a temperature and in a bundle; nothing where the air is as hot as it stands."""
    return Ampacity(*_both_a(wire, air_c, bundle, engine_space), rules.ampacity_rule)


@cache
def _both_a(wire: Cable, air_c: float, bundle: int, engine_space: bool) -> tuple[float, float]:
    listed = table_ampacity_a(wire.size, limit_c=wire.limit_c, air_c=air_c, bundle=bundle, engine_space=engine_space)
    return listed, float(ampacity_a(wire, air_c, bundle))


@cache
def copper_c(wire: Cable, current_a: float, air_c: float, bundle: int) -> float:
    """How warm the copper of a cable gets for long, °C; infinite where it would melt."""
    return float(temperature_c(wire, current_a, air_c, bundle))


@cache
def warming_a(wire: Cable, rise_k: float, air_c: float, bundle: int) -> float:
    """Lasting current that warms the copper of a cable so far over its surroundings, A."""
    return float(ampacity_a(replace(wire, limit_c=air_c + rise_k), air_c, bundle))


@cache
def cranking_ampacity_a(wire: Cable, air_c: float) -> float:
    """Current a cable stands while cranking as long and as often as is good for a starter, A."""
    if air_c >= wire.limit_c:
        return 0.0
    return float(intermittent_ampacity_a(wire, CRANKS_FOR_S, CRANK_RESTS_S, air_c))
