"""What a real vehicle does to a circuit: each case worked out with Ohm's and Kirchhoff's laws beside it."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

from core.tests.support.small import IDEAL_BATTERY, Piece, joint, key, small_vehicle, solved
from percorso.findings.operating_state import behaviour
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.vehicle.devices import changed_device
from percorso.vehicle.model import Vehicle
from percorso.vehicle.states import A_DRIVE, Input, State, steps

BATTERY = ({"+": "plus", "-": "minus"}, IDEAL_BATTERY)  # 12.65 V at rest when full (BCI, from memory)
ALTERNATOR = {
    "kind": "alternator",
    "setpoint_v": 14.2,
    "at_1800_a": 40,
    "at_6000_a": 90,
    "self_excites_rpm": 1000,
    "idle_rpm": 1800,
}
CONSTANT_40A = {"kind": "constant current", "rated_v": 13, "rated_a": 40}

RULES = HouseRules()


def titles(vehicle: Vehicle, state: State, **inputs: str) -> str:
    """Everything the rules notice in one state."""
    network = Network(vehicle)
    return " ".join(f"{each.title} {each.reason}" for each in behaviour(network, network.solve(state, inputs), RULES))


class ParallelPaths(TestCase):
    def test_a_bypass_takes_its_share_by_conductance_and_the_ammeter_reads_the_rest(self) -> None:
        """Old path 5 + 1.25 + 5 = 11.25 mΩ, bypass 1.25 mΩ: 90 % and 10 % of the current."""
        vehicle = small_vehicle(
            {
                "X1": ("post", "a", {"kind": "connector", "resistance_ohm": 0.005}),
                "P1": ("a", "b", {"kind": "shunt", "full_scale_a": 60, "full_scale_drop_v": 0.075}),
                "X2": ("b", "plus", {"kind": "connector", "resistance_ohm": 0.005}),
                "W9": ("post", "plus", joint(0.00125)),
            },
            {
                "G1": BATTERY,
                "G2": ({"B+": "post", "B-": "minus"}, ALTERNATOR),
                "A1": ({"+": "plus", "-": "minus"}, CONSTANT_40A),
            },
        )
        result = solved(vehicle, "road")
        total = result.devices["G2"].current_a or 0
        self.assertGreater(total, 40)
        self.assertAlmostEqual(result.segments["P1"].current_a, 0.1 * total, places=6)
        self.assertAlmostEqual(result.segments["W9"].current_a, 0.9 * total, places=6)


class MissingStrap(TestCase):
    def test_starter_current_returns_through_a_control_cable_and_heats_it(self) -> None:
        """With the strap its 0.5 mΩ take 50/50.5 of the current; without it the cable takes all: P = I²·R."""
        parts: dict[str, Piece] = {
            "W2": ("minus", "body", joint(0.0005)),
            "B1": ("engine", "body", {"kind": "body", "condition": "control cable", "resistance_ohm": 0.05}),
        }
        starter = {"kind": "starter", "running_v": 10, "running_a": 150, "locked_v": 4, "locked_a": 400}
        devices: dict[str, Any] = {"G1": BATTERY, "M1": ({"30": "plus", "31": "engine"}, starter)}
        sound = solved(small_vehicle(parts | {"W3": ("engine", "body", joint(0.0005))}, devices), "cranking")
        strayed = solved(small_vehicle(parts, devices), "cranking")
        asked = sound.devices["M1"].current_a or 0
        self.assertAlmostEqual(sound.segments["B1"].current_a, asked / 101, places=6)
        all_of_it = strayed.devices["M1"].current_a or 0
        self.assertAlmostEqual(strayed.segments["B1"].current_a, all_of_it, places=6)
        self.assertAlmostEqual(strayed.segments["B1"].power_w, all_of_it**2 * 0.05, places=6)
        said = titles(small_vehicle(parts, devices), "cranking")
        self.assertIn("B1, a control cable, carries", said)
        self.assertIn("its own return is missing", said)
        self.assertIn("M1 turns at", said)


class SensePoint(TestCase):
    def vehicle(self, demand_a: float = 40, **terminals: str) -> Vehicle:
        load = {"kind": "constant current", "rated_v": 13, "rated_a": demand_a}
        return small_vehicle(
            {"W1": ("post", "plus", joint(0.01))},
            {
                "G1": BATTERY,
                "G2": ({"B+": "post", "B-": "minus"} | terminals, ALTERNATOR),
                "A1": ({"+": "plus", "-": "minus"}, load),
            },
        )

    def test_the_battery_gets_less_by_the_drop_of_the_cable_unless_it_is_sensed_there(self) -> None:
        local, remote = solved(self.vehicle(), "road"), solved(self.vehicle(S="plus"), "road")
        carried = local.segments["W1"].current_a or 0
        self.assertAlmostEqual(local.points["plus"].v, 14.2 - 0.01 * carried, places=9)
        self.assertAlmostEqual(remote.points["plus"].v, 14.2, places=9)
        self.assertAlmostEqual(remote.points["post"].v, 14.2 + 0.01 * remote.segments["W1"].current_a, places=9)

    def test_at_the_current_limit_the_voltage_falls(self) -> None:
        """110 A asked, 90 A made: the battery gives 20 A from 12.65 V through 10 mΩ: 12.45 V (ISO 8854 marking)."""
        result = solved(self.vehicle(110), "road")
        self.assertAlmostEqual(result.devices["G2"].current_a, 90, places=9)
        self.assertAlmostEqual(result.points["plus"].v, 12.65 - 20 * 0.01, places=3)
        self.assertIn("is at its limit of 90 A", titles(self.vehicle(110), "road"))


class TwoAlternators(TestCase):
    def test_on_one_stud_the_higher_setpoint_carries_until_its_limit(self) -> None:
        """14.3 V and 14.2 V on one stud: 40 A come from the first; of 150 A it gives its 90 and the other the rest."""
        for demand, given in ((40, (0, 40)), (150, (60, 90))):
            load = {"kind": "constant current", "rated_v": 13, "rated_a": demand}
            posts = {"B+": "plus", "B-": "minus"}
            devices: dict[str, Any] = {
                "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY | {"charge_a": 0.1}),
                "G2": (posts, ALTERNATOR),
                "G3": (posts, ALTERNATOR | {"setpoint_v": 14.3}),
                "A1": ({"+": "plus", "-": "minus"}, load),
            }
            result = solved(small_vehicle({}, devices), "road")
            for device, amps in zip(("G2", "G3"), given, strict=True):
                self.assertAlmostEqual(result.devices[device].current_a, amps, delta=0.3)


class IgnitionOutputs(TestCase):
    def test_an_output_dead_while_cranking_and_one_that_is_hot(self) -> None:
        def vehicle(*positions: str) -> Vehicle:
            module = {"kind": "constant power", "rated_v": 12, "rated_a": 1, "min_v": 7, "runs_in": ["cranking"]}
            devices = {"G1": BATTERY, "A1": ({"+": "kl15", "-": "minus"}, module)}
            return small_vehicle({"S1": ("plus", "kl15", key(*positions))}, devices)

        dead, hot = solved(vehicle("on"), "cranking"), solved(vehicle("on", "start"), "cranking")
        self.assertEqual((dead.devices["A1"].on, hot.devices["A1"].on), (False, True))
        self.assertTrue(solved(vehicle("on"), "idle").devices["A1"].on)
        self.assertIn("A1 is off.", titles(vehicle("on"), "cranking"))
        self.assertEqual(titles(vehicle("on", "start"), "cranking"), "")


class WeakBattery(TestCase):
    def test_a_starter_relay_that_drops_out_and_pulls_in_again_is_chatter_and_no_number(self) -> None:
        """12.65 V behind 60 mΩ: at rest the coil pulls in; 4 V at 400 A locked leaves 12.65 × 10/70 = 1.8 V."""
        weak = IDEAL_BATTERY | {"resistance_ohm": 0.06}
        starter = {"kind": "starter", "running_v": 10, "running_a": 390, "locked_v": 4, "locked_a": 400}
        vehicle = small_vehicle(
            {
                "S1": ("plus", "kl50", key("start")),
                "K1": ("plus", "m30", {"kind": "relay contact", "coil": "K1c", "resistance_ohm": 0.0005}),
            },
            {
                "G1": ({"+": "plus", "-": "minus"}, weak),
                "K1c": ({"86": "kl50", "85": "minus"}, {"kind": "relay coil", "pull_in_v": 8, "drop_out_v": 5}),
                "M1": ({"30": "m30", "31": "minus"}, starter),
            },
        )
        result = solved(vehicle, "cranking")
        self.assertEqual([each.device_ids for each in result.unsettled], [("K1c",)])
        self.assertIsNone(result.points["plus"].v)
        self.assertIsNone(result.devices["M1"].current_a)
        self.assertEqual(result.points["minus"].v, 0)
        self.assertIn("K1c chatters", titles(vehicle, "cranking"))
        strong = Network(vehicle_with(vehicle, "G1", {"resistance_ohm": 0.005})).solve("cranking")
        self.assertEqual((strong.unsettled, strong.devices["K1c"].pulled_in), ((), True))


def vehicle_with(vehicle: Vehicle, device: str, change: dict[str, Any]) -> Vehicle:
    """The vehicle with another value in one device."""
    old = vehicle.devices[device]
    return replace(vehicle, devices={**vehicle.devices, device: replace(old, spec=changed_device(old.spec, change))})


class Exciter(TestCase):
    """Ignition 3 A at 12 V keeps the engine alive; the alternator wants 20 mA through D+."""

    def vehicle(self, *lead: Piece, **lamp: Any) -> Vehicle:
        regulated = {"kind": "alternator", "setpoint_v": 14.2, "at_1800_a": 40, "at_6000_a": 90, "excitation_a": 0.02}
        ignition = {"kind": "resistive", "rated_v": 12, "rated_a": 3, "min_v": 6, "keeps_engine_running": True}
        devices: dict[str, Any] = {
            "G1": BATTERY,
            "G2": ({"B+": "plus", "B-": "minus", "D+": "dplus"}, regulated),
            "E1": ({"+": "kl15", "-": "minus"}, ignition),
        }
        if lamp:
            devices["P1"] = ({"+": "kl15", "-": "far"}, {"kind": "indicator lamp", "rated_v": 12} | lamp)
        segments: dict[str, Piece] = {"S1": ("plus", "kl15", key("on", "start"))}
        return small_vehicle(segments | {f"L{number}": piece for number, piece in enumerate(lead)}, devices)

    def excitation_a(self, vehicle: Vehicle) -> float:
        result = solved(vehicle, "on")
        return (result.points["dplus"].v or 0) / 10  # 10 Ω from D+ to the case at rest

    def runs_on(self, vehicle: Vehicle) -> bool:
        return Network(vehicle).sequence(steps(A_DRIVE))[-1].running_on

    def test_a_lamp_excites_lights_with_the_key_on_goes_out_running_and_lets_the_engine_stop(self) -> None:
        """2.2 W of 12 V draw 0.18 A in series with 10 Ω; running both ends stand at 14.2 V."""
        vehicle = self.vehicle(("far", "dplus", joint(0.01)), rated_a=0.183)
        self.assertAlmostEqual(self.excitation_a(vehicle), 0.175, delta=0.01)
        states = ("off", "on", "cranking", "idle", "road", "off again")
        drive = dict(zip(states, Network(vehicle).sequence(steps(A_DRIVE)), strict=True))
        lit = {state: result.devices["P1"].on for state, result in drive.items()}
        self.assertEqual((lit["on"], lit["idle"], lit["road"], lit["off again"]), (True, False, False, False))
        self.assertAlmostEqual(drive["idle"].points["plus"].v, 14.2, places=6)
        self.assertFalse(self.runs_on(vehicle))

    def test_a_470_ohm_resistor_just_excites_and_its_power_decides_its_rating(self) -> None:
        """12.65 V ÷ (470 + 10) Ω = 26 mA (common practice: about 25), 26 mA² × 470 Ω = 0.33 W: ¼ W burns, ½ W not."""
        for rated_w, burns in ((0.25, True), (0.5, False)):
            lead = {"kind": "resistor", "resistance_ohm": 470, "rated_w": rated_w}
            vehicle = self.vehicle(("kl15", "dplus", lead))
            self.assertAlmostEqual(self.excitation_a(vehicle), 12.65 / 480, places=3)
            self.assertEqual("burns" in titles(vehicle, "on"), burns)
            self.assertTrue(solved(vehicle, "idle").devices["G2"].on)
            self.assertFalse(self.runs_on(vehicle))

    def test_an_led_does_not_pass_enough(self) -> None:
        """An LED of 12 mA at 12 V passes less than 12 mA in series with the field."""
        vehicle = self.vehicle(("far", "dplus", joint(0.01)), rated_a=0.012, technology="LED")
        self.assertLess(self.excitation_a(vehicle), 0.013)
        idling = solved(vehicle, "idle")
        self.assertEqual((idling.devices["G2"].on, idling.devices["P1"].on), (False, True))
        self.assertIn("G2 does not excite", titles(vehicle, "idle"))

    def test_fed_directly_the_alternator_keeps_the_ignition_alive_and_a_diode_stops_that(self) -> None:
        direct = self.vehicle(("kl15", "dplus", joint(0.01)))
        self.assertTrue(self.runs_on(direct))
        network = Network(direct)
        *_, off = network.sequence(steps(A_DRIVE))
        self.assertGreater(off.points["kl15"].v or 0, 13)
        self.assertIn("keeps running with the key off", " ".join(each.title for each in behaviour(network, off, RULES)))
        self.assertIn("Turning the key off does not stop the engine", titles(direct, "idle"))
        self.assertFalse(self.runs_on(self.vehicle(("kl15", "dplus", {"kind": "diode", "rated_a": 3}))))


class PressureSwitch(TestCase):
    """The pump relay is fed from the starter's trigger while cranking, and over a pressure contact from ignition."""

    def vehicle(self, start_lead: dict[str, Any]) -> Vehicle:
        starter = {"kind": "starter", "running_v": 10, "running_a": 150, "locked_v": 4, "locked_a": 400}
        pressure = {"kind": "sensor switch", "input": "oil_pressure", "closed_in": ["on"]}
        pump = {"kind": "motor", "rated_v": 12, "rated_a": 6}
        return small_vehicle(
            {
                "S1": ("plus", "kl15", key("on", "start")),
                "S2": ("plus", "kl50", key("start")),
                "S3": ("kl15", "coil", pressure),
                "V1": ("kl50", "coil", start_lead),
                "K1": ("plus", "pump", {"kind": "relay contact", "coil": "K1c"}),
            },
            {
                "G1": BATTERY,
                "K1c": ({"86": "coil", "85": "minus"}, {"kind": "relay coil"}),
                "M1": ({"30": "plus", "50": "kl50", "31": "minus"}, starter),
                "M2": ({"+": "pump", "-": "minus"}, pump),
            },
            Input("oil_pressure", "Oil pressure", by_state={"idle": "on", "road": "on"}),
        )

    def test_the_pump_runs_cranking_and_with_pressure_and_not_with_the_engine_stopped(self) -> None:
        vehicle = self.vehicle({"kind": "diode", "rated_a": 1})
        states: tuple[State, ...] = ("off", "on", "cranking", "idle", "road")
        runs = {state: solved(vehicle, state).devices["M2"].on for state in states}
        self.assertEqual(runs, {"off": False, "on": False, "cranking": True, "idle": True, "road": True})
        self.assertFalse(solved(vehicle, "idle", oil_pressure="off").devices["M2"].on)
        self.assertNotIn("trigger", titles(vehicle, "idle"))

    def test_without_the_diode_current_reaches_the_starter_trigger_and_is_reported(self) -> None:
        """The solenoid then even pulls in, and 150 A through the battery's 10 mΩ pull its voltage down."""
        bare = self.vehicle(joint(0.01))
        self.assertIn("M1 pulls in while nobody cranks: its trigger has 10.8 V", titles(bare, "on", oil_pressure="on"))


