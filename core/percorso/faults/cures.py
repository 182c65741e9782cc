"""What cures each fault, with its work and its copper; a bypass with its condition."""

from dataclasses import dataclass
from functools import cache

from percorso import tables
from percorso.components.conductors import COPPER_DENSITY_KG_M3, find_size
from percorso.faults.library import kind_of
from percorso.vehicle.access import minutes as access_min
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.segments import Wire

RENEWED_MIN, RENEWED_MIN_PER_M = 15.0, 8.0  # to lead a new wire: its two ends, and each metre; from memory
RUN = ("open", "thin place", "chafed to ground", "touching its neighbour")  # that a new run cures too
BYPASS = "only where the old run is cut free at both ends and marked, and the new one is as thick and fused as it was"


@dataclass(frozen=True)
class Cure:
    """One way to mend a part: what is done, in how many minutes with getting at it, with how much copper (g), and what
    must hold for it.
    """

    does: str
    work_min: float
    copper_g: float = 0.0
    condition: str = ""


def cures_of(vehicle: Vehicle, part: str, fault: str) -> tuple[Cure, ...]:
    """What cures a fault of a part, the usual first."""
    segment = vehicle.segments.get(part)
    one: Segment | Device = vehicle.devices[part] if segment is None else segment
    reach = 0.0 if segment is None else access_min(vehicle.access_to_segment(segment))
    does, work = _usual()[kind_of(one), fault]
    usual = Cure(does, work + reach)
    if segment is None or not isinstance(segment.spec, Wire) or fault not in RUN:
        return (usual,)
    leads = RENEWED_MIN + RENEWED_MIN_PER_M * segment.spec.length_m
    copper = 1e-3 * COPPER_DENSITY_KG_M3 * find_size(segment.spec.size).area_mm2 * segment.spec.length_m
    renew = Cure("renew the whole run, of the same size", leads + reach, copper)
    return usual, renew, Cure("bypass it with a new run beside it", leads, copper, BYPASS)


def renew_min(part: Segment | Device) -> float:
    """How long it takes to renew a part once one is at it, minutes: as long as the most work at any of its faults."""
    return max((work for (of, _), (_, work) in _usual().items() if of == kind_of(part)), default=0.0)


@cache
def _usual() -> dict[tuple[str, str], tuple[str, float]]:
    """What cures each fault of each kind of part, and the minutes of work."""
    return {(row["of"], row["fault"]): (row["cure"], float(row["work_min"])) for row in tables.rows("fault_cures")}
