"""HTTP API of a shop's house rules: what they are, and changing them for every job of the shop."""

from dataclasses import replace
from typing import Annotated

from django.db import transaction
from ninja import Router
from pydantic import BaseModel, ConfigDict, Field

from percorso.house_rules import AmpacityRule, Joining
from percorso.quantities import LENGTH, PERCENT
from percorso.specs import Size, typed
from workshop.models import Shop
from workshop.signed_in import SignedInRequest
from workshop.stale import StaleError

router = Router(tags=["house rules"])
Share = Annotated[float, typed(PERCENT), Field(ge=1, le=100)]


class HouseRulesBody(BaseModel):
    """House rules as people write them: shares in percent, the thinnest wire by its size."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    version: int
    fuse_load_percent: Share
    min_test_current_percent: Share
    close_percent: Share
    expected_tolerance_percent: Share
    ampacity_rule: AmpacityRule
    source_fuse_within_m: Annotated[float, typed(LENGTH), Field(le=5)]
    thinnest_wire: Size
    joined: Joining
    slack_percent: Annotated[float, typed(replace(PERCENT, above_lowest=False)), Field(le=50)]
    slack_m: Annotated[float, typed(replace(LENGTH, above_lowest=False)), Field(le=5)]
    charging_reserve_percent: Annotated[float, typed(replace(PERCENT, above_lowest=False)), Field(le=100)]


def _percent(fraction: float) -> float:
    return round(100 * fraction, 6)


def _body(shop: Shop) -> HouseRulesBody:
    return HouseRulesBody(
        version=shop.version,
        fuse_load_percent=_percent(shop.fuse_load_fraction),
        min_test_current_percent=_percent(shop.min_test_current_fraction),
        close_percent=_percent(shop.close_fraction),
        expected_tolerance_percent=_percent(shop.expected_tolerance),
        ampacity_rule=shop.house_rules.ampacity_rule,
        source_fuse_within_m=shop.source_fuse_within_m,
        thinnest_wire=shop.thinnest_wire,
        joined=shop.house_rules.joined,
        slack_percent=_percent(shop.slack_fraction),
        slack_m=shop.slack_m,
        charging_reserve_percent=_percent(shop.charging_reserve_fraction),
    )


@router.get("/house-rules", response=HouseRulesBody)
def read_rules(request: SignedInRequest) -> HouseRulesBody:
    """The house rules of the shop."""
    return _body(request.user.shop)


@router.put("/house-rules", response=HouseRulesBody)
def change_rules(request: SignedInRequest, values: HouseRulesBody) -> HouseRulesBody:
    """Change the house rules; every job of the shop is judged by them from now on."""
    with transaction.atomic():
        shop = Shop.objects.select_for_update().get(pk=request.user.shop_id)
        if shop.version != values.version:
            raise StaleError("the house rules", _body(shop).model_dump())
        shop.fuse_load_fraction = values.fuse_load_percent / 100
        shop.min_test_current_fraction = values.min_test_current_percent / 100
        shop.close_fraction = values.close_percent / 100
        shop.expected_tolerance = values.expected_tolerance_percent / 100
        shop.ampacity_rule = values.ampacity_rule
        shop.source_fuse_within_m = values.source_fuse_within_m
        shop.thinnest_wire = values.thinnest_wire
        shop.joined = values.joined
        shop.slack_fraction = values.slack_percent / 100
        shop.slack_m = values.slack_m
        shop.charging_reserve_fraction = values.charging_reserve_percent / 100
        shop.version += 1
        shop.save()
    return _body(shop)
