"""Chooses the size of one wire: every size that is made, with the reason it is refused or recommended."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Literal

from percorso.components.conductors import (
    ConductorSize,
    Gauge,
    MetricStandard,
    Series,
    copper_mass_kg,
    in_gauge,
    resistance_ohm,
    stocked_sizes,
)
from percorso.components.fuses import FuseChoice, choose_fuse
from percorso.components.insulation import Insulation, conductor, family, fitting_insulation
from percorso.components.published_ampacity import TABLE_AIR_C
from percorso.components.thermal import Cable, cable
from percorso.components.warm_copper import LASTS, warm_copper_c
from percorso.house_rules import HouseRules, School
from percorso.sizing.ampacity import CRANKS_FOR_S, Ampacity, cable_ampacity, cranking_ampacity_a, warming_a
from percorso.sizing.practice import DENSEST_A_MM2, Floor, paired_with
from percorso.sizing.wire_ends import WireEnd
from percorso.targets import Family

Criterion = Literal[
    "voltage drop",
    "what shares it",
    "short circuit",
    "ampacity",
    "warmth",
    "cranking",
    "fuse",
    "terminal",
    "thinnest allowed",
    "insulation",
    "the same out and back",
]
Governing = Criterion | Literal["smallest size made", "no circuit", "generous", "what is there", "out of reach"]
BARE_C = 105.0  # what a wire is taken as where nobody says: ABYC E-11's own column
SMALLEST_MADE: Governing = "smallest size made"


@dataclass(frozen=True)
class Duty:
    """What a wire must stand whatever it loses, and where it lies.

    ``insulation`` is a family, or the °C it stands; None: what is usual for the size. ``gauge``: what its AWG numbers
    hold; None: as its insulation is made. ``ends`` are what its two ends go into.
    """

    continuous_a: float
    cranking_a: float = 0.0  # a starter's short current is not held to the continuous ampacity
    fuse_in_front_a: float | None = None
    air_c: float = TABLE_AIR_C
    engine_space: bool = False
    insulation: Insulation | float | None = None
    insists: bool = False  # on that insulation: a size that is not made in it is none
    gauge: Gauge | None = None
    bundle: int = 1
    ends: tuple[WireEnd, ...] = ()
    floor: Floor | None = None  # what is fitted at least for what it is for
    rarely_full: bool = False  # its current is what an alternator is marked with, which it rarely gives for long

    @property
    def is_strap(self) -> bool:
        """Whether it is a battery's own strap to the body."""
        return self.floor is not None and self.floor.use == "ground strap"

    def ampacity(self, size: ConductorSize, rules: HouseRules) -> Ampacity:
        """What a size may carry here."""
        return cable_ampacity(self.cable(size), self.air_c, self.bundle, rules, engine_space=self.engine_space)

    def copper_c(self, size: ConductorSize, current_a: float, seconds: float = LASTS) -> float:
        """How warm the copper of a size is by a current that flows for so long, °C."""
        return float(warm_copper_c(self.cable(size), current_a, self.air_c, self.bundle, seconds))

    def cable(self, size: ConductorSize) -> Cable:
        """A size in this insulation, or in what is usual where it is not made in it."""
        return _made(size, self.insulation, self.gauge)


@cache
def _made(size: ConductorSize, wanted: Insulation | float | None, gauge: Gauge | None) -> Cable:
    if isinstance(wanted, float):
        return cable(in_gauge(size, gauge or "astm"), wanted)
    insulation = fitting_insulation(wanted, size.area_mm2)
    return cable(conductor(size, insulation) if gauge is None else in_gauge(size, gauge), insulation)


