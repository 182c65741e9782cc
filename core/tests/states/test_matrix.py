"""Cells, their paths, what pulling does and a drive, against the demo's circuits and edited networks."""

from dataclasses import replace
from unittest import TestCase

from core.tests.support.charged import sensing
from core.tests.support.demo import demo
from core.tests.support.generated import generated_vehicle, sneaky_vehicle
from core.tests.support.small import IDEAL_BATTERY, joint, key, small_vehicle
from percorso.errors import PreparationError, StateError
from percorso.house_rules import HouseRules
from percorso.network.device_results import GIVES_A
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.states.cures import cures
from percorso.states.matrix import matrix
from percorso.states.paths import why
from percorso.states.pulling import part_named, pull_each, removable
from percorso.states.time_line import time_line
from percorso.states.words import pulled_text
from percorso.study import Study
from percorso.vehicle.devices import Alternator, Battery, RelayCoil
from percorso.vehicle.model import STAGES, Device, Segment, Vehicle
from percorso.vehicle.segments import Breaker, Fuse, Joint
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import A_DRIVE, STATES, read_way, steps, written_way

JOBS = ("market-van", "vineyard-tractor", "school-minibus")


def designations(vehicle: Vehicle, parts: tuple[str, ...]) -> str:
    return " ".join((vehicle.devices.get(each) or vehicle.segments[each]).designation for each in parts)


class Marks(TestCase):
    def test_a_mark_says_what_a_device_does_and_whether_it_may(self) -> None:
        """As found: the starter spins with the engine, the charge lamp is dark, the till starves while cranking; the
        minibus' coil chatters and its lift moves under way.
        """
        for job, marks in (
            ("market-van", {("m1", "idle"): "must not", ("p1", "on"): "must", ("a1", "cranking"): "too little"}),
            ("market-van", {("g1", "off"): "may", ("g2", "off"): "rests", ("e1", "idle"): "as it must"}),
            ("school-minibus", {("m1", "cranking"): "chatters", ("y1", "road"): "must not"}),
        ):
            cells = matrix(Network(vehicle_at(demo(job), "found")), {})
            found = {(each.device_id, each.state): each.mark for each in cells}
            self.assertEqual({each: found[each] for each in marks}, marks)


class Paths(TestCase):
    def _follow(self, solution: Solution, device: str) -> None:
        """With a finger along the route: every piece goes on where the last one ended, conducts, and falls."""
        path = why(solution, device)
        vehicle, points = solution.vehicle, solution.points
        self.assertTrue(path.flows)
        self.assertIsInstance(vehicle.devices[path.source or ""].spec, Battery | Alternator)
        self.assertEqual(path.hops[path.place].part, device)
        self.assertEqual([hop.end for hop in path.hops[:-1]], [hop.start for hop in path.hops[1:]])
        ends = [points[each].v or 0.0 for each in (path.hops[0].start, *(hop.end for hop in path.hops))]
        self.assertEqual(ends, sorted(ends, reverse=True))
        for hop in path.hops:
            self.assertGreater(hop.current_a, 0)
            if hop.part in vehicle.segments:
                self.assertIn(hop.part, solution.conducting)
        sources = [each for each in vehicle.devices.values() if isinstance(each.spec, Battery | Alternator)]
        self.assertIn(path.hops[0].start, {each.terminals[each.spec.TERMINALS[0]] for each in sources})
        self.assertIn(path.hops[-1].end, {each.terminals[each.spec.TERMINALS[1]] for each in sources})

    def test_every_device_that_draws_current_in_every_state_of_every_job(self) -> None:
        followed = 0
        vehicles = [vehicle_at(demo(job), stage) for job in JOBS for stage in STAGES]
        for vehicle in (*vehicles, *(generated_vehicle(seed, 60) for seed in range(8))):
            for solution in Network(vehicle).sequence(steps(STATES)):
                for device, result in solution.devices.items():
                    is_source = isinstance(vehicle.devices[device].spec, Battery | Alternator)
                    if not is_source and not solution.unsettled and (result.current_a or 0.0) > GIVES_A:
                        with self.subTest(state=solution.state, device=device):
                            self._follow(solution, device)
                            followed += 1
        self.assertGreater(followed, 250)

    def test_what_holds_the_lift_valve_on_the_road_is_the_heater_switch(self) -> None:
        network = Network(vehicle_at(demo("school-minibus"), "found"))
        path = why(network.solve("road"), "y1")
        self.assertEqual(designations(network.vehicle, path.parts), "G1 W1 F6 W16 K6 W30 W22 Y1 W23 B1 J1 W2")
        [k6] = path.held
        assert k6.why
        self.assertEqual([each.says for each in k6.why.held], ["key on", "Heater switch: on"])

    def test_what_rests_shows_where_its_own_route_is_open_and_why(self) -> None:
        network = Network(vehicle_at(demo("school-minibus"), "planned"))
        path = why(network.solve("road"), "m2")
        self.assertFalse(path.flows)
        self.assertEqual([network.vehicle.segments[hop.part].designation for hop in path.hops if hop.is_open], ["K5"])
        [k5] = path.held
        assert k5.why
        said = {each.says for each in k5.why.held if each.is_open}
        self.assertEqual(said, {"Lift door: closed", "Parking brake: off"})

    def test_a_relay_that_holds_itself_is_asked_once(self) -> None:
        vehicle = small_vehicle(
            {"C1": ("plus", "coil", {"kind": "relay contact", "coil": "K1"}), "S1": ("plus", "coil", key("on"))},
            {
                "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
                "K1": ({"86": "coil", "85": "minus"}, {"kind": "relay coil"}),
            },
        )
        [*_, off] = Network(vehicle).sequence(steps(("off", "on", "off")))
        [held] = why(off, "K1").held
        self.assertIsNone(held.why)
        self.assertTrue(held.says.startswith("pulled in"))


