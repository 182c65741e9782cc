"""How much stiffer an engine is in the cold."""

from functools import cache
from typing import Literal

import numpy as np

from percorso import tables

StartedEngine = Literal["petrol", "diesel"]


def stiffness(engine: StartedEngine, outside_c: float) -> float:
    """How many times its torque at 25 °C an engine asks to be turned; the table names the source."""
    return float(np.interp(outside_c, *_listed(engine)))


@cache
def _listed(engine: StartedEngine) -> tuple[list[float], list[float]]:
    rows = [row for row in tables.rows("stiffness") if row["engine"] == engine]
    by_temperature = sorted((float(row["temperature_c"]), float(row["torque"])) for row in rows)
    return [each for each, _ in by_temperature], [each for _, each in by_temperature]
