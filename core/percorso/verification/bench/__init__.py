"""What instruments would show: the vehicle as prepared, with or without faults, and what is read and seen there."""

__all__ = [
    "appearance",
    "instrument_model",
    "metering",
    "prepared_vehicle",
    "scpi_meter",
    "virtual_bench",
]
