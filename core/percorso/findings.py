"""What the rules notice about a planned circuit, said as a colleague would, with the cure as data."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from percorso.ampacity import wire_ampacity
from percorso.guarding import fuse_in_front_a, thinnest_behind_a
from percorso.house_rules import HouseRules
from percorso.ladders import Ladder
from percorso.profile import Profile
from percorso.specs import Fuse, Wire
from percorso.vehicle import Circuit, Vehicle


@dataclass(frozen=True)
class Cure:
    """A change to one segment's spec that cures a finding."""

    segment_id: str
    change: Mapping[str, str | float | None]
    effect: str


@dataclass(frozen=True)
class Finding:
    """Something wrong or doubtful about a circuit: what, where, why, and what cures it."""

    severity: Literal["error", "caution", "hint"]
    title: str
    reason: str
    segment_ids: tuple[str, ...]
    cure: Cure | None = None
    point_ids: tuple[str, ...] = ()
    device_ids: tuple[str, ...] = ()


def findings(
    vehicle: Vehicle, circuit: Circuit, solved: Profile, steps: Mapping[str, Ladder], rules: HouseRules
) -> tuple[Finding, ...]:
    """Every finding about one circuit, the gravest first; ``steps`` are its ladders, from which cures are taken."""
    found = [
        *_over_target(vehicle, circuit, solved, steps),
        *_fuses(vehicle, circuit, solved, steps, rules),
        *_overloaded_wires(vehicle, circuit, solved, steps, rules),
        *_missing_fuse(vehicle, circuit),
    ]
    return gravest_first(found)


def gravest_first(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings in the order in which they matter."""
    return tuple(sorted(found, key=lambda finding: ("error", "caution", "hint").index(finding.severity)))


def _over_target(vehicle: Vehicle, circuit: Circuit, solved: Profile, steps: Mapping[str, Ladder]) -> Iterator[Finding]:
    if solved.verdict.word != "fail":
        return
    worst = max(solved.legs, key=lambda leg: leg.drop_v)
    name = vehicle.segments[worst.segment_id].designation
    title = f"{circuit.name} {solved.verdict.reason}."
    cure = _lightest_cure(vehicle, steps)
    reason = f"{name} alone takes {worst.share:.0%} of the loss."
    if cure is None:
        reason += " No single thicker wire cures it: shorten the path, mend the joints or size several wires."
    yield Finding("error", title, reason, (worst.segment_id,), cure)


def _lightest_cure(vehicle: Vehicle, steps: Mapping[str, Ladder]) -> Cure | None:
    """The one wire change that meets everything for the least copper."""
    wires = (each for each in steps.values() if isinstance(vehicle.segments[each.segment_id].spec, Wire))
    fitting = [(each, rung) for each in wires if (rung := each.recommended) is not None and not rung.present]
    if not fitting:
        return None
    lightest, rung = min(fitting, key=lambda pair: pair[1].extra_copper_kg)
    name = vehicle.segments[lightest.segment_id].designation
    effect = f"{name} as {rung.label}: {rung.drop_v:.2f} V lost, {rung.extra_copper_kg * 1000:+.0f} g copper"
    return Cure(lightest.segment_id, rung.change, effect)


def _fuses(
    vehicle: Vehicle, circuit: Circuit, solved: Profile, steps: Mapping[str, Ladder], rules: HouseRules
) -> Iterator[Finding]:
    for leg in solved.legs:
        segment = vehicle.segments[leg.segment_id]
        if not isinstance(segment.spec, Fuse):
            continue
        stands = thinnest_behind_a(vehicle, circuit, segment.id, rules)
        rating = segment.spec.rating_a
        cure = _recommended_cure(vehicle, steps[segment.id])
        if stands is not None and rating > stands:
            title = f"{segment.designation} {rating:g} A does not protect the wire behind it."
            yield Finding("error", title, f"The thinnest one stands {stands:.3g} A.", (segment.id,), cure)
        if leg.current_a > rules.fuse_load_fraction * rating * (1 + 1e-9):
            title = f"{segment.designation} {rating:g} A is too small for {leg.current_a:.3g} A."
            reason = f"Carried for long it tires; the load asks for {leg.current_a / rules.fuse_load_fraction:.3g} A."
            yield Finding("error", title, reason, (segment.id,), cure)


def _overloaded_wires(
    vehicle: Vehicle, circuit: Circuit, solved: Profile, steps: Mapping[str, Ladder], rules: HouseRules
) -> Iterator[Finding]:
    if circuit.state == "cranking":
        return
    for leg in solved.legs:
        segment = vehicle.segments[leg.segment_id]
        if not isinstance(segment.spec, Wire):
            continue
        ampacity = wire_ampacity(segment.spec, rules, vehicle.zone_temperature_c)
        if ampacity.allowed_a < leg.current_a:
            title = f"{segment.designation} {segment.spec.size} is too thin for {leg.current_a:.3g} A."
            reason = f"By {ampacity.rule} it stands {ampacity.allowed_a:.3g} A there; its insulation would cook."
            cure = _recommended_cure(vehicle, steps[segment.id])
            yield Finding("error", title, reason, (segment.id,), cure)


def _missing_fuse(vehicle: Vehicle, circuit: Circuit) -> Iterator[Finding]:
    if circuit.family not in ("feed", "charging") or not circuit.supply:
        return
    if fuse_in_front_a(vehicle, circuit, circuit.return_path[0]) is None:
        title = f"Nothing protects {circuit.name}."
        reason = "A short anywhere on its supply side meets the full battery: put a fuse close to the source."
        yield Finding("caution", title, reason, circuit.supply[:1])


def _recommended_cure(vehicle: Vehicle, steps: Ladder) -> Cure | None:
    rung = steps.recommended
    if rung is None or rung.present:
        return None
    name = vehicle.segments[steps.segment_id].designation
    return Cure(steps.segment_id, rung.change, f"{name} as {rung.label}: {rung.drop_v:.2f} V lost")
