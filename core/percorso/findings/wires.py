"""What is wrong with wires where they lie: too warm, in the wrong insulation, or joined for the wrong place."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from percorso.changes.edits import ChangeSegment, ResizeCircuit
from percorso.circuits.design_case import Planned
from percorso.circuits.worst_currents import Worst
from percorso.components.conductors import find_size
from percorso.components.insulation import Insulation, family, usual_insulation
from percorso.findings.finding import Finding, Remedy
from percorso.findings.rules import named
from percorso.sizing.ampacity import Ampacity, copper_c, wire_ampacity
from percorso.targets import Family
from percorso.vehicle.model import Segment
from percorso.vehicle.segments import HOT_ZONES, Wire

POWER: tuple[Family, ...] = ("charging", "starting", "feed")


@dataclass(frozen=True)
class WireFigures:
    """How a wire stands its heat: what flows at worst for long, what it may carry by both rules, how warm it gets.

    ``copper_c`` is None where it would melt; ``never`` is where its insulation must not be used.
    """

    worst: Worst
    cranking_a: float
    ampacity: Ampacity
    stands: bool  # by the house's rule
    insulation: str
    never: str
    limit_c: float
    copper_c: float | None


def wire_figures(plan: Planned, segment_id: str) -> WireFigures | None:
    """The heat of a wire at its worst current, rounded to a tenth of an ampere; None for another piece."""
    spec = plan.vehicle.segments[segment_id].spec
    if not isinstance(spec, Wire):
        return None
    worst, air = plan.worst.continuous(segment_id), plan.vehicle.zone_temperature_c[spec.zone]
    copper = copper_c(spec.cable, round(worst.current_a, 1), air, spec.bundle)
    ampacity = wire_ampacity(spec, plan.rules, plan.vehicle.zone_temperature_c)
    kind = family(spec.insulated_with)
    return WireFigures(
        worst=worst,
        cranking_a=plan.worst.cranking_a(segment_id),
        ampacity=ampacity,
        stands=worst.current_a <= ampacity.allowed_a,
        insulation=kind.name,
        never=kind.never,
        limit_c=kind.limit_c,
        copper_c=copper if copper < math.inf else None,
    )


@named(
    "wire-too-hot",
    says="a wire carries more than it may, or more than the model says it is good for",
    when="its worst lasting current is over its ampacity where it lies",
    source="ABYC E-11, ISO 10133, from memory; the thermal model",
    cure="the circuit sized anew",
)
def hot_wires(plan: Planned) -> Iterator[Finding]:
    """Wires that carry more than they may, or more than they stand by the model alone."""
    for segment, spec in plan.segments(Wire):
        ampacity = wire_ampacity(spec, plan.rules, plan.vehicle.zone_temperature_c)
        worst = plan.worst.continuous(segment.id)
        circuits = plan.passing(segment.id)
        cure = None
        if circuits:
            cure = Remedy(f"size {circuits[0].name} anew", (ResizeCircuit(circuit_id=circuits[0].id),))
        if ampacity.allowed_a <= 0:
            continue  # the place is too hot for it: said of its insulation
        if worst.current_a > ampacity.allowed_a:
            title = f"{segment.designation} {spec.size} is too thin for {worst.current_a:.3g} A."
            where = f"In the state {worst.state} it carries them and by the {ampacity.ruling} is good for"
            reason = f"{where} {ampacity.allowed_a:.3g} A there; its insulation would cook."
            yield Finding("error", title, reason, (segment.id,), cure)
        elif worst.current_a > ampacity.model_a > 0:
            title = f"{segment.designation} {spec.size} runs hotter than the table knows."
            air = plan.vehicle.zone_temperature_c[spec.zone]
            reason = (
                f"In {air:.0f} °C air it is good for {ampacity.model_a:.3g} A by the thermal model and carries "
                f"{worst.current_a:.3g} A; the table allows {ampacity.table_a:.3g} A."
            )
            yield Finding("caution", title, reason, (segment.id,))


@named(
    "wire-insulation",
    says="insulation in a place or on something it is not made for",
    when="the place is as hot as it is good for, or it moves, or such a wire is out of place there",
    source="SAE J1128 and J1127, ISO 6722-1, from memory; common practice",
    cure="insulation that is good for the place",
)
def wrong_insulation(plan: Planned) -> Iterator[Finding]:
    """Insulation in a place or on something that it is not made for."""
    for segment, spec in plan.segments(Wire):
        kind = family(spec.insulated_with)
        air = plan.vehicle.zone_temperature_c[spec.zone]
        cure = _insulated(segment, spec, air)
        if air >= kind.limit_c:
            title = f"{segment.designation}: {kind.name} is not good for the {spec.zone}."
            reason = f"It is good for {kind.limit_c:g} °C and lies in {air:g} °C."
            yield Finding("error", title, reason, (segment.id,), cure)
        if kind.strands == "few" and spec.moves:
            title = f"{segment.designation}: {kind.name} on something that moves."
            reason = f"Never {kind.never}. It is good for {kind.limit_c:g} °C besides."
            yield Finding("error", title, reason, (segment.id,), cure)
        elif kind.name == "building wire":
            title = f"{segment.designation} is building wire."
            reason = f"It is for {kind.use}: few strands break where anything shakes."
            yield Finding("caution", title, reason, (segment.id,), cure)
        elif spec.moves and kind.name in ("silicone", "fluoropolymer hook-up"):
            title = f"{segment.designation}: {kind.name} on something that moves."
            yield Finding("caution", title, f"Never {kind.never}.", (segment.id,), cure)
        elif kind.name == "shielded" and any(each.family in POWER for each in plan.passing(segment.id)):
            title = f"{segment.designation}: shielded lead as a power feed."
            yield Finding("caution", title, f"It is for {kind.use}.", (segment.id,), cure)
        elif kind.name == "welding cable" and spec.zone in HOT_ZONES:
            title = f"{segment.designation}: welding cable in the {spec.zone}."
            yield Finding("hint", title, f"Never {kind.never}.", (segment.id,), cure)


def _insulated(segment: Segment, spec: Wire, air_c: float) -> Remedy | None:
    """Insulation that stands the place: the usual one if it does, else another that is made in that size."""
    area = find_size(spec.size).area_mm2
    others: tuple[Insulation, ...] = (usual_insulation(area), "silicone", "welding cable")
    for name in others:
        kind = family(name)
        if kind.limit_c > air_c and kind.is_made_in(area) and name != spec.insulated_with:
            change = ChangeSegment(segment_id=segment.id, change={"insulation": name})
            return Remedy(f"{segment.designation} in {name}", (change,))
    return None


@named(
    "end-soldered",
    says="a terminal is only soldered",
    when="where it moves or lies in an engine space",
    source="common practice",
    cure="crimped",
)
def soldered_ends(plan: Planned) -> Iterator[Finding]:
    """Terminals that are only soldered where it shakes or gets hot."""
    for segment, spec in plan.segments(Wire):
        if (spec.joined or plan.rules.joined) != "soldered" or not (spec.moves or spec.zone in HOT_ZONES):
            continue
        where = "moves" if spec.moves else f"lies in the {spec.zone}"
        title = f"{segment.designation} is only soldered and {where}."
        reason = "Strands break behind the solder where it shakes, and solder lets go in heat: crimp it."
        change = ChangeSegment(segment_id=segment.id, change={"joined": "crimped"})
        cure = Remedy(f"{segment.designation} crimped", (change,))
        yield Finding("caution", title, reason, (segment.id,), cure)
