"""Whole circuits sized at once: against every combination tried one by one, and against hand arithmetic."""

from dataclasses import replace
from itertools import product
from random import Random
from typing import Any
from unittest import TestCase

import numpy as np

from core.tests.support.small import IDEAL_BATTERY, small_vehicle
from percorso.components.conductors import (
    ConductorSize,
    copper_mass_kg,
    find_size,
    in_gauge,
    resistance_ohm,
    stocked_sizes,
)
from percorso.components.fuses import link_for
from percorso.components.published_ampacity import table_ampacity_a
from percorso.house_rules import HouseRules
from percorso.sizing.advice import Recommendation
from percorso.sizing.least_copper import CopperLimit, allocate
from percorso.sizing.search import recommend
from percorso.targets import Target
from percorso.vehicle.model import Circuit, Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC

RULES = HouseRules()
LIGHT = HouseRules(school="light", ampacity_rule="table")
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


def made(name: str) -> ConductorSize:
    """10 AWG as road-vehicle cable, thicker as battery cable (common practice)."""
    return in_gauge(find_size(name), "sae" if name == "10 AWG" else "astm")


def copper_at_40c_ohm(name: str, length_m: float) -> float:
    return resistance_ohm(made(name), length_m, 40.0)


def lightest_of_all(lengths: list[float], amps: tuple[float, float], allowed: tuple[float, float]) -> float | None:
    """Every combination of every size, by Ohm's law: kg, or None where none meets drop and ampacity.

    Each circuit answers for all that flows in the common wire, if a fifth of it is its own.
    """
    combinations = np.array(list(product(range(len(SIZES)), repeat=4)))
    ohm = np.array([[copper_at_40c_ohm(name, length) for name in SIZES] for length in lengths])
    mass = np.array([[copper_mass_kg(made(name), length) for name in SIZES] for length in lengths])
    stands = np.array([table_ampacity_a(made(name)) for name in SIZES])
    r = np.stack([ohm[place][combinations[:, place]] for place in range(4)])
    kg = sum(mass[place][combinations[:, place]] for place in range(4))
    flows = (amps[0], amps[1], amps[1], sum(amps))
    fits = np.all([stands[combinations[:, place]] >= flow for place, flow in enumerate(flows)], axis=0)
    common = [sum(amps) if own >= 0.2 * sum(amps) else own for own in amps]
    fits &= amps[0] * r[0] + common[0] * r[3] <= allowed[0]
    fits &= amps[1] * (r[1] + r[2]) + common[1] * r[3] <= allowed[1]
    return float(np.min(kg[fits])) if fits.any() else None


