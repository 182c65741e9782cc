"""Whole circuits sized at once: against every combination tried one by one, and against hand arithmetic."""

from dataclasses import replace
from itertools import product
from random import Random
from typing import Any
from unittest import TestCase

import numpy as np

from core.tests.small import IDEAL_BATTERY, small_vehicle
from percorso.conductors import copper_mass_kg, find_size, resistance_ohm, stocked_sizes
from percorso.heating import table_ampacity_a
from percorso.house_rules import HouseRules
from percorso.recommendation import recommend
from percorso.vehicle import Circuit, Target, Vehicle

RULES = HouseRules()
SIZES = tuple(size.name for size in stocked_sizes("awg") if size.area_mm2 > 5)  # 10 AWG to 4/0


def wire(length_m: float, size: str = "10 AWG", **more: Any) -> dict[str, Any]:
    return {"kind": "wire", "size": size, "length_m": length_m, "zone": "outside", **more}


def feed(
    name: str, amps: float, allowed_v: float, supply: tuple[str, ...], back: tuple[str, ...], **more: Any
) -> Circuit:
    """A circuit to a constant current from ``plus`` back to ``minus``, whose load stands at ``name`` + and −."""
    target, start = Target("max_drop_v", allowed_v), f"{name}-"
    return Circuit(name, name, "feed", name, amps, 12.6, target, "plus", supply, start, back, "on", name, **more)


def two_feeds(lengths: list[float], amps: tuple[float, float], allowed: tuple[float, float]) -> Vehicle:
    """Two loads, each with its own wire out, b with one more to where a is grounded; one wire leads on from there."""
    load = {"kind": "constant current", "rated_v": 12.0, "runs_in": ["on"]}
    vehicle = small_vehicle(
        {
            "W1": ("plus", "a+", wire(lengths[0])),
            "W2": ("plus", "b+", wire(lengths[1])),
            "W3": ("b-", "a-", wire(lengths[2])),
            "W4": ("a-", "minus", wire(lengths[3])),
        },
        {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "a": ({"+": "a+", "-": "a-"}, {**load, "rated_a": amps[0]}),
            "b": ({"+": "b+", "-": "b-"}, {**load, "rated_a": amps[1]}),
        },
    )
    circuits = (
        feed("a", amps[0], allowed[0], ("W1",), ("W4",)),
        feed("b", amps[1], allowed[1], ("W2",), ("W3", "W4")),
    )
    return replace(vehicle, circuits={each.id: each for each in circuits})


def copper_at_40c_ohm(name: str, length_m: float) -> float:
    return resistance_ohm(find_size(name), length_m, 40.0)


def lightest_of_all(lengths: list[float], amps: tuple[float, float], allowed: tuple[float, float]) -> float | None:
    """Every combination of every size, by Ohm's law: kg, or None where none meets drop and ampacity."""
    combinations = np.array(list(product(range(len(SIZES)), repeat=4)))
    ohm = np.array([[copper_at_40c_ohm(name, length) for name in SIZES] for length in lengths])
    mass = np.array([[copper_mass_kg(find_size(name), length) for name in SIZES] for length in lengths])
    stands = np.array([table_ampacity_a(find_size(name)) for name in SIZES])
    r = np.stack([ohm[place][combinations[:, place]] for place in range(4)])
    kg = sum(mass[place][combinations[:, place]] for place in range(4))
    flows = (amps[0], amps[1], amps[1], sum(amps))
    fits = np.all([stands[combinations[:, place]] >= flow for place, flow in enumerate(flows)], axis=0)
    fits &= amps[0] * r[0] + sum(amps) * r[3] <= allowed[0]
    fits &= amps[1] * (r[1] + r[2]) + sum(amps) * r[3] <= allowed[1]
    return float(np.min(kg[fits])) if fits.any() else None


class LeastCopper(TestCase):
    def test_two_hundred_pairs_of_circuits_against_every_combination(self) -> None:
        """10 000 combinations for each pair, judged by Ohm's law and the table alone."""
        rules, impossible = HouseRules(thinnest_wire_mm2=5.0), 0
        for seed in range(200):
            random = Random(seed)
            lengths = [random.uniform(0.4, 6) for _ in range(4)]
            amps = (random.uniform(5, 90), random.uniform(5, 90))
            allowed = (random.uniform(0.06, 0.6), random.uniform(0.06, 0.6))
            best = lightest_of_all(lengths, amps, allowed)
            found = recommend(two_feeds(lengths, amps, allowed), rules)
            with self.subTest(seed=seed):
                if best is None:
                    impossible += 1
                    self.assertTrue(any(each.problem and each.ways_out for each in found.circuits))
                else:
                    self.assertAlmostEqual(found.copper_kg, best, places=9)
                    self.assertFalse(any(each.problem for each in found.circuits))
        self.assertTrue(0 < impossible < 100)
