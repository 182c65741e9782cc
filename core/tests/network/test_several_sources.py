"""Vehicles with more than one source: alternators that disagree, batteries in series and side by side."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

from core.tests.support.small import IDEAL_BATTERY, joint, key, small_vehicle, solved
from percorso.findings.operating_state import behaviour
from percorso.house_rules import HouseRules
from percorso.network.branches import battery_posts, usual_resistance_ohm
from percorso.network.operating_point import Network
from percorso.vehicle.devices import DEVICE_SPEC, Battery
from percorso.vehicle.model import Vehicle
from percorso.vehicle.states import Input, Step, steps

ALTERNATOR: dict[str, Any] = {
    "kind": "alternator", "setpoint_v": 14.2, "at_1800_a": 40, "at_6000_a": 80, "self_excites_rpm": 1000,
}  # fmt: skip


def twins(between_ohm: float, *, tied: bool) -> Vehicle:
    """One of 14.2 V whose sense lead hangs behind a pulled fuse on a lamp, one of 14.5 V that senses its own post."""
    lead = {"F": ("post1", "s", {"kind": "fuse", "rating_a": 5, "fitted": False})}
    cables = {"W1": ("post1", "plus", joint(between_ohm)), "W2": ("post2", "plus", joint(0.01))}
    batteries = {"G1": ({"+": "plus", "-": "minus"}, {**IDEAL_BATTERY, "charge_a": 20})}
    if not tied:
        cables["W1"] = ("post1", "load", joint(0.001))
        lead["R"] = ("load", "minus", joint(25.39 / 80))  # all of its 80 A go through here
    return small_vehicle(
        lead | cables,
        batteries
        | {
            "A1": ({"B+": "post1", "B-": "minus", "S": "s"}, ALTERNATOR),
            "A2": ({"B+": "post2", "B-": "minus"}, ALTERNATOR | {"setpoint_v": 14.5}),
            "E1": ({"+": "s", "-": "minus"}, {"kind": "filament lamp", "rated_v": 12, "rated_a": 0.3}),
        },
    )


class TwinAlternators(TestCase):
    def test_one_that_senses_nothing_gives_all_it_can_and_the_other_regulates(self) -> None:
        """Apart, 80 A through 0.317 Ω lift its post to 25.4 V; the other holds its own at 14.5 V."""
        apart = solved(twins(0.01, tied=False), "road")
        self.assertEqual(apart.unsettled, ())
        self.assertEqual(dict(apart.regulation), {"A1": "at its limit", "A2": "regulating"})
        self.assertAlmostEqual(apart.points["post1"].v or 0, 80 * (25.39 / 80 + 0.001), places=3)
        self.assertAlmostEqual(apart.points["post2"].v or 0, 14.5, places=6)

    def test_tied_together_what_one_gives_is_shared(self) -> None:
        tied = solved(twins(0.005, tied=True), "road")
        self.assertEqual((tied.unsettled, tied.regulation["A1"]), ((), "at its limit"))
        self.assertAlmostEqual(tied.devices["A1"].current_a or 0, 80, places=6)
        self.assertLess(tied.residual_a, 1e-6)

    def test_a_post_above_its_setpoint_is_not_said_to_fall(self) -> None:
        vehicle = twins(0.01, tied=False)
        network = Network(vehicle)
        found = behaviour(network, network.solve("road"), HouseRules())
        [said] = [each.reason for each in found if "is at its limit" in each.title]
        self.assertIn("Its regulator sees 0.0 V and calls for more, though there are 25.5 V at its post", said)
        self.assertNotIn("falls", said)


class SenseLeads(TestCase):
    def test_a_sense_lead_that_is_switched_off_under_way_is_open_though_nothing_flows_in_it(self) -> None:
        """Its alternator has no second sense: it gives its 80 A on the road to 12.7 V behind 10 mΩ and to 0.2 Ω."""
        vehicle = small_vehicle(
            {
                "S1": ("plus", "s", {"kind": "switch", "input": "lead", "closed_in": ["on"]}),
                "R1": ("plus", "minus", joint(0.2)),
            },
            {
                "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
                "A1": ({"B+": "plus", "B-": "minus", "S": "s"}, ALTERNATOR | {"senses_own_post": False}),
            },
            Input("lead", "Lead", ("on", "off"), {}),
        )
        way = steps(("off", "on", "cranking", "road"), {"lead": "on"})
        joined, parted = Network(vehicle).sequence([*way, Step("road", {"lead": "off"})])[-2:]
        self.assertEqual((joined.regulation["A1"], parted.regulation["A1"]), ("regulating", "at its limit"))
        self.assertAlmostEqual(parted.points["plus"].v or 0, solved(vehicle, "road", lead="off").points["plus"].v or 0)


class ExciterLeads(TestCase):
    def lead(self, closed: str) -> Vehicle:
        """Ignition over a lamp and a diode to D+."""
        return small_vehicle(
            {"S": ("plus", "lamp", key(closed)), "V": ("out", "d", {"kind": "diode", "rated_a": 3})},
            {
                "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
                "P1": ({"+": "lamp", "-": "out"}, {"kind": "indicator lamp", "rated_v": 12, "rated_a": 0.1}),
                "A1": ({"B+": "plus", "B-": "minus", "D+": "d"}, ALTERNATOR),
            },
        )

    def test_d_plus_behind_a_diode_has_the_alternators_own_voltage(self) -> None:
        """A meter there reads what the alternator's own diodes give, about 14.2 V (fact of the trade)."""
        for closed in ("on", "start"):  # with the feed live, and with the feed open
            point = solved(self.lead(closed), "idle").points["d"]
            self.assertFalse(point.floating)
            self.assertAlmostEqual(point.v or 0, 14.2, delta=0.05)

    def test_what_only_a_blocked_diode_leads_to_still_floats(self) -> None:
        """The lamp's open end behind an open switch: the diode blocks towards it, so a meter pulls it to nothing."""
        point = solved(self.lead("start"), "idle").points["lamp"]
        self.assertTrue(point.floating)


