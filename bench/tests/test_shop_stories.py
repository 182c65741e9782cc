"""What comes in every week, traced from what the customer says to the part; its fault is put into the metal by hand."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

from bench.other_worlds import World, changed, in_series, shorted
from core.tests.support.charged import sensing
from core.tests.support.demo import demo
from core.tests.support.small import joint, small_vehicle
from percorso.tracing.answer import Trace
from percorso.tracing.mending import Evidence
from percorso.tracing.symptoms import Symptom, readings_of
from percorso.tracing.trace import Tracer
from percorso.vehicle.devices import Starter
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Wire
from percorso.verification.measured.measurements import Measurement, Situation

MOST_TESTS = 10


def two_batteries() -> Vehicle:
    """A starter on two batteries side by side."""
    cable: dict[str, Any] = {"kind": "wire", "size": "50 mm2", "length_m": 1.2, "zone": "engine bay"}
    battery = {"kind": "battery", "capacity_ah": 95, "cold_cranking_a": 800}
    starter = {"kind": "starter", "running_v": 9.5, "running_a": 350, "locked_v": 3.5, "locked_a": 900}
    segments = {
        "W1": ("plus", "stud", cable),
        "W2": ("second", "plus", cable | {"length_m": 0.4}),
        "W3": ("minus", "second-minus", cable | {"length_m": 0.4}),
        "S1": ("stud", "sol", {"kind": "switch", "closed_in": ["start"]}),
        "J1": ("case", "block", joint(0.0003)),
        "W4": ("block", "minus", cable),
    }
    devices = {
        "G1": ({"+": "plus", "-": "minus"}, battery),
        "G2": ({"+": "second", "-": "second-minus"}, battery),
        "M1": ({"30": "stud", "50": "sol", "31": "case"}, starter),
    }
    return small_vehicle(segments, devices)


def far_alternator() -> Vehicle:
    """An alternator that senses the battery at the end of a long charge cable."""
    whole = sensing()
    cable = whole.segments["W1"]
    assert isinstance(cable.spec, Wire)
    longer = replace(cable, spec=cable.spec.model_copy(update={"length_m": 9.0}))
    return replace(whole, segments={**whole.segments, "W1": longer})


class ShopStories(TestCase):
    def _told(self, whole: Vehicle, metal: Vehicle, symptom: Symptom, of: str | None, right: str) -> Trace:
        """Trace from what the customer says by the best test each time; the part it ends with is the right one."""
        tracer = Tracer(whole, "planned")
        return self._followed(tracer, metal, whole, [*readings_of(tracer.vehicle, symptom, "planned", of)], right)

    def _followed(self, tracer: Tracer, metal: Vehicle, whole: Vehicle, known: list[Evidence], right: str) -> Trace:
        world = World(metal, "a story", frozenset({right}), sound=whole)
        for noise in range(MOST_TESTS):
            found = tracer.trace(known)
            if found.stop or not found.next:
                break
            known.append(world.read(found.next[0].measurement, noise))
        first = next(iter(found.of_units()), "nothing")
        self.assertEqual(first, right, [(each.part, each.fault, each.probability) for each in found.suspects[:4]])
        return found

    def _ends(self, whole: Vehicle, metal: Vehicle, symptom: Symptom, of: str | None, right: str, advice: str) -> None:
        found = self._told(whole, metal, symptom, of, right)
        assert found.stop is not None, (found.of_units(), found.likely)
        self.assertIn(advice, found.stop.cures[0].does)

    def test_four_volts_at_the_trigger(self) -> None:
        tractor = demo("vineyard-tractor")
        metal = in_series(tractor, tractor.segments["s4"], 2.0)
        self._ends(tractor, metal, "does nothing when cranked", None, "s4", "replace the switch")

    def test_cranks_slowly_by_a_strap(self) -> None:
        tractor = demo("vineyard-tractor")
        metal = in_series(tractor, tractor.segments["w3"], 0.02)
        self._ends(tractor, metal, "cranks slowly", None, "w3", "replace the run")

    def test_a_module_that_does_not_answer(self) -> None:
        bus = demo("school-minibus")
        metal = replace(bus, opened=bus.opened | {"w10"})
        self._ends(bus, metal, "module does not answer", "A1", "w10", "find the break")

    def test_a_drain_over_night_through_a_stuck_relay(self) -> None:
        van = demo("market-van")
        self._ends(
            van, replace(van, welded=van.welded | {"k4"}), "battery flat in the morning", None, "k4-coil", "relay"
        )

    def test_a_fuse_that_blows_when_one_load_is_switched(self) -> None:
        van = demo("market-van")
        self._ends(van, shorted(van, van.devices["m3"], 0.05), "fuse keeps blowing", "F10", "m3", "replace the device")

    def test_twelve_volts_on_the_meter_and_dead_under_load(self) -> None:
        van = demo("market-van")
        self._ends(van, in_series(van, van.segments["x4"], 60.0), "device dead", "M2", "x4", "terminals")

    def test_sixteen_volts_by_a_sense_lead_that_is_off(self) -> None:
        van = demo("market-van")
        own = changed(van, van.devices["g2"], senses_own_post=False)
        metal = replace(own, opened=own.opened | {"w31"})
        self._ends(own, metal, "charges too high", None, "w31", "find the break")

    def test_thirteen_volts_by_a_sense_lead_on_the_wrong_side(self) -> None:
        """It holds 14.3 V at its own post, and 13.4 V arrive: the pin is read before the regulator is renewed."""
        whole = far_alternator()
        metal = replace(whole, segments={**whole.segments, "W2": replace(whole.segments["W2"], from_point="post")})
        idle = Situation(stage="planned", state="idle")
        at_battery = Measurement(quantity="voltage", red_point="plus", black_point="minus", situation=idle)
        read = World(metal, "a story", frozenset({"W2"}), sound=whole).read(at_battery, 0)
        self.assertAlmostEqual(read.value or 0.0, 13.3, delta=0.15)
        found = self._followed(Tracer(whole, "planned"), metal, whole, [read], "W2")
        assert found.stop is not None
        self.assertEqual(found.stop.part, "W2")

    def test_slow_when_it_is_warm_by_a_starter_that_drags(self) -> None:
        tractor = demo("vineyard-tractor")
        starter = tractor.devices["m1"]
        assert isinstance(starter.spec, Starter)
        metal = changed(tractor, starter, running_a=2.2 * starter.spec.running_a)
        self._ends(tractor, metal, "cranks slowly", None, "m1", "bushes")

    def test_one_click_by_burnt_contacts(self) -> None:
        """The solenoid pulls in once and the motor stands: neither chatters nor nothing at all."""
        tractor = demo("vineyard-tractor")
        starter = tractor.devices["m1"]
        assert isinstance(starter.spec, Starter)
        more = {"running_v": starter.spec.running_v + 90, "locked_v": starter.spec.locked_v + 270}
        self._ends(tractor, changed(tractor, starter, **more), "clicks once", None, "m1", "starter")

    def test_a_lamp_that_glows_dimly(self) -> None:
        van = demo("market-van")
        self._ends(van, in_series(van, van.segments["w14"], 0.6), "device weak", "E1", "w14", "broken strands")

    def test_a_blower_that_runs_on_after_the_key(self) -> None:
        van = demo("market-van")
        self._ends(van, replace(van, welded=van.welded | {"k5"}), "device runs on", "M3", "k5-coil", "relay")

    def test_an_ignition_that_is_starved(self) -> None:
        tractor = demo("vineyard-tractor")
        metal = in_series(tractor, tractor.segments["s2"], 6.0)
        self._ends(tractor, metal, "cranks and does not start", None, "s2", "replace the switch")

    def test_a_dead_cell_in_one_of_two_batteries(self) -> None:
        whole = two_batteries()
        metal = changed(whole, whole.devices["G2"], nominal_v=10.0)
        self._ends(whole, metal, "cranks slowly", None, "G2", "replace the battery")
