"""HTTP API of a shop's house rules: what they are, and changing them for every job of the shop."""

from dataclasses import fields

from django.db import transaction
from ninja import Router

from percorso.files.house_rules import HouseRulesValues, said_values
from percorso.vehicle.form_fields import FormField, form_fields
from percorso_server.workshop.models import Shop
from percorso_server.workshop.signed_in import SignedInRequest
from percorso_server.workshop.stale import StaleError

router = Router(tags=["house rules"])


class HouseRulesBody(HouseRulesValues):
    """House rules as people write them, and the version that was seen."""

    version: int


def _body(shop: Shop) -> HouseRulesBody:
    return HouseRulesBody.model_validate({"version": shop.version, **said_values(shop.house_rules, shop.thinnest_wire)})


@router.get("/house-rules", response=HouseRulesBody)
def read_rules(request: SignedInRequest) -> HouseRulesBody:
    """The house rules of the shop."""
    return _body(request.user.shop)


@router.get("/house-rules/fields", response=list[FormField])
def list_rule_fields(request: SignedInRequest) -> list[FormField]:
    """What a form asks for the rules; targets and floors have forms of their own."""
    return list(form_fields(HouseRulesValues))


SAID_OTHERWISE = ("thinnest_wire_mm2", "targets", "floors")  # than in a column of that name


@router.put("/house-rules", response=HouseRulesBody)
def change_rules(request: SignedInRequest, values: HouseRulesBody) -> HouseRulesBody:
    """Change the house rules; every job of the shop is judged by them from now on."""
    with transaction.atomic():
        shop = Shop.objects.select_for_update().get(pk=request.user.shop_id)
        if shop.version != values.version:
            raise StaleError("the house rules", str(shop.pk), _body(shop).model_dump())
        rules = values.rules
        for column in (field.name for field in fields(rules) if field.name not in SAID_OTHERWISE):
            setattr(shop, column, getattr(rules, column))
        shop.thinnest_wire = values.thinnest_wire
        shop.said_targets = {purpose: [target.kind, target.value] for purpose, target in rules.targets}
        shop.said_floors = dict(rules.floors)
        shop.version += 1
        shop.save()
    return _body(shop)
