"""The demo jobs are invented; that every case of the trade can be shown on them is not."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

from core.tests.support.demo import DEMO
from percorso.circuits.voltage_profile import Profile, solved_profile
from percorso.files.job_file import vehicle_of
from percorso.files.reading import read_job_file
from percorso.findings.finding import Finding
from percorso.findings.operating_state import behaviour
from percorso.house_rules import HouseRules
from percorso.network.device_results import doing
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.vehicle.model import Segment, Stage, Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import STATES, State
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.measured.preparations import preparation

RULES = HouseRules()
SEEN: dict[str, Vehicle] = {path.stem: vehicle_of(read_job_file(path.read_bytes())) for path in DEMO.glob("*.json")}


class Shown:
    """One demo job at a stage in a state."""

    def __init__(self, job: str, stage: Stage, state: State, *done: str, **inputs: str) -> None:
        self.network = Network(prepared(vehicle_at(SEEN[job], stage), map(preparation, done)))
        self.solution: Solution = self.network.solve(state, inputs)
        self.findings: tuple[Finding, ...] = behaviour(self.network, self.solution, HouseRules())

    @property
    def said(self) -> str:
        return " ".join(f"{each.title} {each.reason}" for each in self.findings)

    def profile(self, circuit: str) -> Profile:
        vehicle = self.network.vehicle
        solved = solved_profile(vehicle, vehicle.circuits[circuit], self.solution, RULES)
        assert isinstance(solved, Profile), solved
        return solved

    def on(self, device: str) -> bool | None:
        return self.solution.devices[device].on

    def v(self, point: str) -> float:
        found = self.solution.points[point].v
        assert found is not None
        return found


class EveryCase(TestCase):
    def test_1_the_bypass_takes_most_and_the_ammeter_reads_the_rest(self) -> None:
        """Shares go by conductance, so the currents are inverse to the resistances of the two ways."""
        shown = Shown("vineyard-tractor", "planned", "road")
        path = shown.profile("charge-path")
        [beside] = [each for each in path.forks if "w20" in each.segment_ids]
        ohm = sum(leg.resistance_ohm for leg in path.legs if leg.segment_id in ("w4", "x1", "p1", "x2", "w5"))
        through = next(leg.current_a for leg in path.legs if leg.segment_id == "p1")
        across = sum(piece.drop_v for piece in beside.pieces)
        self.assertAlmostEqual(through * ohm, across, places=6)
        self.assertGreater(beside.share, 0.85)
        found = Shown("vineyard-tractor", "found", "road").profile("charge-path")
        self.assertGreater(next(leg.current_a for leg in found.legs if leg.segment_id == "p1"), 5 * through)

    def test_2_a_bad_strap_sends_starter_current_through_the_throttle_cable(self) -> None:
        found, planned = (Shown("vineyard-tractor", stage, "cranking") for stage in ("found", "planned"))
        self.assertIn("B2, a control cable, carries", found.said)
        self.assertNotIn("control cable", planned.said)
        turns = [each.solution.devices["m1"].speed or 0 for each in (found, planned)]
        self.assertGreater(turns[1], 1.1 * turns[0])

    def test_3_sensed_at_its_post_or_at_the_main_stud_and_at_its_limit(self) -> None:
        found, planned = (Shown("market-van", stage, "road", oil_pressure="off") for stage in ("found", "planned"))
        self.assertAlmostEqual(found.v("alt-b") - found.v("alt-case"), 14.2, places=6)
        self.assertAlmostEqual(planned.v("main") - planned.v("alt-case"), 14.2, places=3)
        self.assertGreater(planned.v("alt-b"), planned.v("main") + 0.03)
        idle = Shown("market-van", "planned", "idle")
        self.assertIn("Alternator is at its limit of 47 A", idle.said)
        self.assertLess(idle.v("alt-b"), 13)

    def test_4_the_fuel_solenoid_dies_while_cranking_until_it_is_moved(self) -> None:
        found, planned = (Shown("vineyard-tractor", stage, "cranking") for stage in ("found", "planned"))
        self.assertEqual((found.on("y1"), planned.on("y1")), (False, True))
        self.assertIn("Fuel solenoid is off.", found.said)

    def test_5_the_old_battery_lets_the_starter_relay_chatter(self) -> None:
        found, planned = (Shown("school-minibus", stage, "cranking") for stage in ("found", "planned"))
        self.assertIn("K1 chatters.", found.said)
        self.assertIsNone(found.solution.points["b-plus"].v)
        self.assertEqual((planned.solution.unsettled, planned.on("m1")), ((), True))

    def test_6_led_bulb_resistor_and_bridge_in_the_exciter_lead(self) -> None:
        led, bulb = (Shown("school-minibus", stage, "idle") for stage in ("found", "planned"))
        self.assertEqual((led.on("g2"), bulb.on("g2")), (False, True))
        self.assertIn("Alternator does not excite.", led.said)
        self.assertTrue(Shown("school-minibus", "planned", "on").on("p1-bulb"))
        self.assertFalse(bulb.on("p1-bulb"))
        bridged = Shown("school-minibus", "found", "idle", "bridge k15 lamp")
        self.assertIn("Turning the key off does not stop the engine.", bridged.said)
        weak, strong = (Shown("vineyard-tractor", stage, "on") for stage in ("found", "planned"))
        self.assertIn("R1 burns", weak.said)
        self.assertNotIn("burns", strong.said)

    def test_7_the_pump_runs_cranking_and_with_pressure_and_the_diode_keeps_the_starter_out(self) -> None:
        runs = {state: Shown("market-van", "planned", state).on("m4") for state in STATES}
        self.assertEqual([state for state in STATES if runs[state]], ["cranking", "idle", "road"])
        self.assertFalse(Shown("market-van", "planned", "idle", oil_pressure="off").on("m4"))
        self.assertIn("Starter pulls in while nobody cranks", Shown("market-van", "found", "idle").said)
        self.assertNotIn("nobody cranks", Shown("market-van", "planned", "idle").said)

    def test_8_a_relay_pulled_from_the_joined_bus_isolates_nothing(self) -> None:
        shown = Shown("school-minibus", "found", "idle")
        self.assertIn("K6 and K7 have their outputs joined.", shown.said)
        opened = Shown("school-minibus", "found", "idle", "pull K6", lift_door="open", parking_brake="on")
        self.assertTrue(opened.on("k7-coil"))
        self.assertGreater(opened.solution.devices["m3"].voltage_v or 0, 7)
        self.assertNotIn("one bus", Shown("school-minibus", "planned", "idle").said)

    def test_9_a_chafed_lamp_wire_and_the_test_lamp_across_its_fuse(self) -> None:
        """600 % of a 20 A blade fuse is 120 A, gone within 0.1 s (ISO 8820-3, from memory); 21 W of 12 V are 1.75 A."""
        shorted = Shown("market-van", "found", "idle", "bridge k4 body-rear")
        self.assertIn("F8 20 A opens within 0.1 s", shorted.said)
        self.assertIn("What limits it: jumper", shorted.said)
        lit = Shown("market-van", "found", "idle", "bridge k4 body-rear", "lamp F8")
        self.assertTrue(lit.on("lamp-1"))
        self.assertAlmostEqual(lit.solution.devices["lamp-1"].current_a or 0, 1.75, delta=0.1)

    def test_10_a_broken_ground_lights_the_lamp_on_its_ground_side(self) -> None:
        whole, broken = (Shown("school-minibus", "found", "idle", *done) for done in ((), ("lift W24",)))
        self.assertEqual((whole.on("e1"), whole.on("p3")), (True, False))
        self.assertEqual((broken.on("e1"), broken.on("p3")), (False, True))
        self.assertGreater(broken.v("tail-gnd"), 11)
        self.assertIn("Door lamp is on.", broken.said)


def replace_spec(part: Any, **change: Any) -> Any:
    """A segment or device with other values."""
    return replace(part, spec=part.spec.model_copy(update=change))


def replace_segment(vehicle: Vehicle, segment_id: str, segment: Segment) -> Vehicle:
    """The vehicle with one segment exchanged."""
    return replace(vehicle, segments={**vehicle.segments, segment_id: segment})


class Demo(TestCase):
    def test_what_each_device_does_is_said_in_a_word(self) -> None:
        shown = Shown("market-van", "planned", "idle")
        devices, results = shown.network.vehicle.devices, shown.solution.devices
        words = {each: doing(devices[each].spec, results[each]) for each in ("g1", "g2", "k3-coil", "m2", "e1", "m1")}
        said = ["discharging", "on", "pulled in", "low voltage", "on", "off"]
        self.assertEqual(list(words.values()), said)
        cranking = Shown("market-van", "planned", "cranking").solution.devices["m1"]
        self.assertRegex(doing(devices["m1"].spec, cranking), r"turns at 1\d\d%")
        chatter = Shown("school-minibus", "found", "cranking")
        self.assertEqual(doing(devices["m1"].spec, chatter.solution.devices["m1"]), "chatters")

    def test_as_planned_nothing_grave_is_left_but_what_the_wish_says(self) -> None:
        """The cold box gets too little at idle: that is the van's open question. The others are cured."""
        for job in SEEN:
            for state in STATES:
                shown = Shown(job, "planned", state)
                with self.subTest(job, state=state):
                    grave = [each.title for each in shown.findings if each.severity == "error"]
                    allowed = ["Cold box gets too little voltage."] if (job, state) == ("market-van", "idle") else []
                    self.assertEqual(grave, allowed)
                    self.assertEqual(shown.solution.unsettled, ())
