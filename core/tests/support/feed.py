"""A pump on a fused feed in three pieces, whole and mistaken."""

from dataclasses import replace
from typing import Any

from core.tests.support.small import IDEAL_BATTERY, small_vehicle
from percorso.targets import Target
from percorso.vehicle.model import Circuit, Vehicle

Parts = dict[str, tuple[str, str, dict[str, Any]]]
Devices = dict[str, tuple[dict[str, str], dict[str, Any]]]

FEED: Parts = {
    "F1": ("plus", "f", {"kind": "fuse", "rating_a": 25}),
    "W1": ("f", "a", {"kind": "wire", "size": "10 AWG", "length_m": 2, "insulation": "silicone"}),
    "W2": ("a", "b", {"kind": "wire", "size": "10 AWG", "length_m": 0.3, "insulation": "silicone"}),
    "W3": ("b", "load+", {"kind": "wire", "size": "10 AWG", "length_m": 1, "insulation": "silicone"}),
    "W4": ("load-", "minus", {"kind": "wire", "size": "10 AWG", "length_m": 2, "insulation": "silicone"}),
}
PUMP = {"kind": "motor", "rated_v": 13.0, "rated_a": 18.0}


def circuit(
    name: str, supply: tuple[str, ...], back: tuple[str, ...], start: str = "plus", end: str = "load-", **more: Any
) -> Circuit:
    values: dict[str, Any] = {"family": "feed", "amps": 18.0, "allowed": 1.2, "device_id": None, "state": "on"} | more
    target = Target("max_drop_v", values["allowed"])
    return Circuit(
        name.replace(" ", "-"), name, values["family"], name, values["amps"], 13.0, target, start, supply, end, back,
        values["state"], values["device_id"],
    )  # fmt: skip


def with_circuits(vehicle: Vehicle, *circuits: Circuit) -> Vehicle:
    return replace(vehicle, circuits={each.id: each for each in circuits})


def feed(load: dict[str, Any] = PUMP, supply: tuple[str, ...] = ("F1", "W1", "W2", "W3"), **parts: Any) -> Vehicle:
    """A pump on a fused feed in three pieces; ``parts`` exchanges pieces, or takes them out with None."""
    merged = {name: part for name, part in (FEED | parts).items() if part is not None}
    devices: Devices = {
        "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
        "M1": ({"+": "load+", "-": "load-"}, load),
    }
    back = tuple(name for name in merged if name in ("W4", "J4"))
    return with_circuits(small_vehicle(merged, devices), circuit("Pump", supply, back, device_id="M1"))


def piece(name: str, **values: Any) -> tuple[str, str, dict[str, Any]]:
    start, end, spec = FEED[name]
    return start, end, spec | values