class JoinedOutputs(TestCase):
    def test_pulling_one_of_two_relays_on_one_bus_leaves_both_devices_on(self) -> None:
        fan = {"kind": "motor", "rated_v": 12, "rated_a": 8}
        coil = {"kind": "relay coil"}
        vehicle = small_vehicle(
            {
                "K1": ("plus", "bus", {"kind": "relay contact", "coil": "K1c"}),
                "K2": ("plus", "bus2", {"kind": "relay contact", "coil": "K2c"}),
                "W3": ("bus", "bus2", joint(0.001)),
            },
            {
                "G1": BATTERY,
                "K1c": ({"86": "plus", "85": "minus"}, coil),
                "K2c": ({"86": "plus", "85": "minus"}, coil),
                "M1": ({"+": "bus", "-": "minus"}, fan),
                "M2": ({"+": "bus2", "-": "minus"}, fan),
            },
        )
        self.assertIn(
            "K1 and K2 have their outputs joined. Pulling one of these relays leaves M1 and M2 on",
            titles(vehicle, "on"),
        )
        pulled = solved(vehicle_with(vehicle, "K1c", {"fitted": False}))
        self.assertEqual([pulled.devices[each].on for each in ("M1", "M2")], [True, True])


class ShortCircuit(TestCase):
    def vehicle(self, *, fuse: bool) -> Vehicle:
        lamp = {"kind": "filament lamp", "rated_v": 12, "rated_a": 1.75}  # a 21 W test lamp
        return small_vehicle(
            {
                "F1": ("plus", "f", {"kind": "fuse", "rating_a": 20, "resistance_ohm": 0.005, "fitted": fuse}),
                "W1": ("f", "chafed", joint(0.04)),
                "B1": ("chafed", "minus", joint(0.005)),
            },
            {"G1": BATTERY, "E1": ({"+": "plus", "-": "f"}, lamp)},
        )

    def test_the_current_into_a_short_and_what_limits_it(self) -> None:
        """12.65 V ÷ (10 + 5 + 40 + 5) mΩ = 211 A: the wire takes 67 %, and 600 % of a 20 A fuse opens in 0.1 s."""
        result = solved(self.vehicle(fuse=True))
        self.assertAlmostEqual(
            result.segments["F1"].current_a, 12.65 / 0.06, delta=0.5
        )  # the lamp beside it takes 0.4 A
        said = titles(self.vehicle(fuse=True), "on")
        self.assertIn("F1 20 A opens within 0.1 s: 210 A", said)
        self.assertIn("W1 67%", said)

    def test_a_test_lamp_in_place_of_the_fuse_lights_fully_and_limits_the_current(self) -> None:
        result = solved(self.vehicle(fuse=False))
        self.assertAlmostEqual(result.devices["E1"].current_a, 1.75 * (12.55 / 12) ** 0.55, places=2)
        self.assertTrue(result.devices["E1"].on)
        self.assertEqual(titles(self.vehicle(fuse=False), "on"), "")


