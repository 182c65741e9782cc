"""What a vehicle is made of: points, segments, devices and circuits, its states and its stages."""

__all__ = [
    "access",
    "alternators",
    "connectivity",
    "copper",
    "device_spec",
    "devices",
    "form_fields",
    "forms",
    "ids",
    "loads",
    "model",
    "naming",
    "resistance",
    "scenarios",
    "segments",
    "stages",
    "states",
    "typed_fields",
    "validity",
    "values",
]
