"""Open questions: how a vehicle may be wired, and tracing over all of it with looks as tests."""

from dataclasses import replace
from random import Random
from unittest import TestCase

from core.tests.usual_vehicles.test_usual_vehicles import answered
from percorso.errors import UnknownNameError
from percorso.faults.model import Fault
from percorso.survey.mixture import MixedTrace, MixedTracer
from percorso.survey.wirings import MOST_WIRINGS, otherwise, rewired, wirings
from percorso.usual_vehicles.laying import usual_vehicle
from percorso.usual_vehicles.questions import OF_WIRING
from percorso.vehicle.model import Vehicle
from percorso.verification.bench.virtual_bench import measure
from percorso.verification.measured.measurements import Measurement, Situation

ALL_BUT_STARTING = {each.key: each.usual for each in OF_WIRING if each.key != "starting"}
CRANKING = Situation(stage="found", state="cranking")


class Wirings(TestCase):
    def test_a_vehicle_with_other_answers_is_the_one_laid_from_them(self) -> None:
        """Whatever was answered, each answer of wiring exchanged for another: all parts and where they end."""
        for seed in range(12):
            said = answered(seed)
            question = OF_WIRING[seed % len(OF_WIRING)]
            other = said | {question.key: Random(seed).choice(question.choices)}
            there, laid = rewired(usual_vehicle(said), said, other), usual_vehicle(other)
            assert there
            self.assertEqual(by_names(there), by_names(laid), (said, other))
            self.assertEqual(
                {each.name for each in there.circuits.values()}, {each.name for each in laid.circuits.values()}
            )

    def test_as_usual_as_the_table_says_and_no_more_than_four(self) -> None:
        """Of starting: key 0.4, start relay 0.35, module 0.2, button 0.05 (of the table)."""
        found = wirings(usual_vehicle(ALL_BUT_STARTING), ALL_BUT_STARTING)
        self.assertEqual([round(each.weight, 2) for each in found], [0.4, 0.35, 0.2, 0.05])
        self.assertEqual(len(wirings(usual_vehicle({}), {})), MOST_WIRINGS)
        [looked] = wirings(usual_vehicle(ALL_BUT_STARTING), ALL_BUT_STARTING, {"starting": "module"})
        self.assertEqual(looked.told, {"starting": "module"})
        with self.assertRaises(UnknownNameError):
            wirings(usual_vehicle({}), {}, {"starting": "string"})
        self.assertEqual(len(wirings(usual_vehicle({}), None)), 1)
        self.assertEqual(otherwise(usual_vehicle({}), None, {"starting": "module"}), ())

    def test_what_somebody_saw_is_in_every_wiring(self) -> None:
        """A trigger that was seen to come straight from the key or a button leaves no relay; nothing added is lost."""
        laid = usual_vehicle(ALL_BUT_STARTING)
        trigger = next(each for each in laid.segments.values() if laid.points[each.to_point].name == "Starter 50")
        seen = replace(laid, segments={**laid.segments, trigger.id: replace(trigger, known="seen")})
        left = [each.answers["starting"] for each in wirings(seen, ALL_BUT_STARTING)]
        self.assertEqual(left, ["key", "button"])
        lamp = replace(laid.devices["m4"], id="own", designation="E9", name="Lamp of its owner", known="seen")
        added = replace(laid, devices={**laid.devices, "own": lamp})
        for each in wirings(added, ALL_BUT_STARTING):
            self.assertEqual(each.vehicle.devices["own"], lamp)


def by_names(vehicle: Vehicle) -> dict[str, tuple[object, ...]]:
    """Segments and devices by designation, with the names of the points they end on."""
    names = {each.id: each.name for each in vehicle.points.values()}
    segments = {
        f"segment {each.designation}": (names[each.from_point], names[each.to_point], each.spec)
        for each in vehicle.segments.values()
    }
    return segments | {
        f"device {each.designation}": (*sorted((mark, names[at]) for mark, at in each.terminals.items()), each.spec)
        for each in vehicle.devices.values()
    }


class Mixture(TestCase):
    """A starter that does nothing, in a vehicle of which nobody said how it is pulled in."""

    def _followed(self, starting: str, fault: Fault) -> tuple[MixedTrace, int, list[str]]:
        """Traced to the end, or fifteen steps: the last answer, how many readings, and what was looked at."""
        laid, looked = usual_vehicle(ALL_BUT_STARTING), dict[str, str]()
        metal = usual_vehicle(ALL_BUT_STARTING | {"starting": starting})
        known = measure(metal, [Measurement(quantity="seen", device="m1", situation=CRANKING)], [fault])
        while True:
            found = MixedTracer(wirings(laid, ALL_BUT_STARTING, looked), "found").trace(known)
            if found.looks:
                looked[found.looks[0].question] = starting
            elif found.trace.stop or not found.trace.next or len(known) > 15:
                return found, len(known), [*looked]
            else:
                known += measure(metal, [found.trace.next[0].measurement], [fault], noise=len(known))

    def test_a_relay_that_nobody_knew_of_is_found(self) -> None:
        """Its contact never closes; it is not in what was laid."""
        found, readings, looked = self._followed("start relay", Fault(part="k1-contact", fault="does not close"))
        self.assertEqual(looked, ["starting"])
        self.assertIn(next(iter(found.trace.of_units())), {"k1", "k1-contact"})
        self.assertLessEqual(readings, 8)

    def test_a_ground_that_all_wirings_have_is_found(self) -> None:
        found, readings, _ = self._followed("key", Fault(part="W2", fault="open"))
        self.assertEqual(next(iter(found.trace.of_units())), "w2")
        self.assertLessEqual(readings, 8)

    def test_what_was_seen_of_something_that_was_said_not_to_be_there(self) -> None:
        """A charge lamp that stays dark with the key on, in a vehicle that was said to have none."""
        said = {each.key: each.usual for each in OF_WIRING} | {"charging": "nothing but its cable"}
        laid = usual_vehicle(said)
        key_on = Situation(stage="found", state="on")
        dark = Measurement(quantity="seen", device="p1", situation=key_on, outcome="dead")
        found = MixedTracer(wirings(laid, said), "found", otherwise(laid, said)).trace([dark])
        self.assertFalse(found.wirings[0].is_as_described)
        self.assertLessEqual({each.answers["charging"] for each in found.wirings}, {"lamp", "lamp and sense lead"})

    def test_shares_come_to_one_and_what_is_read_tells_wirings_apart(self) -> None:
        """A starter that is dead; then a reading at a point that only those with a relay have."""
        mixed = MixedTracer(wirings(usual_vehicle(ALL_BUT_STARTING), ALL_BUT_STARTING), "found")
        dead = Measurement(quantity="seen", device="m1", situation=CRANKING, outcome="dead")
        found = mixed.trace([dead])
        self.assertAlmostEqual(sum(each.probability for each in found.wirings), 1, places=6)
        suspected = sum(each.probability for each in found.trace.suspects)
        self.assertAlmostEqual(suspected + found.trace.not_described + found.trace.sound, 1, delta=0.1)
        coil = Measurement(
            quantity="voltage", red_point="k1-86", black_point="battery-minus", situation=CRANKING, value=0
        )
        those = {each.answers["starting"] for each in mixed.trace([dead, coil]).wirings}
        self.assertLessEqual(those, {"start relay", "module"})