def refusals(size: ConductorSize, duty: Duty, rules: HouseRules) -> dict[Criterion, str]:
    """Why a size does not stand its duty, by criterion; empty where it does.

    But for the light school a new size keeps some margin too.
    """
    refused: dict[Criterion, str] = {}
    stands = duty.ampacity(size, rules).allowed_a
    if duty.insists and isinstance(duty.insulation, str) and not family(duty.insulation).is_made_in(size.area_mm2):
        refused["insulation"] = f"not made in {duty.insulation}"
    if size.area_mm2 < rules.thinnest_wire_mm2 * (1 - 1e-9):
        refused["thinnest allowed"] = f"thinner than the house's {rules.thinnest_wire_mm2:.3g} mm²"
    elif duty.floor is not None and not duty.floor.wire.is_met(size, rules.school):
        least = duty.floor.wire.of(size, rules.school).name
        refused["thinnest allowed"] = f"thinner than {least}, which {duty.floor.with_article} has at least"
    if stands <= 0:
        refused["ampacity"] = (
            f"its insulation is good for {duty.cable(size).limit_c:g} °C and lies in {duty.air_c:g} °C"
        )
    elif stands < duty.continuous_a * (1 - 1e-9):
        refused["ampacity"] = f"good for {stands:.3g} A, {duty.continuous_a:.3g} A flow"
    elif rules.school != "light" and not duty.rarely_full:
        refused |= _without_margin(size, duty, stands, rules)
    refused |= _while_cranking(size, duty, stands, rules) | _behind_its_fuse(size, duty, stands, rules)
    narrow = [reason for end in duty.ends if (reason := end.refuses(size))]
    if narrow:
        refused["terminal"] = "; ".join(dict.fromkeys(narrow))
    return refused


def _while_cranking(size: ConductorSize, duty: Duty, stands_a: float, rules: HouseRules) -> dict[Criterion, str]:
    """Why a size does not stand a starter's current: too warm, or denser than the trade has it."""
    if duty.cranking_a > stands_a and cranking_ampacity_a(duty.cable(size), duty.air_c) < duty.cranking_a:
        return {"cranking": f"too warm after {CRANKS_FOR_S:g} s of {duty.cranking_a:.0f} A"}
    densest, density = DENSEST_A_MM2[rules.school], duty.cranking_a / size.area_mm2
    if duty.floor is not None and duty.floor.use == "starter cable" and density > densest * (1 + 1e-9):
        return {"cranking": f"{density:.3g} A/mm² while cranking, at most {densest:g}"}
    return {}


def _behind_its_fuse(size: ConductorSize, duty: Duty, stands_a: float, rules: HouseRules) -> dict[Criterion, str]:
    """Why a size does not go with the fuse in front of it: it stands less, or the trade pairs that with more."""
    fuse_a = duty.fuse_in_front_a
    if fuse_a is None or stands_a <= 0:
        return {}
    if stands_a < fuse_a:
        return {"fuse": f"good for {stands_a:.3g} A, too thin for its {fuse_a:g} A fuse"}
    pair = paired_with(fuse_a)
    if pair is not None and not pair.is_met(size, rules.school):
        return {"fuse": f"a {fuse_a:g} A fuse needs {pair.of(size, rules.school).name} behind it"}
    return {}


def _without_margin(size: ConductorSize, duty: Duty, stands_a: float, rules: HouseRules) -> dict[Criterion, str]:
    """Why a size that stands its lasting current is not taken as usual: at its limit, or warm."""
    refused: dict[Criterion, str] = {}
    share = duty.continuous_a / stands_a
    if share > rules.wire_load_fraction * (1 + 1e-9):
        refused["ampacity"] = f"at {share:.0%} of the {stands_a:.3g} A it may carry"
    warming = warming_a(duty.cable(size), rules.wire_rise_k, duty.air_c, duty.bundle)
    if duty.continuous_a > warming * (1 + 1e-9):
        refused["warmth"] = f"more than {rules.wire_rise_k:g} K over its surroundings from {warming:.3g} A on"
    return refused


@dataclass(frozen=True)
class OtherUse:
    """Another circuit that passes the wire, and how much it may lose with it: no worse than it is judged now."""

    name: str
    current_a: float
    elsewhere_drop_v: float
    most_v: float

    def refusal(self, ohm: float) -> dict[Criterion, str]:
        """Why it refuses a size of so much resistance."""
        over = self.elsewhere_drop_v + self.current_a * ohm - self.most_v
        return {"what shares it": f"{self.name} would lose {over:.2g} V too much"} if over > 1e-9 else {}


