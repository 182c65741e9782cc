"""Measures sizing and findings on jobs laid from starters, and prints the figures; nothing is asserted."""

import statistics
import time
from collections.abc import Callable
from itertools import count

from percorso.circuits.design_case import planned
from percorso.findings.plan import plan_findings
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.planning.templates import answered, lay_starter
from percorso.sizing.search import recommend
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Wire

TURNS = 9
RULES = HouseRules()


def main() -> None:
    """Print every figure."""
    sized = laid_job(lambda vehicle: sum(isinstance(each.spec, Wire) for each in vehicle.segments.values()) >= 60)
    ours = median_ms(lambda: recommend(sized, RULES))
    print(f"{_counts(sized)}: sized over six states in {ours:.0f} ms (aim: 300)")
    noticed = laid_job(lambda vehicle: len(vehicle.points) >= 150)
    plan = planned(Network(noticed), RULES)
    alone = median_ms(lambda: plan_findings(plan))
    whole = median_ms(lambda: plan_findings(planned(Network(noticed), RULES)))
    print(f"{_counts(noticed)}: findings in {alone:.0f} ms, {whole:.0f} ms with the six states solved (aim: 150)")


def laid_job(is_enough: Callable[[Vehicle], bool]) -> Vehicle:
    """A 12 V job laid from starters, one device after the other."""
    numbers = count()

    def lay(vehicle: Vehicle, starter: str, **answers: str) -> Vehicle:
        return lay_starter(vehicle, answered(starter, answers), RULES, lambda: f"n{next(numbers)}", "metric")[0]

    vehicle = Vehicle(12, {}, {})
    for starter in ("starter-cables", "start-trigger", "built-in-regulator", "pressure-interlock", "module-feed"):
        vehicle = lay(vehicle, starter)
    kinds = ("motor", "filament lamp", "resistive")
    while not is_enough(vehicle):
        number = next(numbers)
        kind = kinds[number % 3]
        vehicle = lay(vehicle, "relay-fed-device", name=f"Device {number}", kind=kind, amps=f"{3 + number % 9} A")
    return vehicle


def _counts(vehicle: Vehicle) -> str:
    wires = sum(isinstance(each.spec, Wire) for each in vehicle.segments.values())
    return f"{len(vehicle.points)} points, {wires} wires, {len(vehicle.circuits)} circuits"


def median_ms(work: Callable[[], object]) -> float:
    """The median time of some work, ms."""
    times = []
    for _ in range(TURNS):
        start = time.perf_counter()
        work()
        times.append((time.perf_counter() - start) * 1000)
    return statistics.median(times)


if __name__ == "__main__":
    main()
