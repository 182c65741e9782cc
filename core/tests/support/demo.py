"""The demo jobs, which every part of the core can be shown on."""

from pathlib import Path

from percorso.files.job_file import vehicle_of
from percorso.files.reading import read_job_file
from percorso.vehicle.model import Vehicle

DEMO = Path(__file__).parents[3] / "demo"


def demo(name: str) -> Vehicle:
    """The vehicle of a demo job, as found and as planned together."""
    return vehicle_of(read_job_file((DEMO / f"{name}.json").read_bytes()))
