"""The app of measurements; its tables are called after readings, as they were from the start."""

from django.apps import AppConfig


class Verification(AppConfig):
    """Readings today, tests to come."""

    name = "verification"
    label = "readings"