class OpenGround(TestCase):
    def test_the_device_floats_to_supply_and_a_lamp_on_its_ground_side_lights(self) -> None:
        """10 A heater (1.2 Ω) in series with a 100 mA lamp: the lamp gets all but 0.12 V."""
        heater = {"kind": "resistive", "rated_v": 12, "rated_a": 10}
        lamp = {"kind": "indicator lamp", "rated_v": 12, "rated_a": 0.1}
        heater_only: dict[str, Any] = {"G1": BATTERY, "E1": ({"+": "plus", "-": "tail"}, heater)}
        ground: dict[str, Piece] = {
            "S9": ("tail", "minus", {"kind": "switch", "input": "wire", "closed_in": ["whole"]})
        }
        wire = Input("wire", "Ground wire", ("whole", "broken"))
        alone = solved(small_vehicle(ground, heater_only, wire), wire="broken")
        self.assertAlmostEqual(alone.points["tail"].v, 12.65, places=3)
        self.assertFalse(alone.devices["E1"].on)
        lit = solved(
            small_vehicle(ground, heater_only | {"P1": ({"+": "tail", "-": "minus"}, lamp)}, wire), wire="broken"
        )
        self.assertAlmostEqual(lit.points["tail"].v, 12.65 - 1.2 * 0.103, places=2)
        self.assertEqual((lit.devices["P1"].on, lit.devices["E1"].on), (True, False))


