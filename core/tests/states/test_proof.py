"""The proof against plain enumeration with the general solver, against its own ways, and against cases by hand."""

from collections import deque
from collections.abc import Iterator
from dataclasses import replace
from typing import Any
from unittest import TestCase

from core.tests.support.demo import demo
from core.tests.support.generated import sneaky_vehicle
from core.tests.support.small import IDEAL_BATTERY, Piece, joint, key, small_vehicle
from percorso.components.fuses import opens_between_s
from percorso.findings.operating_state import TRIGGER_SHARE
from percorso.network.device_results import draws
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.states.proof import Proof, prove, replayed
from percorso.states.words import forbidden_text, scope_text, way_text
from percorso.targets import Family, Target
from percorso.vehicle.devices import RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Circuit, Vehicle
from percorso.vehicle.segments import Fuse
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import NEXT, Input, Step

Wrong = set[tuple[str, str]]
PAST_ITS_OWN = "through a contact that is not its own"
ENUMERATED = ("runs and must not", "gets too little", "trigger alive", "engine outlasts its key", "coil half pulled")
ENUMERATED += ("over its rating", "never comes to rest", "ignition fed with the key off", "fed from its wrong end")


def wrong_in(solution: Solution) -> Wrong:
    """What is wrong in a situation whatever led to it, read off the reported devices and segments one by one."""
    vehicle = solution.vehicle
    if solution.unsettled:
        return {("never comes to rest", each) for one in solution.unsettled for each in one.device_ids or ("",)}
    found = set(_of_starters(solution))
    needed = [each for each, device in vehicle.devices.items() if _keeps_running(device.spec)]
    if solution.running_on:
        return found | {("engine outlasts its key", needed[0])}
    for each, device in vehicle.devices.items():
        result, spec, state = solution.devices[each], device.spec, solution.state
        volts, amps = result.voltage_v or 0.0, result.current_a or 0.0
        if isinstance(spec, Load):
            drawing = draws(spec, result)
            found |= {("runs and must not", each)} if state in spec.rests_in and (result.on or drawing) else set()
            found |= {("gets too little", each)} if state in spec.runs_in and not result.on and drawing else set()
            found |= {("fed from its wrong end", each)} if volts < -1.2 and abs(amps) > 1e-6 else set()
            if _keeps_running(spec) and result.on and state in ("off", "accessory"):
                found.add(("ignition fed with the key off", each))
        if isinstance(spec, RelayCoil) and not result.pulled_in and abs(amps) > 1e-6 and 2.4 < abs(volts) < 7.2:
            found.add(("coil half pulled", each))
    for each, segment in vehicle.segments.items():
        if isinstance(segment.spec, Fuse):
            rating, amps = segment.spec.rating_a, abs(solution.flow_a[each])
            within = opens_between_s(rating, amps).latest_s or 1000.0
            if amps > rating and (solution.state != "cranking" or within <= 10):
                found.add(("over its rating", each))
    return found


def _keeps_running(spec: object) -> bool:
    return isinstance(spec, Load) and spec.keeps_engine_running


def _of_starters(solution: Solution) -> Iterator[tuple[str, str]]:
    for each, device in solution.vehicle.devices.items():
        if isinstance(device.spec, Starter) and "50" in device.terminals and solution.state != "cranking":
            volts = solution.voltage_v(device.terminals["50"], device.terminals["31"]) or 0.0
            if volts > TRIGGER_SHARE * device.spec.pull_in_v:
                yield "trigger alive", each