class WholeCircuits(TestCase):
    def sized(self, changes: dict[str, Any] | None = None, **more: Any) -> Recommendation:
        """Two feeds of 20 and 10 A over 3 m each and a common 1 m, with some pieces exchanged."""
        vehicle = two_feeds([3, 3, 0.5, 1], (20, 10), (0.5, 0.5))
        for name, spec in (changes or {}).items():
            piece = replace(vehicle.segments[name], spec=SEGMENT_SPEC.validate_python(spec))
            vehicle = replace(vehicle, segments={**vehicle.segments, name: piece})
        return recommend(vehicle, LIGHT, **more)

    def test_what_circuits_share_takes_the_sum_and_names_what_governs(self) -> None:
        """20 + 10 A flow in W4; the drop of each counts them all."""
        found = {each.segment_id: each for each in self.sized().wires}
        self.assertAlmostEqual(found["W4"].worst.current_a, 30, places=2)
        self.assertEqual(found["W1"].governed_by, "voltage drop")
        for each in found.values():
            mass = [other.extra_copper_kg for other in each.alternatives]
            self.assertEqual(mass, sorted(mass))
            thinner = [other for other in each.alternatives if other.extra_copper_kg < 0]
            self.assertTrue(thinner[-1].refused)

    def test_what_is_kept_stays_and_the_rest_makes_up_for_it(self) -> None:
        """3.2 m of 14 AWG kept in the common wire lose 20 A · 3.2 m · 10.1 mΩ/m: more than 0.5 V, with ways out."""
        free, kept = self.sized(), self.sized({"W4": wire(1, "8 AWG")}, keep=frozenset({"W4"}))
        self.assertNotIn("W4", {each.segment_id for each in kept.wires})
        self.assertEqual(kept.vehicle.segments["W4"].spec.size, "8 AWG")
        self.assertFalse(any(each.problem for each in (*free.circuits, *kept.circuits)))
        thin = self.sized({"W4": wire(3.2, "14 AWG")}, keep=frozenset({"W4"}))
        first = thin.circuits[0]
        self.assertIn("what is not wire", first.problem)
        self.assertTrue(any(way.startswith("allow") for way in first.ways_out))
        self.assertTrue(any("twice the voltage" in way for way in first.ways_out))

    def test_what_lies_beside_a_path_is_not_relied_upon(self) -> None:
        """A strap beside W4 would take most of its current; W4 must still carry all of it when the strap is off."""
        vehicle = two_feeds([3, 3, 0.5, 1], (20, 10), (0.5, 0.5))
        thick = SEGMENT_SPEC.validate_python(wire(1, "1/0"))
        strap = replace(vehicle.segments["W4"], id="W9", designation="W9", spec=thick)
        beside = replace(vehicle, segments={**vehicle.segments, "W9": strap})
        sizes = [{each.segment_id: each.size for each in recommend(one, RULES).wires} for one in (vehicle, beside)]
        self.assertEqual(sizes[0], {name: sizes[1][name] for name in sizes[0]})

    def test_a_link_follows_the_wire_it_guards_and_a_fuse_that_fits_nothing_says_why(self) -> None:
        """Four AWG numbers below the thinnest wire behind it, common practice."""
        linked = self.sized({"W1": {"kind": "fusible link", "size": "20 AWG"}})
        [link] = linked.links
        guarded = next(each for each in linked.wires if each.segment_id == "W4")
        below = link_for(find_size(guarded.size))
        self.assertEqual(link.size, below and below.name)
        self.assertEqual(linked.changes["W1"], {"size": link.size})
        fused = self.sized({"W1": {"kind": "fuse", "rating_a": 25}, "W4": wire(0.2, "20 AWG")}, keep=frozenset({"W4"}))
        [fuse] = fused.fuses
        self.assertIsNone(fuse.choice.rating_a)
        self.assertIn("the thinnest wire is good for", fuse.choice.reason)
        self.assertNotIn("W1", fused.changes)

    def test_allocation_within_several_limits_against_every_combination(self) -> None:
        """Sixty random problems with shared wires and two limits a group, by brute force."""
        for seed in range(60):
            rng = np.random.default_rng(seed)
            names, sizes = ("s1", "s2", "a1", "a2", "b1"), stocked_sizes("awg")[3:10]
            lengths = {name: rng.uniform(0.3, 6) for name in names}
            mass = {name: np.array([copper_mass_kg(size, lengths[name]) for size in sizes]) for name in names}
            ohm = {name: np.array([resistance_ohm(size, lengths[name]) for size in sizes]) for name in names}
            limits = []
            for group in ("a", "a", "b", "b"):
                use = {name: rng.uniform(2, 40) * ohm[name] for name in names if name[0] in ("s", group)}
                limits.append(CopperLimit(group, use, rng.uniform(0.3, 2)))
            places = np.array(list(product(range(len(sizes)), repeat=len(names)))).T
            picked = dict(zip(names, places, strict=True))
            kg = np.sum([mass[name][at] for name, at in picked.items()], axis=0)
            fits = np.ones(len(kg), dtype=bool)
            for limit in limits:
                fits &= np.sum([use[picked[name]] for name, use in limit.use.items()], axis=0) <= limit.most
            found = allocate(mass, limits)
            with self.subTest(seed=seed):
                if not fits.any():
                    self.assertIsNone(found)
                else:
                    assert found
                    least = sum(mass[name][at] for name, at in found.items())
                    self.assertAlmostEqual(float(least), float(np.min(kg[fits])), places=9)


class LeastCopper(TestCase):
    def test_two_hundred_pairs_of_circuits_against_every_combination(self) -> None:
        """10 000 combinations for each pair, judged by Ohm's law and the table alone."""
        rules, impossible = replace(LIGHT, thinnest_wire_mm2=5.0, copper="zone temperature"), 0
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
