"""Measures the load budget on a job of 60 wired loads, and prints the figures; nothing is asserted."""

from bench.planning import RULES, laid_job, median_ms
from percorso.load_budget.balance import balances
from percorso.load_budget.budget import draw_up
from percorso.load_budget.drive import run_drive
from percorso.load_budget.sources import budgeted
from percorso.load_budget.system import ChargingSystem
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Vehicle
from percorso.vehicle.scenarios import BALANCED, PRESETS, STANDARD, Drive, Spell

LOADS = 60
DAY = Drive("day", "Eight hours", tuple(Spell(each, 120, each) for each in list(BALANCED)[3:7]))


def main() -> None:
    """Print every figure."""
    vehicle = laid_job(lambda laid: _loads(laid) >= LOADS)
    print(f"{_loads(vehicle)} loads on {len(vehicle.points)} points")
    scenarios = [STANDARD[each] for each in BALANCED]
    whole = median_ms(lambda: balances(ChargingSystem(budgeted(vehicle, "planned")), scenarios, RULES))
    print(f"balance over {len(scenarios)} scenarios, wiring solved anew: {whole:.0f} ms (aim: 100)")
    system = ChargingSystem(budgeted(vehicle, "planned"))
    takes = median_ms(lambda: run_drive(system, DAY, RULES.coldest_morning_c))
    print(f"eight hours at one-minute steps: {takes:.0f} ms (aim: 400)")
    everything = median_ms(lambda: draw_up(vehicle, "planned", RULES, PRESETS["town-winter-night"]))
    print(f"the whole budget, ledger, advice and a drive: {everything:.0f} ms")


def _loads(vehicle: Vehicle) -> int:
    return sum(isinstance(each.spec, Load) for each in vehicle.devices.values())


if __name__ == "__main__":
    main()