@dataclass(frozen=True)
class WireTask:
    """One wire to be sized: what flows through it, how far and how warm, and what it must respect."""

    current_a: float
    length_m: float  # total conductor length of this wire
    source_v: float
    allowed_drop_v: float  # for the whole circuit
    elsewhere_drop_v: float = 0.0  # what the rest of the circuit already loses
    temperature_c: float | None = None  # of the copper, where it is said; else it is as warm as its current makes it
    seconds: float = LASTS  # for which its current flows
    metric_standard: MetricStandard = "iso-6722-1"
    duty: Duty | None = None  # None: its current for long in 30 °C air, as 105 °C cable of ASTM gauge, no fuse in front
    others: tuple[OtherUse, ...] = ()
    family: Family = "feed"
    wants_fuse: bool = True  # whether a fuse of its own must carry the current and protect the wire

    @property
    def stands(self) -> Duty:
        """What it must stand."""
        return self.duty or Duty(self.current_a, insulation=BARE_C, gauge="astm")

    def copper_c(self, size: ConductorSize, current_a: float) -> float:
        """How warm the copper of a size is while a current flows through it, °C."""
        said = self.temperature_c
        return self.stands.copper_c(size, current_a, self.seconds) if said is None else said

    def resistance_ohm(self, size: ConductorSize, current_a: float) -> float:
        """What a size has while a current flows through it, Ω."""
        copper, copper_c = self.stands.cable(size).size, self.copper_c(size, current_a)
        return resistance_ohm(copper, self.length_m, copper_c, self.metric_standard)


@dataclass(frozen=True)
class Candidate:
    """One size tried: what it would do, and by criterion why it is refused."""

    size: str
    area_mm2: float
    resistance_ohm: float
    drop_v: float  # of the whole circuit with this size
    load_v: float
    ampacity_a: float
    fuse_a: float | None
    copper_mass_kg: float
    copper_c: float
    refused: Mapping[Criterion, str]


@dataclass(frozen=True)
class SizeChoice:
    """The smallest size that meets everything, with all that were tried; ``size`` is None when none does."""

    size: str | None
    governed_by: str | None
    reason: str
    fuse: FuseChoice | None
    candidates: tuple[Candidate, ...]

    @property
    def chosen(self) -> Candidate | None:
        """The candidate that was chosen."""
        return next((tried for tried in self.candidates if tried.size == self.size), None)


@lru_cache(maxsize=1024)
def size_wire(task: WireTask, series: Series, rules: HouseRules) -> SizeChoice:
    """The stocked size of ``series`` that the house's school takes, and the fuse it wants.

    Light: the smallest that meets drop, heat, terminals and the fuse. Usual: the smallest that does so with margin.
    Generous: one size above usual.

    20 A through 8 m of wire, out and back, that may lose 0.5 V; 6 mm² of class 5 [2] would lose 0.53 V:

    >>> fan = WireTask(20.0, length_m=8.0, source_v=14.0, allowed_drop_v=0.5)
    >>> choice = size_wire(fan, "metric", HouseRules())
    >>> choice.size, choice.governed_by
    ('10 mm2', 'voltage drop')
    """
    sizes = stocked_sizes(series, task.metric_standard)
    candidates = tuple(_try_size(size, task, rules) for size in sizes)
    fitting = [index for index, tried in enumerate(candidates) if not tried.refused]
    if not fitting:
        return SizeChoice(None, None, _why_impossible(task, candidates, rules.school), None, candidates)
    first = fitting[0]
    governed_by = " and ".join(candidates[first - 1].refused) if first else SMALLEST_MADE
    chosen, reason = candidates[first], f"{candidates[first].size} is the smallest that meets everything"
    if rules.school == "usual":
        reason += " with the usual margin"
    elif rules.school == "generous" and first + 1 in fitting:
        chosen, reason = (
            candidates[first + 1],
            f"{candidates[first + 1].size} is one size above {chosen.size} (generous)",
        )
    fuse = choose_fuse(task.current_a, chosen.ampacity_a, rules)
    pair = f", with a {fuse.rating_a:g} A fuse" if task.wants_fuse and fuse.rating_a else ""
    return SizeChoice(chosen.size, governed_by, f"{reason}{pair}; governed by {governed_by}", fuse, candidates)


