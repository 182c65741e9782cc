"""The app of measurements; its tables are called after readings, as they were from the start."""

from django.apps import AppConfig


class Verification(AppConfig):
    """What is measured, and what is read from it."""

    name = "percorso_server.verification"
    label = "readings"
