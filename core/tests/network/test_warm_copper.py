"""Networks whose wires warm by what flows: by pocket calculator, in seconds, and with what switches by it."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from core.tests.support.demo import demo
from core.tests.support.small import IDEAL_BATTERY, small_vehicle
from percorso.circuits.voltage_profile import Profile, profile
from percorso.components.conductors import warmed
from percorso.components.thermal import temperature_c
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.study import Study
from percorso.vehicle.copper import by_house
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Wire

OWN, ZONE = HouseRules(), HouseRules(copper="zone temperature")
COLD_BOX = {"kind": "resistive", "rated_v": 12, "rated_a": 24.0}
WIRE = {"kind": "wire", "size": "2.5 mm2", "length_m": 8.0, "zone": "cabin", "insulation": "thin-wall cross-linked"}


def heater(**coil: float) -> Vehicle:
    """A heater on 8 m of 2.5 mm², in whose feed a relay's coil hangs too."""
    devices = {
        "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
        "R1": ({"+": "far", "-": "minus"}, COLD_BOX),
    }
    if coil:
        devices["K1"] = ({"86": "far", "85": "minus"}, {"kind": "relay coil", "resistance_ohm": 90, **coil})
    return small_vehicle({"W1": ("plus", "far", WIRE)}, devices)


def at_rest(vehicle: Vehicle, rules: HouseRules) -> Solution:
    return Network(by_house(vehicle, rules)).solve("on", look_ahead=False)


class Lasting(TestCase):
    def test_a_heater_by_hand(self) -> None:
        """7.60 mΩ/m · 8 m (ISO 6722-1, from memory), and as much more as its own temperature makes it (IEC 60028)."""
        vehicle = heater()
        warm, cool = (at_rest(vehicle, rules).segments["W1"] for rules in (OWN, ZONE))
        spec = vehicle.segments["W1"].spec
        assert isinstance(spec, Wire) and warm.current_a and warm.drop_v and cool.current_a and cool.drop_v
        self.assertAlmostEqual(cool.drop_v / cool.current_a, 0.0608 * warmed(50.0))
        self.assertAlmostEqual(cool.copper_c or 0.0, 50.0)
        copper_c = float(temperature_c(spec.cable, cool.current_a, 50.0))
        self.assertAlmostEqual(warm.copper_c or 0.0, copper_c, delta=0.3)
        self.assertAlmostEqual(warm.drop_v / warm.current_a, 0.0608 * (1 + 0.00393 * (copper_c - 20)), delta=1e-4)
        self.assertGreater(warm.drop_v, 1.04 * cool.drop_v)

    def test_a_coil_that_only_just_held_drops_out_by_it(self) -> None:
        """With cool copper 10.59 V are left at the coil, with warm copper 10.5 and less."""
        cool_v = at_rest(heater(), ZONE).points["far"].v or 0.0
        vehicle = heater(pull_in_v=cool_v - 0.05, drop_out_v=cool_v - 0.06)
        self.assertTrue(at_rest(vehicle, ZONE).devices["K1"].pulled_in)
        self.assertFalse(at_rest(vehicle, OWN).devices["K1"].pulled_in)
        self.assertIsInstance(vehicle.devices["K1"].spec, RelayCoil)

    def test_variants_of_a_resistance_find_the_rest_as_warm_as_it_is(self) -> None:
        """One that is no other changes nothing, and one solved by itself is the same."""
        for name in ("market-van", "vineyard-tractor"):
            network = Study(demo(name), OWN).at("found")
            base = network.settled("road").solved
            ohm = {each: float(1 / base.part.conductance[network.branch_of(each)]) for each in network.vehicle.segments}
            wires = [each.id for each, _ in network.vehicle.segments_of(Wire)]
            same = network.varied("road", [(each, ohm[each]) for each in wires])
            np.testing.assert_allclose(same - base.potential, 0.0, atol=1e-6)
            held = network.as_warm_as(base).settled("road").solved.potential
            np.testing.assert_allclose(held, base.potential, atol=1e-7)


class WhileCranking(TestCase):
    def test_a_start_hardly_warms_what_would_melt_for_long(self) -> None:
        """The van's battery cable at design current: seconds warm it by a few kelvin."""
        study = Study(demo("market-van"), OWN)
        vehicle = study.at("found").vehicle
        starting = next(each for each in vehicle.circuits.values() if each.family == "starting")
        in_seconds = profile(vehicle, starting, OWN)
        for_long = profile(vehicle, replace(starting, state="on"), OWN)
        self.assertLess(warmest(in_seconds), 85 + 25)
        self.assertGreater(warmest(for_long), warmest(in_seconds) + 20)
        solved = study.solved("cranking", "found", {})
        assert solved is not None
        rises = [each.copper_c - 85 for each in solved.solution.segments.values() if each.copper_c is not None]
        self.assertLess(max(rises), 25)


def warmest(solved: Profile) -> float:
    return max((leg.copper_c for leg in solved.legs if leg.copper_c is not None), default=-math.inf)