def enumerated(vehicle: Vehicle) -> tuple[Wrong, int]:
    """Every step from every situation, each solved as the end of its whole way, and how many situations there are."""
    network, found, seen = Network(vehicle), Wrong(), set()
    todo = deque([(Step("off"),)])
    while todo:
        way = todo.popleft()
        solution = network.end_of(way)
        positions = tuple(solution.modes.positions[each] for each in vehicle.inputs)
        came = way[-1].state, positions, solution.modes.latched, solution.running_on
        if came in seen:
            continue
        seen.add(came)
        found |= wrong_in(solution)
        state, inputs = way[-1].state, vehicle.inputs
        stands = dict(zip(inputs, positions, strict=True))
        moved = {each: at for each, at in stands.items() if at != inputs[each].position(state)}
        for to in NEXT[state]:
            todo.append((*way, Step(to, {each: at for each, at in moved.items() if at != inputs[each].position(to)})))
        for each, at in stands.items():
            other = {**stands, each: "off" if at == "on" else "on"}
            chosen = {name: at for name, at in other.items() if at != inputs[name].position(state)}
            todo.append((*way, Step(state, chosen)))
    return found, len({each[:2] for each in seen})


class AgainstEnumeration(TestCase):
    """A hundred small vehicles, in two lots that can be tried beside one another."""

    SEEDS = range(50)

    def test_small_vehicles_by_chance(self) -> None:
        kinds: set[str] = set()
        for seed in self.SEEDS:
            vehicle = sneaky_vehicle(seed)
            with self.subTest(seed=seed):
                proof = prove(Network(vehicle))
                found = {(each.what, each.part) for each in proof.forbidden if each.what in ENUMERATED}
                expected, situations = enumerated(vehicle)
                self.assertEqual(found, expected)
                self.assertEqual((proof.situations, situations), (24, 24))
                self._replay(proof)
                kinds |= {each.what for each in proof.forbidden}
        self.assertLessEqual({*ENUMERATED, "latched after its key", "rests and must run", "feeds joined"}, kinds)

    def _replay(self, proof: Proof) -> None:
        """Every way, gone step by step on a network that knows nothing yet, ends in what it was found for."""
        fresh = replace(proof, network=Network(proof.network.vehicle))
        for each in proof.forbidden:
            end = replayed(fresh, each)
            device = end.devices.get(each.part)
            if each.what in ENUMERATED:
                self.assertIn((each.what, each.part), wrong_in(end))
            elif each.what == "latched after its key":
                self.assertTrue(device and device.pulled_in)
            elif each.what == "feeds joined":
                self.assertIn(each.part, end.conducting)
            else:
                self.assertEqual((each.what, device and device.on), ("rests and must run", False))


class SecondLot(AgainstEnumeration):
    SEEDS = range(50, 100)


def circuit(circuit_id: str, family: Family, device: str, *supply: str) -> Circuit:
    """A circuit of a device along some segments, back to the battery's minus."""
    target = Target("max_drop_v", 0.4)
    return Circuit(
        circuit_id, circuit_id, family, device, 20, 14, target, "plus", supply, "minus", (), device_id=device
    )


def lit(*between: str) -> dict[str, Piece]:
    """A battery's plus and a key contact."""
    return {"S1": ("plus", "kl15", key("on")), "J": (*(between or ("body", "minus")), joint(0.001))}


