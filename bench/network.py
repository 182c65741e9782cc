"""Measures the network solve beside ngspice on the same netlists, and prints the figures; nothing is asserted."""

import cProfile
import pstats
import subprocess
import tempfile
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from random import Random

from bench.timing import median_ms
from core.tests.support.generated import large_vehicle
from percorso.house_rules import HouseRules
from percorso.map.layout import layout_of
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.network.spice import netlist
from percorso.vehicle.copper import by_house
from percorso.vehicle.model import Vehicle
from percorso.vehicle.resistance import segment_resistance_ohm
from percorso.vehicle.states import STATES, steps

TURNS = 15
VARIANTS = 1000
SIMULATED_VARIANTS = 200  # the simulator's own, scaled up: it takes seconds for a thousand


def main() -> None:
    """Print every figure."""
    vehicle = by_house(large_vehicle(), HouseRules())
    relays = sum(device.spec.kind == "relay coil" for device in vehicle.devices.values())
    counts = f"{len(vehicle.points)} points, {len(vehicle.segments)} segments, {len(vehicle.devices)} devices"
    print(f"network: {counts}, {relays} relays")
    solutions = Network(vehicle).sequence(steps(STATES))
    _states(vehicle, solutions)
    drawn = median_ms(TURNS, lambda: layout_of(_never_seen(vehicle)))
    print(f"map: {drawn:.1f} ms for its layout (aim: 50)")
    _variants(vehicle, solutions)
    _where(vehicle)


def _states(vehicle: Vehicle, solutions: Sequence[Solution]) -> None:
    def solve() -> None:
        Network(_never_seen(vehicle)).sequence(steps(STATES))

    ours = median_ms(TURNS, solve) / len(STATES)
    simulated = _simulated_ms([_control(vehicle, each, ["op"]) for each in solutions])
    print(f"all six states: {ours:.1f} ms per state, assembly and settling of contacts included (aim: 3)")
    print(f"  ngspice on the six settled netlists: {simulated:.1f} ms per state, parsing included: ", end="")
    print(f"{simulated / ours:.1f} times as long (aim: 4)")


def _never_seen(vehicle: Vehicle) -> Vehicle:
    """The same vehicle of new parts, of which nothing is known yet."""
    return replace(vehicle, segments={key: replace(each) for key, each in vehicle.segments.items()})


def _variants(vehicle: Vehicle, solutions: Sequence[Solution]) -> None:
    random = Random(1)
    plain = [each for each in vehicle.segments.values() if each.spec.kind in ("wire", "joint", "connector", "splice")]
    changes = []
    for _ in range(VARIANTS):
        segment = random.choice(plain)
        changes.append((segment.id, segment_resistance_ohm(segment.spec) * 10 ** random.uniform(-1, 1)))
    network = Network(vehicle)
    ours = median_ms(5, lambda: network.varied("idle", changes)) / VARIANTS
    idle = next(each for each in solutions if each.state == "idle")
    simulated = _simulated_variants_ms(network, idle, changes[:SIMULATED_VARIANTS])
    print(f"{VARIANTS} variants of one resistance: {ours:.2f} ms each; ngspice {simulated:.2f} ms each, ", end="")
    print(f"{simulated / ours:.0f} times as long (aim: 5)")


def _where(vehicle: Vehicle) -> None:
    """The share of the time each module takes of its own, numpy's calls counted to whom they serve."""
    profile = cProfile.Profile()
    profile.runcall(lambda: Network(vehicle).sequence(steps(STATES)))
    rows = pstats.Stats(profile).get_stats_profile().func_profiles
    total = max(each.cumtime for each in rows.values())
    print("where a state's time goes:")
    for name, says in (
        ("assemble", "assembling branches"),
        ("ohmic_part", "solving the ohmic part"),
        ("solve", "Newton's steps"),
        ("report", "reporting points, segments, devices"),
    ):
        print(f"  {rows[name].cumtime / total:4.0%} {says}")


def _control(vehicle: Vehicle, solution: Solution, commands: Sequence[str]) -> str:
    text = netlist(Network(vehicle), solution)
    return text.replace("\n.op\n", "\n.control\n" + "\n".join(commands) + "\n.endc\n")


def _simulated_ms(circuits: Sequence[str]) -> float:
    """What one process takes for one more round of all circuits, ms per circuit: its start is in both runs."""
    once, often = (_run_ms(circuits, rounds) for rounds in (1, 11))
    return (often - once) / 10 / len(circuits)


def _run_ms(circuits: Sequence[str], rounds: int) -> float:
    with tempfile.TemporaryDirectory() as folder:
        paths = []
        for number, text in enumerate(circuits):
            path = Path(folder, f"{number}.cir")
            path.write_text(text, encoding="utf-8")
            paths.append(path)
        script = Path(folder, "all.sp")
        lines = [f"source {path}" for _ in range(rounds) for path in paths]
        script.write_text("* all states\n.control\n" + "\n".join(lines) + "\nquit\n.endc\n.end\n", encoding="utf-8")
        return median_ms(3, lambda: subprocess.run(["ngspice", "-b", script], capture_output=True, check=False))


def _simulated_variants_ms(network: Network, solution: Solution, changes: Sequence[tuple[str, float]]) -> float:
    """What an ``alter`` and a new operating point take, ms."""
    numbers = {branch.owner: number for number, branch in enumerate(network.assembly.branches, start=1)}
    present = {branch.owner: branch.resistance_ohm for branch in network.assembly.branches}
    commands = ["op"]
    for segment_id, ohm in changes:
        name = f"r{numbers[segment_id]}"
        commands += [f"alter {name} = {ohm:.9g}", "op", f"alter {name} = {present[segment_id]:.9g}"]
    short, long = (_control(network.vehicle, solution, each) for each in (["op"], commands))
    return (_run_ms([long], 1) - _run_ms([short], 1)) / len(changes)


if __name__ == "__main__":
    main()
