"""Measures tracing on vehicles that nobody described: usual ones, whose metal is otherwise than what is usual.

``python -m bench.came_in [LOOPS [SEED]]`` hides a fault of ``bench.other_worlds`` in each of so many vehicles whose
wires are up to 1.4 times longer or shorter and may be a size thicker or thinner, and follows looks and tests to the
end: with every question of wiring answered, with one and two left open, and with one answered wrongly.
"""

import random
import statistics
import sys
from collections.abc import Mapping
from dataclasses import dataclass, replace
from importlib.metadata import version
from multiprocessing import current_process, get_context

from bench.other_worlds import CAUSES, World
from bench.reliability import CONFIDENT, MOST_TESTS, complained_of
from percorso.components.conductors import stocked_sizes
from percorso.errors import MeasurementError
from percorso.survey.mixture import MixedTrace, MixedTracer
from percorso.survey.wirings import otherwise, wirings
from percorso.usual_vehicles.laying import usual_vehicle
from percorso.usual_vehicles.questions import AND, OF_WIRING, QUESTIONS
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.segments import Wire
from percorso.verification.measured.measurements import Measurement

LOOPS = 100  # of each kind
LONGER = 1.4
DESCRIBED = {name: cause for name, cause in CAUSES.items() if name not in ("rerouted", "added load")}
KINDS = {"all is answered": (0, 0), "one is open": (1, 0), "two are open": (2, 0), "one is answered wrongly": (0, 1)}


@dataclass(frozen=True)
class CameIn:
    """How one vehicle was traced: how probable what was named first is, and whether that is what is bad.

    ``said_otherwise``: it was said that the vehicle is not wired as described.
    """

    is_right: bool
    said_otherwise: bool
    first: float
    tests: int
    looks: int

    @property
    def is_wrong(self) -> bool:
        """A part that is good was as good as condemned."""
        return not self.is_right and self.first >= CONFIDENT


def main(loops: int = LOOPS, seed: str = version("percorso")) -> None:
    """Print the figures."""
    for kind in KINDS:
        found = followed(kind, loops, seed)
        right = sum(each.is_right for each in found) / len(found)
        told = sum(each.is_right or each.said_otherwise for each in found) / len(found)
        steps = statistics.median(each.tests + each.looks for each in found)
        looks = statistics.mean(each.looks for each in found)
        print(f"{kind}: {len(found)} loops, right first {right:.1%}, or not wired as described {told:.1%}, ", end="")
        print(f"{sum(each.is_wrong for each in found)} wrong with {CONFIDENT:.0%} and more, ", end="")
        print(f"median {steps:.0f} tests and looks, of them {looks:.1f} looks")


def followed(kind: str, loops: int, seed: str) -> list[CameIn]:
    """So many loops, each on a vehicle of its own."""
    asked = [(kind, f"{seed} {number}") for number in range(loops)]
    if current_process().daemon:
        return [one for each in asked if (one := traced(each))]
    with get_context("fork").Pool() as pool:
        return [one for one in pool.imap(traced, asked) if one]


def traced(asked: tuple[str, str]) -> CameIn | None:
    """One vehicle by lot, always the same; None where nothing is bad enough to be complained of."""
    kind, seed = asked
    chance = random.Random(f"came in {seed}")
    truth = _answers(chance)
    said = _said(truth, *KINDS[kind], chance)
    metal = as_metal_is(usual_vehicle(truth), chance)
    for world, symptoms in complained_of(metal, metal, chance, DESCRIBED, "found"):
        return _follow(said, truth, world, symptoms, random.Random(f"noise {seed}"))
    return None


def _answers(chance: random.Random) -> dict[str, str]:
    one_of = {each.key: chance.choice(each.choices) for each in QUESTIONS if not each.several}
    several = {each.key: [one for one in each.choices if chance.random() < 0.6] for each in QUESTIONS if each.several}
    return one_of | {key: AND.join(chosen) for key, chosen in several.items()}


def _said(truth: Mapping[str, str], open_: int, wrong: int, chance: random.Random) -> dict[str, str]:
    """What somebody answers: some questions of wiring not, and some wrongly."""
    about = chance.sample(OF_WIRING, open_ + wrong)
    said = {key: choice for key, choice in truth.items() if key not in {each.key for each in about[:open_]}}
    for each in about[open_:]:
        said[each.key] = chance.choice([choice for choice in each.choices if choice != truth[each.key]])
    return said


def as_metal_is(vehicle: Vehicle, chance: random.Random) -> Vehicle:
    """A usual vehicle with its wires otherwise; it is known as it is."""
    segments = {each.id: replace(_otherwise(each, chance), known="seen") for each in vehicle.segments.values()}
    devices = {each.id: replace(each, known="seen") for each in vehicle.devices.values()}
    return replace(vehicle, segments=segments, devices=devices)


def _otherwise(segment: Segment, chance: random.Random) -> Segment:
    spec = segment.spec
    if not isinstance(spec, Wire):
        return segment
    sizes = [each.name for each in stocked_sizes("metric")]
    place = min(max(sizes.index(spec.size) + chance.choice([-1, 0, 0, 1]), 0), len(sizes) - 1)
    length_m = spec.length_m * LONGER ** chance.uniform(-1, 1)
    return replace(segment, spec=spec.model_copy(update={"length_m": length_m, "size": sizes[place]}))


def _follow(
    said: Mapping[str, str], truth: Mapping[str, str], world: World, symptoms: list[Measurement], chance: random.Random
) -> CameIn:
    laid, known, looked = usual_vehicle(said), [*symptoms], dict[str, str]()
    right, said_otherwise = world.right | world.near, False
    tracer = _tracer(laid, said, looked)
    for _ in range(MOST_TESTS):
        found = tracer.trace(known)
        said_otherwise = said_otherwise or not found.wirings[0].is_as_described
        wanted = [found.looks[0].question] if found.looks else []
        if not wanted and (found.trace.stop or not found.trace.next):
            break
        if not wanted:
            try:
                one = world.read(found.trace.next[0].measurement, chance.randrange(10**6))
            except MeasurementError:  # there is no such thing: then one looks how it is
                wanted = [key for key in truth if {**said, **looked}.get(key) != truth[key]]
        if wanted:
            looked |= {key: truth[key] for key in wanted}
            tracer = _tracer(laid, said, looked)
        elif one.value is None and one.outcome is None:
            break
        else:
            known.append(one)
    first, of = _first(found)
    return CameIn(bool(of & right), said_otherwise, first, len(known) - len(symptoms), len(looked))


def _tracer(laid: Vehicle, said: Mapping[str, str], looked: Mapping[str, str]) -> MixedTracer:
    return MixedTracer(wirings(laid, said, looked), "found", otherwise(laid, said, looked))


def _first(found: MixedTrace) -> tuple[float, set[str]]:
    """What is suspected most: how probable, and the parts that are renewed together."""
    units = found.trace.of_units()
    best = next(iter(units), "")
    return units.get(best, 0.0), {each.part for each in found.trace.suspects if each.unit == best}


if __name__ == "__main__":
    main(int(sys.argv[1]) if sys.argv[1:] else LOOPS, *sys.argv[2:3])
