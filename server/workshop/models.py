"""Shops, their people and their house rules."""

from django.contrib.auth.models import AbstractUser
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from percorso.house_rules import HouseRules

_FRACTION = [MinValueValidator(0.01), MaxValueValidator(1.0)]
_DEFAULT = HouseRules()


class Shop(models.Model):
    """A workshop: everything in Percorso belongs to exactly one. Its fractions are its house rules."""

    name = models.CharField(max_length=80, unique=True)
    fuse_load_fraction = models.FloatField(default=_DEFAULT.fuse_load_fraction, validators=_FRACTION)
    min_test_current_fraction = models.FloatField(default=_DEFAULT.min_test_current_fraction, validators=_FRACTION)
    close_fraction = models.FloatField(default=_DEFAULT.close_fraction, validators=_FRACTION)
    expected_tolerance = models.FloatField(default=_DEFAULT.expected_tolerance, validators=_FRACTION)

    def __str__(self) -> str:
        return self.name

    @property
    def house_rules(self) -> HouseRules:
        """The rules as the core takes them."""
        return HouseRules(
            fuse_load_fraction=self.fuse_load_fraction,
            min_test_current_fraction=self.min_test_current_fraction,
            close_fraction=self.close_fraction,
            expected_tolerance=self.expected_tolerance,
        )


class Person(AbstractUser):
    """Someone who signs in, for one shop."""

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="people")
    REQUIRED_FIELDS = []  # Django declares it so
