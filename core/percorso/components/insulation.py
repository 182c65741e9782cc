"""Insulation families: what heat each stands, how thick it is, what it is for and must not be used for."""

from dataclasses import dataclass
from functools import cache
from typing import Literal, get_args

from percorso import tables
from percorso.components.conductors import ConductorSize, Gauge, in_gauge
from percorso.errors import PercorsoError

Insulation = Literal[
    "thin-wall cross-linked",
    "general cross-linked",
    "thick-wall cross-linked",
    "PVC",
    "cross-linked battery cable",
    "PVC battery cable",
    "welding cable",
    "silicone",
    "fluoropolymer hook-up",
    "shielded",
    "building wire",
]
INSULATIONS: tuple[Insulation, ...] = get_args(Insulation)
Material = Literal["cross-linked", "PVC"]
THINNEST_BATTERY_CABLE_MM2 = 8.0  # 8 AWG and thicker come as battery cable, common practice


@dataclass(frozen=True)
class InsulationFamily:
    """One kind of insulated wire; ``limit_c`` is what its insulation stands for long, °C.

    ``gauge`` is what its AWG numbers hold: road-vehicle cable is made to SAE J1128, the rest to ASTM.
    """

    name: Insulation
    limit_c: float
    material: Material
    gauge: Gauge
    wall: str
    thinnest_mm2: float
    thickest_mm2: float
    strands: Literal["few", "many", "finest"]
    use: str
    never: str  # where it must not be used, as in "never …"

    def is_made_in(self, area_mm2: float) -> bool:
        """Whether it comes in a conductor of that area, mm²."""
        return self.thinnest_mm2 <= area_mm2 <= self.thickest_mm2 * (1 + 1e-9)

    def wall_mm(self, area_mm2: float) -> float:
        """Thickness of the insulation over a conductor of that area (mm²), mm."""
        walls = (row for row in tables.rows("insulation_walls") if row["wall"] == self.wall)
        by_size = [(float(row["up_to_mm2"]), float(row["wall_mm"])) for row in walls]
        return next((wall for up_to, wall in by_size if area_mm2 <= up_to), by_size[-1][1])


@cache
def family(name: Insulation) -> InsulationFamily:
    """An insulation family by its name; the source of its figures stands in its row of the table."""
    row = next(row for row in tables.rows("insulation") if row["family"] == name)
    strands: Literal["few", "many", "finest"] = (
        "few" if row["strands"] == "few" else "finest" if row["strands"] == "finest" else "many"
    )
    material: Material = "cross-linked" if row["material"] == "cross-linked" else "PVC"
    gauge: Gauge = "sae" if row["gauge"] == "sae" else "astm"
    return InsulationFamily(
        name=name,
        limit_c=float(row["limit_c"]),
        material=material,
        gauge=gauge,
        wall=row["wall"],
        thinnest_mm2=float(row["thinnest_mm2"]),
        thickest_mm2=float(row["thickest_mm2"]),
        strands=strands,
        use=row["use"],
        never=row["never"],
    )


def usual_insulation(area_mm2: float) -> Insulation:
    """What a wire of that area (mm²) usually is when nobody says: cross-linked, as battery cable from 8 AWG on."""
    return "cross-linked battery cable" if area_mm2 >= THINNEST_BATTERY_CABLE_MM2 else "thin-wall cross-linked"


def fitting_insulation(wanted: Insulation | None, area_mm2: float) -> Insulation:
    """The wanted insulation, or what is usual where none is wanted or it is not made in that size."""
    if wanted is not None and family(wanted).is_made_in(area_mm2):
        return wanted
    return usual_insulation(area_mm2)


@cache
def conductor(size: ConductorSize, insulation: Insulation) -> ConductorSize:
    """The copper that a size really holds in an insulation."""
    return in_gauge(size, family(insulation).gauge)


def named_insulation(text: str) -> Insulation:
    """The family people mean by ``text``. Raises PercorsoError naming them all."""
    for name in INSULATIONS:
        if name.casefold() == text.strip().casefold():
            return name
    raise PercorsoError(f'"{text}" is not an insulation; take one of {", ".join(INSULATIONS)}')
