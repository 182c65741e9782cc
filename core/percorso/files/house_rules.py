"""House rules as people write them, in a file or on a screen: shares in percent, quantities in their own units."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from percorso.components.conductors import find_size
from percorso.errors import PercorsoError
from percorso.floors import USES, Use, usual_floors
from percorso.house_rules import COLDEST_C, WARMEST_MORNING_C, AmpacityRule, Copper, HouseRules, Joining, School
from percorso.json_text import read_json
from percorso.quantities import CURRENT, LENGTH, PERCENT, TEMPERATURE, VOLTAGE, parse
from percorso.sizing.wire_ends import terminals
from percorso.targets import PURPOSES, Purpose, Target, usual_targets
from percorso.vehicle.form_fields import Asked
from percorso.vehicle.segments import Size
from percorso.vehicle.typed_fields import typed

_USUAL = HouseRules()
_FROM_ZERO = replace(PERCENT, above_lowest=False)
_BLADE = terminals()["blade 6.3 mm"]
MOST_FLOOR_MM2: dict[Use, float] = {"starter cable": 120.0, "ground strap": 120.0}  # of others what a blade takes
MOST_OF = {"max_drop_v": 5.0, "max_drop_percent": 50.0}  # V or %; nobody agrees to lose more

PercentShare = Annotated[float, typed(PERCENT), Field(ge=1, le=100)]


SCHOOLS = {
    "light": "light: the smallest that do",
    "usual": "usual: with margin",
    "generous": "generous: one above usual",
}
WARMTHS = {"own temperature": "its current makes it", "zone temperature": "its zone, as in handbooks"}


def _percent(fraction: float) -> float:
    return round(100 * fraction, 6)


class TargetRule(BaseModel):
    """What a new circuit of a purpose must meet: V, or percent of nominal; also as people type it, ``3 %``."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    kind: Literal["max_drop_v", "max_drop_percent"]
    value: Annotated[float, Field(strict=True, gt=0)]

    @model_validator(mode="before")
    @classmethod
    def _as_typed(cls, data: Any) -> Any:
        """As people type it: volts, or percent of nominal."""
        if not isinstance(data, str):
            return data
        if data.strip().endswith(("%", "percent")):
            return {"kind": "max_drop_percent", "value": parse(data, PERCENT)}
        return {"kind": "max_drop_v", "value": parse(data, VOLTAGE)}

    @model_validator(mode="after")
    def _within_reason(self) -> "TargetRule":
        if self.value > MOST_OF[self.kind]:
            unit = "V" if self.kind == "max_drop_v" else "%"
            raise PercorsoError(f"write more than 0 and at most {MOST_OF[self.kind]:g} {unit}", field=("value",))
        return self


def _usual_rules() -> dict[Purpose, TargetRule]:
    return {purpose: _target_rule(target) for purpose, target in usual_targets()}


def _target_rule(target: Target) -> TargetRule:
    return TargetRule.model_validate({"kind": target.kind, "value": target.value})


def _usual_floors() -> dict[Use, str]:
    return {use: f"{mm2:g} mm2" for use, mm2 in usual_floors()}


