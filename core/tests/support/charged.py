"""A charging system small enough to work out by hand, shared by the tests of the load budget."""

from typing import Any

from core.tests.support.small import Piece, joint, small_vehicle
from percorso.load_budget.sources import budgeted
from percorso.load_budget.system import ChargingSystem
from percorso.vehicle.model import Vehicle
from percorso.vehicle.scenarios import Drive, Scenario, Spell

BATTERY = {"kind": "battery", "capacity_ah": 95, "cold_cranking_a": 600, "peukert": 1, "state_of_charge_percent": 80}
ALTERNATOR = {
    "kind": "alternator",
    "setpoint_v": 14.2,
    "at_1800_a": 40,
    "at_6000_a": 90,
    "self_excites_rpm": 1000,
    "pulley_ratio": 2.5,
    "engine_idle_rpm": 720,
    "engine_road_rpm": 2400,
}
FORTY_A = {"kind": "constant current", "rated_v": 13, "rated_a": 40}
HEATER = {"kind": "resistive", "rated_v": 12, "rated_a": 12}
Devices = dict[str, tuple[dict[str, str], dict[str, Any]]]


def unwired(**specs: dict[str, Any]) -> Vehicle:
    """A vehicle of devices nobody wired yet: everything hangs at the battery's posts."""
    return small_vehicle({}, {name: ({}, spec) for name, spec in specs.items()})


def wired() -> Vehicle:
    """Alternator, battery and two loads that share a wire and a ground."""
    segments: dict[str, Piece] = {
        "W1": ("post", "plus", joint(0.004)),
        "W2": ("plus", "stud", joint(0.006)),
        "W3": ("stud", "heater", joint(0.02)),
        "W4": ("ground", "minus", joint(0.003)),
    }
    devices: Devices = {
        "G1": ({"+": "plus", "-": "minus"}, BATTERY),
        "G2": ({"B+": "post", "B-": "minus", "S": "stud"}, ALTERNATOR),
        "A1": ({"+": "stud", "-": "ground"}, FORTY_A),
        "E1": ({"+": "heater", "-": "ground"}, HEATER),
    }
    return small_vehicle(segments, devices)


def sensing(**fuse: bool) -> Vehicle:
    """An alternator that senses the battery over a lead with a fuse of its own, and a heater."""
    wire = {"kind": "wire", "size": "4 mm2", "length_m": 2}
    segments: dict[str, Piece] = {
        "W1": ("post", "plus", wire),
        "F1": ("plus", "fused", {"kind": "fuse", "rating_a": 1, **fuse}),
        "W2": ("fused", "sense", wire),
    }
    devices: Devices = {
        "G1": ({"+": "plus", "-": "minus"}, BATTERY),
        "G2": ({"B+": "post", "B-": "minus", "S": "sense"}, ALTERNATOR),
        "E1": ({"+": "plus", "-": "minus"}, HEATER),
    }
    return small_vehicle(segments, devices)


def system_of(vehicle: Vehicle) -> ChargingSystem:
    """Its charging system as planned."""
    return ChargingSystem(budgeted(vehicle, "planned"))


def drive(*spells: tuple[float, str]) -> Drive:
    """A drive of minutes under scenarios."""
    return Drive("d", "Drive", tuple(Spell(scenario, minutes, scenario) for minutes, scenario in spells))


def at(state: Any, outside_c: float, **duty_percent: float) -> Scenario:
    """A scenario by day in summer."""
    return Scenario("own", "own", state, "day", "summer", outside_c, duty_percent)