BATTERY = {"G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY)}
COIL = {"K1": ({"86": "coil", "85": "minus"}, {"kind": "relay coil"})}


def found_in(vehicle: Vehicle) -> dict[tuple[str, str], str]:
    """What the proof finds, and the way to it in words."""
    found = prove(Network(vehicle)).forbidden
    return {(each.what, each.part): ", ".join(way_text(vehicle, each.way)) for each in found}


class ByHand(TestCase):
    def test_a_relay_that_holds_itself_from_the_battery_outlasts_the_key_and_from_15_it_does_not(self) -> None:
        button = Input("button", "Button")
        for hold, found in (("plus", True), ("kl15", False)):
            vehicle = small_vehicle(
                lit()
                | {
                    "S2": ("kl15", "coil", {"kind": "switch", "input": "button", "closed_in": ["on"]}),
                    "C1": (hold, "coil", {"kind": "relay contact", "coil": "K1"}),
                },
                BATTERY | COIL,
                button,
            )
            way = found_in(vehicle).get(("latched after its key", "K1"))
            self.assertEqual(way, "key on, Button: on, key to accessory" if found else None)

    def test_a_diode_parts_two_lamps_of_which_one_must_rest(self) -> None:
        """Facts of the trade: a plain link feeds both ways, a diode one way only."""
        rear = {"kind": "filament lamp", "rated_v": 12, "rated_a": 2, "rests_in": ["off"]}
        front = {"kind": "filament lamp", "rated_v": 12, "rated_a": 2}
        for link, found in ((joint(0.01), True), ({"kind": "diode", "rated_a": 10}, False)):
            vehicle = small_vehicle(
                {
                    "S1": ("plus", "front", {"kind": "switch", "input": "lamp", "closed_in": ["on"]}),
                    "S2": ("plus", "rear", key("on")),
                    "V1": ("rear", "front", link),
                },
                BATTERY | {"E1": ({"+": "front", "-": "minus"}, front), "E2": ({"+": "rear", "-": "minus"}, rear)},
                Input("lamp", "Lamp switch"),
            )
            both = {("feeds joined", "S1"): "key on, Lamp switch: on", ("runs and must not", "E2"): "Lamp switch: on"}
            self.assertEqual(found_in(vehicle), both if found else {})

    def test_a_coil_behind_120_ohm_neither_pulls_in_nor_drops_out(self) -> None:
        """12.65 V × 90 ÷ 210 Ω = 5.4 V, between 2.4 and 7.2 V."""
        vehicle = small_vehicle(
            lit() | {"R1": ("kl15", "coil", {"kind": "resistor", "resistance_ohm": 120, "rated_w": 5})}, BATTERY | COIL
        )
        self.assertEqual(found_in(vehicle), {("coil half pulled", "K1"): "key on"})

    def test_a_fuse_stands_one_lamp_and_not_two(self) -> None:
        """8 A hold on 10 A, 16 A do not."""
        lamp = {"kind": "resistive", "rated_v": 12.65, "rated_a": 8}
        vehicle = small_vehicle(
            {
                "F1": ("plus", "bus", {"kind": "fuse", "rating_a": 10, "resistance_ohm": 0.001}),
                "S1": ("bus", "e1", {"kind": "switch", "input": "one", "closed_in": ["on"]}),
                "S2": ("bus", "e2", {"kind": "switch", "input": "two", "closed_in": ["on"]}),
            },
            BATTERY | {"E1": ({"+": "e1", "-": "minus"}, lamp), "E2": ({"+": "e2", "-": "minus"}, lamp)},
            Input("one", "One"),
            Input("two", "Two"),
        )
        self.assertEqual(found_in(vehicle), {("over its rating", "F1"): "One: on, Two: on"})

    def test_two_batteries_meet_through_a_contact_that_only_a_charging_circuit_may_close(self) -> None:
        vehicle = small_vehicle(
            {"S1": ("plus", "second", {"kind": "switch", "input": "link", "closed_in": ["on"]})},
            BATTERY | {"G2": ({"+": "second", "-": "minus"}, IDEAL_BATTERY)},
            Input("link", "Link"),
        )
        self.assertEqual(found_in(vehicle), {("sources joined", "S1"): "Link: on"})
        charging = circuit("c", "charging", "G2", "S1")
        self.assertEqual(found_in(replace(vehicle, circuits={"c": charging})), {})

    def test_two_relays_on_one_bus_are_found_and_a_diode_behind_each_parts_them(self) -> None:
        def vehicle(link: dict[str, Any]) -> Vehicle:
            coil, lamp = {"kind": "relay coil"}, {"kind": "filament lamp", "rated_v": 12, "rated_a": 2}
            contacts = {
                each: ("plus", f"out{each}", {"kind": "relay contact", "coil": f"coil{each}"}) for each in ("K1", "K2")
            }
            switches = {
                f"S{each}": ("plus", f"86{each}", {"kind": "switch", "input": each, "closed_in": ["on"]})
                for each in ("K1", "K2")
            }
            links = {f"V{each}": (f"out{each}", "bus", link) for each in ("K1", "K2")}
            coils = {f"coil{each}": ({"86": f"86{each}", "85": "minus"}, coil) for each in ("K1", "K2")}
            load = {"E1": ({"+": "bus", "-": "minus"}, lamp)}
            inputs = (Input("K1", "First"), Input("K2", "Second"))
            return small_vehicle(contacts | switches | links, BATTERY | coils | load, *inputs)

        self.assertEqual(found_in(vehicle(joint(0.01))), {("feeds joined", "K1"): "First: on, Second: on"})
        self.assertEqual(found_in(vehicle({"kind": "diode", "rated_a": 10})), {})
        both = {each: circuit(each, "feed", "E1", each, f"V{each}") for each in ("K1", "K2")}
        self.assertEqual(found_in(replace(vehicle(joint(0.01)), circuits=both)), {})  # two feeds of one device

    def test_a_switch_that_cannot_move_in_a_state_is_not_moved_there(self) -> None:
        """Nobody drives with the parking brake on."""
        vehicle = small_vehicle(
            {"S1": ("plus", "e1", {"kind": "switch", "input": "brake", "closed_in": ["on"]})},
            BATTERY | {"E1": ({"+": "e1", "-": "minus"}, {"kind": "filament lamp", "rated_v": 12, "rated_a": 2})},
            Input("brake", "Parking brake", by_state={"off": "on"}, fixed_in=("road", "idle")),
        )
        self.assertEqual(prove(Network(vehicle)).situations, 4 * 2 + 2)

    def test_thirty_switches_are_too_many_to_try_all_and_that_is_said(self) -> None:
        """6 × (1 + 30 + 435) are 2 796; with three moved it would be 27 156."""
        inputs = [Input(f"i{each}", f"Switch {each}") for each in range(30)]
        lamp = {"kind": "resistive", "rated_v": 12.6, "rated_a": 0.6}
        switches = {
            f"S{each.id}": ("plus", f"p{each.id}", {"kind": "switch", "input": each.id, "closed_in": ["on"]})
            for each in inputs
        }
        lamps = {f"E{each.id}": ({"+": f"p{each.id}", "-": "minus"}, lamp) for each in inputs}
        fuse: dict[str, Piece] = {"F1": ("post", "plus", {"kind": "fuse", "rating_a": 1, "resistance_ohm": 0.01})}
        vehicle = small_vehicle(switches | fuse, {"G1": ({"+": "post", "-": "minus"}, IDEAL_BATTERY)} | lamps, *inputs)
        proof = prove(Network(vehicle))
        self.assertEqual(proof.situations, 2796)
        self.assertIn("at most 2 of 30 switches", scope_text(proof.scope))
        self.assertEqual([each.count for each in proof.forbidden], [5 * 435])  # cranking, 1.2 A do not open 1 A in time


class Demo(TestCase):
    def said(self, job: str, stage: str) -> str:
        vehicle = vehicle_at(demo(job), stage)
        return " ".join(forbidden_text(vehicle, each) for each in prove(Network(vehicle)).forbidden)

    def test_what_each_job_came_for_is_found_and_gone_as_planned(self) -> None:
        for job, wrong in (
            ("school-minibus", "Lift valve is on while driving; it must be off."),
            (
                "school-minibus",
                "Heater pump is backfed with the key on accessory, through a contact that is not its own.",
            ),
            ("market-van", "The engine keeps running with the key on accessory: Fuel pump stays fed."),
            ("vineyard-tractor", "Fuel solenoid is off while cranking; it must be on."),
        ):
            with self.subTest(wrong):
                self.assertIn(wrong, self.said(job, "found"))
                self.assertNotIn(wrong, self.said(job, "planned"))
        self.assertEqual(
            (self.said("school-minibus", "planned"), self.said("vineyard-tractor", "planned")),
            ("", ""),
        )