class HouseRulesValues(BaseModel):
    """A shop's rules; what is left out is as usual. The thinnest wire is said by its size."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    fuse_load_percent: Annotated[PercentShare, Asked("A fuse carries for long, of its rating")] = _percent(
        _USUAL.fuse_load_fraction
    )
    source_fuse_within_m: Annotated[float, typed(LENGTH), Field(le=5), Asked("A fuse sits within, of its source")] = (
        _USUAL.source_fuse_within_m
    )
    ampacity_rule: Annotated[AmpacityRule, Asked("What a wire may carry, by")] = _USUAL.ampacity_rule
    school: Annotated[School, Asked("New sizes are", names=SCHOOLS)] = _USUAL.school
    wire_load_percent: Annotated[PercentShare, Asked("Usual size: carries for long, of what it may")] = _percent(
        _USUAL.wire_load_fraction
    )
    wire_rise_k: Annotated[float, Field(ge=5, le=200), Asked("Usual size: warmer than the air by, K")] = (
        _USUAL.wire_rise_k
    )
    thinnest_wire: Annotated[Size, Asked("Thinnest wire", quantity="size")] = f"{_USUAL.thinnest_wire_mm2:g} mm2"
    smallest_fuse_a: Annotated[float, typed(CURRENT), Field(ge=0.5, le=30), Asked("Smallest fuse on the shelf")] = (
        _USUAL.smallest_fuse_a
    )
    copper: Annotated[Copper, Asked("Copper is as warm as", names=WARMTHS)] = _USUAL.copper
    coldest_morning_c: Annotated[
        float, typed(TEMPERATURE), Field(ge=COLDEST_C, le=WARMEST_MORNING_C), Asked("It must start on mornings of")
    ] = _USUAL.coldest_morning_c
    joined: Annotated[Joining, Asked("Terminals are")] = _USUAL.joined
    slack_percent: Annotated[float, typed(_FROM_ZERO), Field(le=50), Asked("Cut longer, of the length")] = _percent(
        _USUAL.slack_fraction
    )
    slack_m: Annotated[float, typed(replace(LENGTH, above_lowest=False)), Field(le=5), Asked("Cut longer besides")] = (
        _USUAL.slack_m
    )
    close_percent: Annotated[PercentShare, Asked("Close, from this much of the allowance")] = _percent(
        _USUAL.close_fraction
    )
    min_test_current_percent: Annotated[PercentShare, Asked("A drop test needs, of the design current")] = _percent(
        _USUAL.min_test_current_fraction
    )
    expected_tolerance_percent: Annotated[PercentShare, Asked("A reading is as expected within")] = _percent(
        _USUAL.expected_tolerance
    )
    charging_reserve_percent: Annotated[
        float, typed(_FROM_ZERO), Field(le=100), Asked("An alternator makes more than asked, by")
    ] = _percent(_USUAL.charging_reserve_fraction)
    targets: dict[Purpose, TargetRule] = Field(default_factory=_usual_rules)
    floors: dict[Use, Size] = Field(default_factory=_usual_floors)

    @model_validator(mode="before")
    @classmethod
    def _others_as_usual(cls, data: Any) -> Any:
        if not isinstance(data, dict):
            return data
        usual: dict[str, dict[Any, Any]] = {"targets": _usual_rules(), "floors": _usual_floors()}
        said = {name: {**all_, **data[name]} for name, all_ in usual.items() if isinstance(data.get(name), dict)}
        return data | said

    @model_validator(mode="after")
    def _ends_take_the_floors(self) -> "HouseRulesValues":
        least = _BLADE.thinnest_mm2
        for use, size in self.floors.items():
            most = MOST_FLOOR_MM2.get(use, _BLADE.thickest_mm2)
            if not least <= find_size(size).area_mm2 <= most * (1 + 1e-9):
                raise PercorsoError(f"its ends take {least:g} to {most:g} mm2", field=("floors", use))
        return self

    @property
    def rules(self) -> HouseRules:
        """The rules as the core takes them."""
        return HouseRules(
            fuse_load_fraction=self.fuse_load_percent / 100,
            min_test_current_fraction=self.min_test_current_percent / 100,
            close_fraction=self.close_percent / 100,
            expected_tolerance=self.expected_tolerance_percent / 100,
            ampacity_rule=self.ampacity_rule,
            school=self.school,
            wire_load_fraction=self.wire_load_percent / 100,
            wire_rise_k=self.wire_rise_k,
            source_fuse_within_m=self.source_fuse_within_m,
            thinnest_wire_mm2=find_size(self.thinnest_wire).area_mm2,
            joined=self.joined,
            slack_fraction=self.slack_percent / 100,
            slack_m=self.slack_m,
            charging_reserve_fraction=self.charging_reserve_percent / 100,
            copper=self.copper,
            coldest_morning_c=self.coldest_morning_c,
            smallest_fuse_a=self.smallest_fuse_a,
            targets=tuple((each, Target(self.targets[each].kind, self.targets[each].value)) for each in PURPOSES),
            floors=tuple((each, find_size(self.floors[each]).area_mm2) for each in USES),
        )


def said_values(rules: HouseRules, thinnest_wire: str) -> Mapping[str, Any]:
    """Rules as people write them, for ``HouseRulesValues``."""
    return {
        "fuse_load_percent": _percent(rules.fuse_load_fraction),
        "min_test_current_percent": _percent(rules.min_test_current_fraction),
        "close_percent": _percent(rules.close_fraction),
        "expected_tolerance_percent": _percent(rules.expected_tolerance),
        "ampacity_rule": rules.ampacity_rule,
        "school": rules.school,
        "wire_load_percent": _percent(rules.wire_load_fraction),
        "wire_rise_k": rules.wire_rise_k,
        "source_fuse_within_m": rules.source_fuse_within_m,
        "thinnest_wire": thinnest_wire,
        "joined": rules.joined,
        "slack_percent": _percent(rules.slack_fraction),
        "slack_m": rules.slack_m,
        "charging_reserve_percent": _percent(rules.charging_reserve_fraction),
        "copper": rules.copper,
        "coldest_morning_c": rules.coldest_morning_c,
        "smallest_fuse_a": rules.smallest_fuse_a,
        "targets": {purpose: _target_rule(target) for purpose, target in rules.targets},
        "floors": {use: f"{mm2:g} mm2" for use, mm2 in rules.floors},
    }


def read_rules(text: str | bytes) -> HouseRules:
    """House rules from a JSON file's text. Raises ValueError for what is no JSON, pydantic's ValidationError."""
    return HouseRulesValues.model_validate(read_json(text.decode() if isinstance(text, bytes) else text)).rules
