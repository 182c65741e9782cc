"""Vehicles small enough for a pocket calculator, written as what lies between which points."""

from typing import Any

from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.model import Device, Point, Segment, Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC
from percorso.vehicle.states import Input, State

Piece = tuple[str, str, dict[str, Any]]
IDEAL_BATTERY = {"kind": "battery", "capacity_ah": 70, "cold_cranking_a": 600, "resistance_ohm": 0.01}


def joint(ohm: float) -> dict[str, Any]:
    """A plain resistance."""
    return {"kind": "joint", "resistance_ohm": ohm}


def key(*positions: str, ohm: float = 0.001) -> dict[str, Any]:
    """A contact of the key switch."""
    return {"kind": "switch", "closed_in": positions, "resistance_ohm": ohm}


def small_vehicle(
    segments: dict[str, Piece], devices: dict[str, tuple[dict[str, str], dict[str, Any]]], *inputs: Input
) -> Vehicle:
    """A 12 V vehicle; points are whatever the pieces name."""
    ends = {end for first, second, _ in segments.values() for end in (first, second)}
    ends |= {point for terminals, _ in devices.values() for point in terminals.values()}
    return Vehicle(
        12,
        {point: Point(point, point) for point in sorted(ends)},
        {
            name: Segment(name, name, first, second, SEGMENT_SPEC.validate_python(spec))
            for name, (first, second, spec) in segments.items()
        },
        devices={
            name: Device(name, name, name, terminals, DEVICE_SPEC.validate_python(spec))
            for name, (terminals, spec) in devices.items()
        },
        inputs={each.id: each for each in inputs},
    )


def solved(vehicle: Vehicle, state: State = "on", **inputs: str) -> Solution:
    """One state of a vehicle."""
    return Network(vehicle).solve(state, inputs)