def _try_size(size: ConductorSize, task: WireTask, rules: HouseRules) -> Candidate:
    copper, resistance = task.stands.cable(size).size, task.resistance_ohm(size, task.current_a)
    drop = task.elsewhere_drop_v + task.current_a * resistance
    ampacity = task.stands.ampacity(size, rules).allowed_a
    fuse = choose_fuse(task.current_a, ampacity, rules)
    over = drop_refusal(drop, task.allowed_drop_v, rules, task.family)
    alone: dict[Criterion, str] = refusals(size, task.stands, rules)
    if task.wants_fuse and fuse.rating_a is None and ampacity >= task.current_a:
        alone.setdefault("fuse", fuse.reason)
    for other in task.others:
        over |= other.refusal(task.resistance_ohm(size, other.current_a))
    return Candidate(
        size=size.name,
        area_mm2=copper.area_mm2,
        resistance_ohm=resistance,
        drop_v=drop,
        load_v=task.source_v - drop,
        ampacity_a=ampacity,
        fuse_a=fuse.rating_a,
        copper_mass_kg=copper_mass_kg(copper, task.length_m),
        copper_c=task.copper_c(size, task.current_a),
        refused=over | alone,
    )


def drop_refusal(drop_v: float, allowed_v: float, rules: HouseRules, family: Family = "feed") -> dict[Criterion, str]:
    """Why a drop is refused: over what is allowed, or but for the light school close to it."""
    if drop_v > allowed_v:
        return {"voltage drop": f"over by {drop_v - allowed_v:.2g} V"}
    if drop_v > rules.aimed_fraction(family) * allowed_v * (1 + 1e-9):
        return {"voltage drop": f"only {(allowed_v - drop_v) * 1000:.0f} mV left of {allowed_v:.2g} V allowed"}
    return {}


WAYS_OUT: Mapping[Criterion, str] = {
    "ampacity": "take insulation for more heat, a cooler way, fewer wires in the bundle, or two ways side by side",
    "warmth": "take a cooler way, fewer wires in the bundle, or two ways side by side",
    "insulation": "take another insulation",
    "thinnest allowed": "the house's thinnest wire is thicker than any that is made; change that house rule",
    "fuse": "split the load over feeds with a fuse each",
    "cranking": "take two cables side by side",
    "terminal": "change what the end goes into, or lead two feeds side by side with a fuse each",
    "voltage drop": "allow more drop, shorten the path or split the feed",
    "what shares it": "give the circuits that share it a way of their own",
}


def _why_impossible(task: WireTask, candidates: tuple[Candidate, ...], school: School) -> str:
    """What stands in the way of every size: of what refuses the size that comes closest, the most stubborn."""
    if task.elsewhere_drop_v >= task.allowed_drop_v:
        return (
            f"no wire is thick enough: the rest of the circuit alone drops {task.elsewhere_drop_v:.3g} V of the "
            f"{task.allowed_drop_v:.3g} V allowed; fix that first"
        )
    made = [tried for tried in candidates if "insulation" not in tried.refused] or candidates
    fewest = min(len(tried.refused) for tried in made)
    nearest = [tried for tried in made if len(tried.refused) == fewest]
    closest = next((tried for tried in nearest if "terminal" in tried.refused), nearest[-1])
    always = [each for each in closest.refused if all(each in tried.refused for tried in made)]
    way_out = next(said for each, said in WAYS_OUT.items() if each in (always or closest.refused))
    margin = "" if school == "light" else " with margin"
    return (
        f"no stocked size does it{margin}: {closest.size} is refused ({'; '.join(closest.refused.values())}); {way_out}"
    )
