"""What the work changes for each circuit, from as found to as planned."""

from dataclasses import dataclass

from percorso.circuits.voltage_profile import Profile, solved_profile
from percorso.house_rules import HouseRules
from percorso.network.results import Solution
from percorso.vehicle.model import Vehicle


@dataclass(frozen=True)
class Difference:
    """What a circuit loses and its device gets before and after, V, in one state; None where it has no such figure."""

    circuit_id: str
    found_drop_v: float | None
    planned_drop_v: float | None
    found_device_v: float | None
    planned_device_v: float | None


def difference(
    found: tuple[Vehicle, Solution], planned: tuple[Vehicle, Solution], circuit_id: str, rules: HouseRules
) -> Difference:
    """What the work changes for one circuit, from both networks solved in the same state."""
    before, after = (_profile(*each, circuit_id, rules) for each in (found, planned))
    return Difference(
        circuit_id,
        before.total_drop_v if before else None,
        after.total_drop_v if after else None,
        before.device_v if before else None,
        after.device_v if after else None,
    )


def _profile(vehicle: Vehicle, solution: Solution, circuit_id: str, rules: HouseRules) -> Profile | None:
    circuit = vehicle.circuits.get(circuit_id)
    solved = solved_profile(vehicle, circuit, solution, rules) if circuit else None
    return solved if isinstance(solved, Profile) else None
