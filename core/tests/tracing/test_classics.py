"""The classic faults of the trade by name: each is found, from one thing that is seen, by the best test each time."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

from core.tests.support.demo import demo
from core.tests.support.small import joint, small_vehicle
from percorso.faults.model import FAULTS
from percorso.tracing.trace import Trace, Tracer
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.model import Device, Point, Stage, Vehicle
from percorso.vehicle.states import State
from percorso.verification.bench.virtual_bench import measure
from percorso.verification.measured.measurements import Measurement, Situation

MOST_TESTS = 12
METER = {"kind": "resistive", "rated_v": 12, "rated_a": 0.05}


def with_tachometer(whole: Vehicle) -> Vehicle:
    """The vehicle with a tachometer on its alternator's own tap."""
    alternator = whole.devices["g2"]
    tapped = replace(alternator, terminals={**alternator.terminals, "W": "tap"})
    meter = Device("n1", "N1", "Tachometer", {"+": "tap", "-": "b-minus"}, DEVICE_SPEC.validate_python(METER))
    devices = {**whole.devices, "g2": tapped, "n1": meter}
    return replace(whole, devices=devices, points={**whole.points, "tap": Point("tap", "Alternator W")})


def small_starter() -> Vehicle:
    """A starter that its battery turns only just."""
    cable: dict[str, Any] = {"kind": "wire", "size": "35 mm2", "length_m": 1.5, "zone": "engine bay"}
    battery = {"kind": "battery", "capacity_ah": 45, "cold_cranking_a": 300}
    starter = {"kind": "starter", "running_v": 9.5, "running_a": 300, "locked_v": 3.5, "locked_a": 780}
    return small_vehicle(
        {
            "W1": ("plus", "stud", cable),
            "S1": ("stud", "k50", {"kind": "switch", "closed_in": ["start"]}),
            "W2": ("k50", "sol", cable | {"size": "2.5 mm2"}),
            "J1": ("case", "block", joint(0.0003)),
            "W3": ("block", "minus", cable | {"length_m": 0.8}),
        },
        {
            "G1": ({"+": "plus", "-": "minus"}, battery),
            "M1": ({"30": "stud", "50": "sol", "31": "case"}, starter),
        },
    )


class Classics(TestCase):
    def _found(self, of: str | Vehicle, stage: Stage, fault: dict[str, object], looked_at: str, state: State) -> Trace:
        """Trace a hidden fault from what is seen of one device, by the best test each time, on noisy instruments."""
        whole, hidden = demo(of) if isinstance(of, str) else of, FAULTS.validate_python(fault)
        tracer = Tracer(whole, stage)
        seen = Measurement(quantity="seen", device=looked_at, situation=Situation(stage=stage, state=state))
        readings = measure(whole, [seen], hidden)
        self.assertNotEqual(readings[0].outcome, measure(whole, [seen])[0].outcome)
        for step in range(MOST_TESTS):
            found = tracer.trace(readings)
            if found.stop or not found.next:
                break
            readings += measure(whole, [found.next[0].measurement], hidden, noise=step)
        self.assertEqual(found.stop and found.stop.part, hidden[0].part)
        self.assertLess(len(readings), 9)
        return found

    def test_a_control_side_break_at_an_engine_plug(self) -> None:
        self._found("school-minibus", "planned", {"part": "x9-way1", "fault": "terminal pushed out"}, "a1", "on")

    def test_a_dead_trigger_at_a_full_battery(self) -> None:
        self._found("vineyard-tractor", "planned", {"part": "w8", "fault": "open"}, "m1", "cranking")

    def test_a_ground_that_is_broken_inside_whole_insulation(self) -> None:
        """Where a starter's current goes no fused jumper proves it: a booster cable does."""
        found = self._found("vineyard-tractor", "planned", {"part": "w3", "fault": "open"}, "m1", "cranking")
        assert found.stop and found.stop.prove
        first, renewed, bypass = found.stop.cures
        self.assertIn("find the break", first.does)
        self.assertAlmostEqual(renewed.copper_g, 8.96 * 50 * 0.4, delta=1)  # 50 mm², 0.4 m, 8.96 g/cm³: handbook
        self.assertIn("cut free at both ends", bypass.condition)
        self.assertEqual((found.stop.by, found.stop.prove.situation.preparations[-1].do), ("bridged", "bridge"))
        self.assertEqual(found.stop.prove.situation.preparations[-1].lead, "booster cable")
        self.assertEqual(found.again[0].expected.outcome, "works")

    def test_a_fuse_that_is_whole_and_has_no_contact(self) -> None:
        found = self._found("market-van", "planned", {"part": "f10", "fault": "no contact"}, "m3", "idle")
        self.assertIn("no contact", {each.fault for each in found.suspects[:2]})

    def test_the_exciter_on_the_tachometer_tap(self) -> None:
        swapped = {"part": "g2", "fault": "two leads swapped", "other": "D+ W"}
        self._found(with_tachometer(demo("market-van")), "planned", swapped, "p1", "on")

    def test_a_starter_current_through_what_is_too_thin_for_it(self) -> None:
        """The engine's lug gone, the control cable carries what it can."""
        self._found("vineyard-tractor", "found", {"part": "j1", "fault": "open"}, "m1", "cranking")

    def test_a_wire_chafed_on_its_shield_blows_its_fuse(self) -> None:
        chafed = {"part": "w21", "fault": "chafed to ground", "ohm": 0.05}
        found = self._found("market-van", "planned", chafed, "p1", "on")
        assert found.stop
        self.assertEqual(found.stop.by, "out of the way")

    def test_two_terminals_in_each_others_cavity(self) -> None:
        swapped = {"part": "x9-way2", "fault": "ways swapped", "other": "x9-way3"}
        found = self._found("school-minibus", "planned", swapped, "a1", "on")
        assert found.stop
        self.assertIn("own cavity", found.stop.cures[0].does)

    def test_an_instrument_ground_in_the_loom(self) -> None:
        self._found("vineyard-tractor", "found", {"part": "w16", "fault": "open"}, "p2", "on")

    def test_two_relays_on_one_bus(self) -> None:
        self._found("school-minibus", "found", {"part": "k6", "fault": "welded"}, "y1", "on")

    def test_a_weak_battery_that_clicks(self) -> None:
        self._found(small_starter(), "found", {"part": "G1", "fault": "weak"}, "M1", "cranking")

    def test_a_permanent_feed_lost_at_a_control_module(self) -> None:
        self._found("school-minibus", "found", {"part": "w10", "fault": "open"}, "a1", "on")

    def test_a_starter_that_drags(self) -> None:
        self._found("vineyard-tractor", "planned", {"part": "m1", "fault": "drags"}, "y1", "cranking")
