"""What the rules notice about a planned circuit, said as a colleague would, with the cure as data."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from percorso.house_rules import HouseRules
from percorso.profile import Profile
from percorso.sizing import fuse_in_front_a, ladder, thinnest_behind_a, wire_ampacity_a
from percorso.specs import Fuse, Wire
from percorso.vehicle import Circuit, Vehicle


@dataclass(frozen=True)
class Cure:
    """A change to one segment's spec that cures a finding."""

    segment_id: str
    change: Mapping[str, str | float]
    effect: str


@dataclass(frozen=True)
class Finding:
    """Something wrong or doubtful about a circuit: what, where, why, and what cures it."""

    severity: Literal["error", "caution", "hint"]
    title: str
    reason: str
    segment_ids: tuple[str, ...]
    cure: Cure | None = None


def findings(vehicle: Vehicle, circuit: Circuit, solved: Profile, rules: HouseRules) -> tuple[Finding, ...]:
    """Every finding about one circuit, the gravest first."""
    found = [
        *_over_target(vehicle, circuit, solved, rules),
        *_fuses(vehicle, circuit, solved, rules),
        *_overloaded_wires(vehicle, circuit, solved, rules),
        *_missing_fuse(vehicle, circuit),
    ]
    return tuple(sorted(found, key=lambda finding: ("error", "caution", "hint").index(finding.severity)))


def _over_target(vehicle: Vehicle, circuit: Circuit, solved: Profile, rules: HouseRules) -> Iterator[Finding]:
    if solved.verdict.word != "fail":
        return
    worst = max(solved.legs, key=lambda leg: leg.drop_v)
    name = vehicle.segments[worst.segment_id].designation
    title = f"{circuit.name} {solved.verdict.reason}."
    cure = _lightest_cure(vehicle, circuit, solved, rules)
    reason = f"{name} alone takes {worst.share:.0%} of the loss."
    if cure is None:
        reason += " No single thicker wire cures it: shorten the path, mend the joints or size several wires."
    yield Finding("error", title, reason, (worst.segment_id,), cure)


def _lightest_cure(vehicle: Vehicle, circuit: Circuit, solved: Profile, rules: HouseRules) -> Cure | None:
    """The one wire change that meets everything for the least copper."""
    cures = []
    for leg in solved.legs:
        steps = ladder(vehicle, circuit, solved, leg.segment_id, rules)
        if not isinstance(vehicle.segments[leg.segment_id].spec, Wire) or steps is None:
            continue
        if (rung := steps.recommended) is not None and not rung.present:
            cures.append((rung.extra_copper_kg, leg.segment_id, rung))
    if not cures:
        return None
    extra_kg, segment_id, rung = min(cures, key=lambda cure: cure[0])
    name = vehicle.segments[segment_id].designation
    effect = f"{name} as {rung.label}: {rung.drop_v:.2f} V lost, {extra_kg * 1000:+.0f} g copper"
    return Cure(segment_id, rung.change, effect)


def _fuses(vehicle: Vehicle, circuit: Circuit, solved: Profile, rules: HouseRules) -> Iterator[Finding]:
    for leg in solved.legs:
        segment = vehicle.segments[leg.segment_id]
        if not isinstance(segment.spec, Fuse):
            continue
        stands = thinnest_behind_a(vehicle, circuit, segment.id)
        rating = segment.spec.rating_a
        cure = _recommended_cure(vehicle, circuit, solved, segment.id, rules)
        if stands is not None and rating > stands:
            title = f"{segment.designation} {rating:g} A does not protect the wire behind it."
            yield Finding("error", title, f"The thinnest one stands {stands:.3g} A.", (segment.id,), cure)
        if leg.current_a > rules.fuse_load_fraction * rating * (1 + 1e-9):
            title = f"{segment.designation} {rating:g} A is too small for {leg.current_a:.3g} A."
            reason = f"Carried for long it tires; the load asks for {leg.current_a / rules.fuse_load_fraction:.3g} A."
            yield Finding("error", title, reason, (segment.id,), cure)


def _overloaded_wires(vehicle: Vehicle, circuit: Circuit, solved: Profile, rules: HouseRules) -> Iterator[Finding]:
    if circuit.state == "cranking":
        return
    for leg in solved.legs:
        segment = vehicle.segments[leg.segment_id]
        if isinstance(segment.spec, Wire) and wire_ampacity_a(segment.spec) < leg.current_a:
            title = f"{segment.designation} {segment.spec.size} is too thin for {leg.current_a:.3g} A."
            reason = f"By table it stands {wire_ampacity_a(segment.spec):.3g} A there; its insulation would cook."
            cure = _recommended_cure(vehicle, circuit, solved, segment.id, rules)
            yield Finding("error", title, reason, (segment.id,), cure)


def _missing_fuse(vehicle: Vehicle, circuit: Circuit) -> Iterator[Finding]:
    if circuit.family not in ("feed", "charging") or not circuit.supply:
        return
    if fuse_in_front_a(vehicle, circuit, circuit.return_path[0]) is None:
        title = f"Nothing protects {circuit.name}."
        reason = "A short anywhere on its supply side meets the full battery: put a fuse close to the source."
        yield Finding("caution", title, reason, circuit.supply[:1])


def _recommended_cure(
    vehicle: Vehicle, circuit: Circuit, solved: Profile, segment_id: str, rules: HouseRules
) -> Cure | None:
    steps = ladder(vehicle, circuit, solved, segment_id, rules)
    rung = steps.recommended if steps else None
    if rung is None or rung.present:
        return None
    name = vehicle.segments[segment_id].designation
    return Cure(segment_id, rung.change, f"{name} as {rung.label}: {rung.drop_v:.2f} V lost")
