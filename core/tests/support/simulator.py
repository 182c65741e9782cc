"""The general circuit simulator that the solver is held against: ngspice from Debian's packages, run in batch."""

import re
import subprocess
import tempfile
from pathlib import Path

from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.network.spice import netlist

_NODE = re.compile(r"^\* node (\S+) = point (\S+)", re.MULTILINE)
_VALUE = re.compile(r"^(n\d+) = (\S+)$", re.MULTILINE)


def simulated_v(text: str) -> dict[str, float]:
    """Potential of every point of a netlist by id, V, as the simulator finds it."""
    asked = text.replace("\n.op\n", "\n.control\nset numdgt=12\nop\nprint all\n.endc\n")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "state.cir")
        path.write_text(asked, encoding="utf-8")
        run = subprocess.run(["ngspice", "-b", path], capture_output=True, text=True, check=False, timeout=60)
    found = {name: float(value) for name, value in _VALUE.findall(run.stdout)} | {"0": 0.0}
    nodes = _NODE.findall(text)
    missing = [node for node, _ in nodes if node not in found]
    if missing:
        raise AssertionError(f"the simulator has no voltage for {missing[:5]}: {run.stdout[-500:]}{run.stderr[-800:]}")
    return {point: found[node] for node, point in nodes}


def worst_disagreement(network: Network, solution: Solution) -> tuple[float, str]:
    """How far the solver is off the simulator at its worst point, as a share of what is allowed.

    That is 1 mV and 0.1 %; a millionth where nothing limits an alternator that senses nothing, at hundreds of volts.
    """
    simulated = simulated_v(netlist(network, solution))
    worst = (0.0, "")
    for point, result in solution.points.items():
        if result.v is not None:
            size = abs(simulated[point])
            allowed = max(min(1e-3, max(1e-3 * size, 1e-6)), 1e-6 * size)
            worst = max(worst, (abs(result.v - simulated[point]) / allowed, point))
    return worst