class WhatIsMeant(TestCase):
    def test_a_cell_is_wrong_where_the_device_does_not_do_what_it_says_it_must(self) -> None:
        network = Network(vehicle_at(demo("vineyard-tractor"), "found"))
        wrong = {(each.device_id, each.state, each.does) for each in matrix(network, {}) if each.is_wrong}
        self.assertEqual(wrong, {("y1", "cranking", "rests")})
        lit = matrix(network, {"work_lamp": "on"})
        self.assertEqual(len([each for each in lit if each.device_id == "e1" and each.does == "runs"]), 6)


class Pulling(TestCase):
    def test_what_is_pulled_is_the_edited_network(self) -> None:
        """A fuse out of its holder, a relay out of its socket, a joint or a breaker not there at all."""
        compared = 0
        for vehicle in (sensing(), *(vehicle_at(demo(job), "found") for job in JOBS), *map(sneaky_vehicle, range(25))):
            network = Network(vehicle)
            for part in removable(vehicle):
                [pulled] = pull_each(network, [part], steps(STATES))
                edited = Network(self._edited(vehicle, part))
                for change in pulled.changes:
                    result = edited.solve(change.after.state).devices[change.after.device_id]
                    self.assertAlmostEqual(change.after.voltage_v or 0.0, result.voltage_v or 0.0, places=6)
                    compared += 1
        self.assertGreater(compared, 5000)

    @staticmethod
    def _edited(vehicle: Vehicle, part: Segment | Device) -> Vehicle:
        if isinstance(part, Device):
            out = replace(part, spec=part.spec.model_copy(update={"fitted": False}))
            return replace(vehicle, devices={**vehicle.devices, part.id: out})
        if isinstance(part.spec, Fuse):
            out_of_holder = replace(part, spec=part.spec.model_copy(update={"fitted": False}))
            return replace(vehicle, segments={**vehicle.segments, part.id: out_of_holder})
        return replace(vehicle, segments={each: one for each, one in vehicle.segments.items() if each != part.id})

    def test_two_relays_on_one_bus_keep_what_hangs_on_it_alive(self) -> None:
        study = Study(demo("school-minibus"), HouseRules())
        said = {}
        for stage in STAGES:
            [pulled] = study.pulled(stage, {}, "K6")
            said[stage] = pulled_text(study.at(stage).vehicle, pulled)
        self.assertEqual(said["found"], "dead: Lift valve, Heater pump; Heater pump stays on through K7")
        self.assertEqual(said["planned"], "dead: Heater pump")

    def test_what_cannot_be_taken_out_is_named(self) -> None:
        vehicle = vehicle_at(demo("school-minibus"), "planned")
        for name in ("W3", "K99", ""):
            with self.assertRaisesRegex(PreparationError, "nothing that is taken out; there is F1, F3"):
                part_named(vehicle, name)
        kinds = {type(each.spec) for each in removable(vehicle)}
        self.assertLessEqual(kinds, {Fuse, Breaker, RelayCoil, Joint})

    def test_a_cure_that_is_offered_is_proved_to_help(self) -> None:
        """The wire between the two relays, put back into the plan, is offered to be taken off."""
        vehicle = demo("school-minibus")
        kept = replace(vehicle.segments["w30"], fate="kept")
        joined = replace(vehicle, segments={**vehicle.segments, "w30": kept})
        proof = Study(joined, HouseRules()).proof("planned")
        worst = proof.forbidden[0]
        self.assertEqual((worst.what, worst.part), ("runs and must not", "y1"))
        self.assertEqual(next(each.effect for each in cures(proof, worst, HouseRules())), "W30 taken off")
        self.assertEqual(Study(vehicle, HouseRules()).proof("planned").forbidden, ())


class Drive(TestCase):
    def test_the_van_starts_charges_and_does_not_stop(self) -> None:
        moments = time_line(Network(vehicle_at(demo("market-van"), "found")), steps(A_DRIVE))
        happened = [{f"{device} {event}" for device, event in each.events} for each in moments]
        self.assertLessEqual({"k6-coil pulls in", "m1 comes on", "m4 comes on"}, happened[2])
        self.assertIn("g2 starts charging", happened[3])
        self.assertEqual([each.running_on for each in moments], [False] * 5 + [True])

    def test_a_way_that_skips_cranking_is_refused_where_it_does(self) -> None:
        network = Network(
            small_vehicle({"J": ("plus", "a", joint(1))}, {"G": ({"+": "plus", "-": "m"}, IDEAL_BATTERY)})
        )
        for text, place in (("off, on, idle", 2), ("off, cranking", 1), ("on, cranking, road", 2)):
            with self.assertRaises(StateError) as refused:
                time_line(network, read_way(text))
            self.assertEqual(refused.exception.field, ("way", place))

    def test_a_way_is_read_as_it_is_written(self) -> None:
        way = read_way("off, on, cranking, idle heater=on lamp=off, off")
        self.assertEqual(dict(way[3].chosen), {"heater": "on", "lamp": "off"})
        self.assertEqual(read_way(written_way(way)), way)
        for wrong in ("", "off, fast", "off, on heater", "off, on heater="):
            with self.subTest(wrong), self.assertRaises(StateError):
                read_way(wrong)
