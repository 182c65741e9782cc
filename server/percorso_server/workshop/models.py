"""Shops, their people and their house rules."""

from dataclasses import fields
from typing import ClassVar, get_args

from django.contrib.auth.models import AbstractUser, UserManager
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from percorso.components.conductors import find_size
from percorso.floors import Use, usual_floors
from percorso.house_rules import AmpacityRule, Copper, HouseRules, Joining, School
from percorso.targets import Purpose, Target, usual_targets

_FRACTION = [MinValueValidator(0.01), MaxValueValidator(1.0)]
_DEFAULT = HouseRules()


def _choices(of: object) -> list[tuple[str, str]]:
    return [(each, each) for each in get_args(of)]


class Shop(models.Model):
    """A workshop: everything in Percorso belongs to exactly one. Its columns named as in HouseRules are its rules."""

    name = models.CharField(max_length=80, unique=True)
    version = models.PositiveIntegerField(default=1)  # of the house rules
    fuse_load_fraction = models.FloatField(default=_DEFAULT.fuse_load_fraction, validators=_FRACTION)
    min_test_current_fraction = models.FloatField(default=_DEFAULT.min_test_current_fraction, validators=_FRACTION)
    close_fraction = models.FloatField(default=_DEFAULT.close_fraction, validators=_FRACTION)
    expected_tolerance = models.FloatField(default=_DEFAULT.expected_tolerance, validators=_FRACTION)
    ampacity_rule = models.CharField(max_length=20, default=_DEFAULT.ampacity_rule, choices=_choices(AmpacityRule))
    school = models.CharField(max_length=20, default=_DEFAULT.school, choices=_choices(School))
    wire_load_fraction = models.FloatField(default=_DEFAULT.wire_load_fraction, validators=_FRACTION)
    wire_rise_k = models.FloatField(default=_DEFAULT.wire_rise_k)
    source_fuse_within_m = models.FloatField(default=_DEFAULT.source_fuse_within_m)
    thinnest_wire = models.CharField(max_length=12, default=f"{_DEFAULT.thinnest_wire_mm2:g} mm2")  # as it was said
    joined = models.CharField(max_length=30, default=_DEFAULT.joined, choices=_choices(Joining))
    slack_fraction = models.FloatField(default=_DEFAULT.slack_fraction)
    slack_m = models.FloatField(default=_DEFAULT.slack_m)
    charging_reserve_fraction = models.FloatField(default=_DEFAULT.charging_reserve_fraction)
    copper = models.CharField(max_length=20, default=_DEFAULT.copper, choices=_choices(Copper))
    coldest_morning_c = models.FloatField(default=_DEFAULT.coldest_morning_c)
    smallest_fuse_a = models.FloatField(default=_DEFAULT.smallest_fuse_a)
    said_targets = models.JSONField(default=dict, blank=True)  # [kind, value] by purpose; others are as usual
    said_floors = models.JSONField(default=dict, blank=True)  # mm² by use; others are as usual

    def __str__(self) -> str:
        return self.name

    @property
    def thinnest_wire_mm2(self) -> float:
        """Area of the thinnest wire, mm²."""
        return find_size(self.thinnest_wire).area_mm2

    @property
    def targets(self) -> tuple[tuple[Purpose, Target], ...]:
        """What new circuits must meet, by purpose."""
        said = self.said_targets
        return tuple((each, Target(*said[each]) if each in said else usual) for each, usual in usual_targets())

    @property
    def floors(self) -> tuple[tuple[Use, float], ...]:
        """The thinnest wire for each use, mm²."""
        return tuple((use, self.said_floors.get(use, usual)) for use, usual in usual_floors())

    @property
    def house_rules(self) -> HouseRules:
        """The rules as the core takes them."""
        return HouseRules(**{field.name: getattr(self, field.name) for field in fields(HouseRules)})


class WrongTries(models.Model):
    """Wrong tries to sign in with one name, or from one address; ``of`` is a digest of which."""

    of = models.CharField(max_length=64, primary_key=True)
    count = models.PositiveIntegerField(default=0)
    last_at = models.DateTimeField(db_index=True)


class KnownAddress(models.Model):
    """That somebody has signed in from an address; ``of`` is a digest of who and where."""

    of = models.CharField(max_length=64, primary_key=True)
    last_at = models.DateTimeField(db_index=True)


class People(UserManager["Person"]):
    """People with their shops: every request asks for both."""

    use_in_migrations = False

    def get_queryset(self) -> models.QuerySet["Person"]:
        """All of them."""
        return super().get_queryset().select_related("shop")


class Person(AbstractUser):
    """Someone who signs in, for one shop."""

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="people")
    objects: ClassVar[People] = People()
    REQUIRED_FIELDS = []  # Django declares it so