class TwoBatteries(TestCase):
    def test_two_in_series_make_24_v_with_a_tap(self) -> None:
        """Rest 12.65 V each (BCI, from memory): 25.3 V over both; 12 Ω at the tap draw from the lower one alone."""
        vehicle = small_vehicle(
            {"W": ("tap", "load", joint(0.001))},
            {
                "G2": ({"+": "plus", "-": "tap"}, IDEAL_BATTERY | {"nominal_v": 12}),
                "G1": ({"+": "tap", "-": "minus"}, IDEAL_BATTERY | {"nominal_v": 12}),
                "E1": ({"+": "load", "-": "minus"}, {"kind": "resistive", "rated_v": 12, "rated_a": 1}),
            },
        )
        found = solved(Vehicle(**{**vars(vehicle), "nominal_v": 24.0}))
        self.assertAlmostEqual(found.points["minus"].v or 0, 0)
        self.assertAlmostEqual(found.points["plus"].v or 0, 25.3, delta=0.02)
        self.assertAlmostEqual(found.points["tap"].v or 0, 12.65 - 0.01 * 1.054, places=3)
        self.assertAlmostEqual(found.devices["G2"].current_a or 0, 0, places=6)
        self.assertAlmostEqual(found.devices["G1"].current_a or 0, 1.053, places=2)

    def test_two_in_series_over_a_link_count_from_the_lower_one(self) -> None:
        """The upper one is listed first, a cable joins it to the lower one's plus: 25.3 V over both all the same."""
        vehicle = small_vehicle(
            {"W": ("low", "high", joint(0.001))},
            {
                "G1": ({"+": "plus", "-": "high"}, IDEAL_BATTERY | {"nominal_v": 12}),
                "G2": ({"+": "low", "-": "minus"}, IDEAL_BATTERY | {"nominal_v": 12}),
            },
        )
        found = solved(Vehicle(**{**vars(vehicle), "nominal_v": 24.0}))
        self.assertAlmostEqual(found.points["minus"].v or 0, 0)
        self.assertAlmostEqual(found.points["plus"].v or 0, 25.3, delta=0.02)
        listed = {each: vehicle.devices[each] for each in ("G2", "G1")}
        for each in (vehicle, replace(vehicle, devices=listed)):
            self.assertEqual(battery_posts(each), ("plus", "minus"))

    def test_a_leisure_pair_shares_by_resistance(self) -> None:
        """10 and 20 mΩ side by side give two thirds and one third (Ohm's law)."""
        vehicle = small_vehicle(
            {"W": ("plus", "load", joint(0.0001))},
            {
                "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
                "G2": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY | {"resistance_ohm": 0.02}),
                "E1": ({"+": "load", "-": "minus"}, {"kind": "resistive", "rated_v": 12, "rated_a": 60}),
            },
        )
        found = solved(vehicle)
        first, second = (found.devices[each].current_a or 0 for each in ("G1", "G2"))
        self.assertAlmostEqual(first / second, 2, places=3)

    def test_lithium_resistance_does_not_follow_a_cold_cranking_figure(self) -> None:
        """100 Ah of 12 V with its protection have about 5 mΩ (from memory); lead of 600 A CCA 4.5 mΩ (SAE J537)."""
        values = {"kind": "battery", "chemistry": "LiFePO4", "capacity_ah": 100}
        plain, labelled = (DEVICE_SPEC.validate_python(values | more) for more in ({}, {"cold_cranking_a": 300}))
        assert isinstance(plain, Battery)
        assert isinstance(labelled, Battery)
        self.assertAlmostEqual(usual_resistance_ohm(plain, 12), 0.005)
        self.assertEqual(usual_resistance_ohm(labelled, 12), usual_resistance_ohm(plain, 12))
        self.assertAlmostEqual(usual_resistance_ohm(plain, 24), 0.010)