class NoAnswerIsAnAnswer(TestCase):
    """What cannot be solved is said, never hidden behind a zero."""

    def test_no_source(self) -> None:
        lamp = {"kind": "filament lamp", "rated_v": 12, "rated_a": 1}
        vehicle = small_vehicle({"W1": ("a", "b", joint(0.1))}, {"E1": ({"+": "b", "-": "c"}, lamp)})
        self.assertIn("Nothing feeds this vehicle", titles(vehicle, "on"))

    def test_nothing_at_all(self) -> None:
        self.assertIn("Nothing feeds this vehicle", titles(small_vehicle({}, {}), "cranking"))

    def test_a_shorted_battery(self) -> None:
        result = titles(small_vehicle({"W1": ("plus", "minus", joint(0.0005))}, {"G1": BATTERY}), "on")
        self.assertIn("G1 is as good as shorted: 1205 A flow", result)  # 12.65 V ÷ 10.5 mΩ
        self.assertIn("G1 itself 95%", result)

    def test_a_floating_island_has_no_voltage(self) -> None:
        lamp = {"kind": "filament lamp", "rated_v": 12, "rated_a": 1}
        vehicle = small_vehicle({}, {"G1": BATTERY, "E1": ({"+": "a", "-": "b"}, lamp)})
        result = solved(vehicle)
        self.assertEqual((result.points["a"].v, result.points["a"].floating), (None, True))
        self.assertIn("E1 floats", titles(vehicle, "on"))

    def test_a_loop_of_ideal_links(self) -> None:
        links = {f"W{number}": (start, end, joint(0)) for number, (start, end) in enumerate(["ab", "bc", "ca"])}
        vehicle = small_vehicle(links | {"W9": ("plus", "a", joint(0.01))}, {"G1": BATTERY})
        self.assertAlmostEqual(solved(vehicle).points["c"].v, 12.65)
        self.assertIn("close a loop without resistance", titles(vehicle, "on"))
