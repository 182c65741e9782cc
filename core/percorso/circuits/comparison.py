"""What the work changes for each circuit, from as found to as planned."""

from dataclasses import dataclass

from percorso.circuits.voltage_profile import NotLive, Profile


@dataclass(frozen=True)
class Difference:
    """What a circuit loses and its device gets before and after, V, in one state; None where it has no such figure."""

    circuit_id: str
    found_drop_v: float | None
    planned_drop_v: float | None
    found_device_v: float | None
    planned_device_v: float | None


def difference(circuit_id: str, found: Profile | NotLive, planned: Profile | NotLive) -> Difference:
    """What the work changes for one circuit, as it runs in the same state before and after."""
    before, after = (each if isinstance(each, Profile) else None for each in (found, planned))
    return Difference(
        circuit_id,
        before.total_drop_v if before else None,
        after.total_drop_v if after else None,
        before.device_v if before else None,
        after.device_v if after else None,
    )
