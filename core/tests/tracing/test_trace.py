"""Tracing finds what is hidden: against Bayes by hand, in any order, classic faults by name, and what is no fault."""

import math
import random
from dataclasses import replace
from unittest import TestCase, mock

import numpy as np

from core.tests.support.charged import sensing
from core.tests.support.demo import demo
from core.tests.support.small import IDEAL_BATTERY, joint, small_vehicle
from percorso.errors import MeasurementError, PercorsoError, TraceError
from percorso.faults.library import FaultMode, library
from percorso.faults.model import FAULTS
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.study import Study
from percorso.tracing.predictions import Predictions
from percorso.tracing.symptoms import OF_SYMPTOMS, SYMPTOMS, Symptom, readings_of
from percorso.tracing.trace import Trace, Tracer
from percorso.vehicle.model import STAGES, Vehicle
from percorso.vehicle.segments import Wire
from percorso.verification.bench.virtual_bench import measure
from percorso.verification.judging.expected import expect
from percorso.verification.measured.instruments import error
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import Swap

MOST_TESTS = 12
OF_ITSELF = (
    "does nothing when cranked",
    "clicks",
    "cranks slowly",
    "not charging",
    "lamp stays on",
    "lamp never lights",
    "cranks and does not start",
    "battery flat in the morning",
    "charges too high",
)
SEEN_OF_WEAK = (("a2", "dead"), ("a3", "clicks"))
READ_OF_WEAK = (
    ("x9-3m", "x9-2", 0.0),
    ("x9-3", "b-minus", 8.21),
    ("b-plus", "b-minus", 8.27),
    ("x9-2", "b-minus", 0.067),
)


def by_part(found: Trace) -> dict[str, float]:
    parts: dict[str, float] = {}
    for each in found.suspects:
        parts[each.part] = parts.get(each.part, 0.0) + each.probability
    return parts


def lamp(rng: random.Random) -> Vehicle:
    """A lamp on a battery: a wire and a joint out, a joint back, all of them by lot."""
    return small_vehicle(
        {
            "W1": ("plus", "a", {"kind": "wire", "size": "14 AWG", "length_m": rng.uniform(1, 6), "zone": "cabin"}),
            "X1": ("a", "lamp", {"kind": "connector", "resistance_ohm": rng.uniform(0.002, 0.02)}),
            "J1": ("ground", "minus", joint(rng.uniform(0.001, 0.02))),
        },
        {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "E1": ({"+": "lamp", "-": "ground"}, {"kind": "resistive", "rated_v": 12, "rated_a": rng.uniform(2, 12)}),
        },
    )


class ByHand(TestCase):
    def test_bayes_on_small_vehicles(self) -> None:
        """The voltage of a lamp behind a thin place; every fault solved by itself or by Ohm's law."""
        situation = Situation(stage="found", state="on")
        for seed in range(20):
            rng = random.Random(seed)
            vehicle = lamp(rng)
            way = rng.choice([each for each in library(vehicle) if each.measure == "ohm" and each.severities])
            asked = Measurement(quantity="voltage", red_point="lamp", black_point="ground", situation=situation)
            [read] = measure(vehicle, [asked], [way.at(10 ** rng.uniform(-1.5, 1))])
            shown = by_part(Tracer(vehicle, "found").trace([read], tests=False))
            wanted = self._by_brute_force(vehicle, read)
            for part, probability in wanted.items():
                if probability > 0.02:
                    with self.subTest(seed=seed, part=part):
                        self.assertAlmostEqual(shown.get(part, 0.0), probability, delta=0.02)

    @staticmethod
    def _by_brute_force(vehicle: Vehicle, read: Measurement) -> dict[str, float]:
        """P(part | value) from every fault solved alone; the same model of doubt, written down anew."""
        value = read.value or 0.0
        [sound] = expect(Network(vehicle), read.situation, [read])
        assert sound.value is not None and sound.low is not None and sound.high is not None
        wide = (sound.high - sound.low) / 3.92

        def likelihood(volts: float | None) -> float:
            if volts is None:
                return 0.01 / 30
            off = error("multimeter", "voltage", abs(volts)) / 1.96
            moved = min(abs(volts - sound.value), volts * (13.2 - volts) / 13.2)  # V (E - V) / E
            deviation = math.sqrt(off**2 + wide**2 + (0.2 * moved) ** 2)
            normal = math.exp(-0.5 * ((value - volts) / deviation) ** 2) / (deviation * math.sqrt(2 * math.pi))
            return 0.99 * normal + 0.01 / 30

        def shows(way: FaultMode, ohm: float | None) -> float | None:
            return measure(vehicle, [read], [way.at(ohm)])[0].value

        weights: dict[str, float] = {}
        ways = library(vehicle)
        whole = sum(each.weight for each in ways)
        for way in ways:
            volts = [shows(way, None)]
            if way.severities:  # every voltage of an ohmic circuit is (a + b R) / (c + R)
                at = np.array([0.03, 1.0, 30.0])
                came = np.array([shows(way, each) for each in at.tolist()], dtype=float)
                first, second, third = np.linalg.solve(np.stack([np.ones(3), at, -came], axis=1), came * at)
                volts = [(first + second * each) / (third + each) for each in decades(way, 40)]
            mean = sum(map(likelihood, volts)) / len(volts)
            weights[way.part] = weights.get(way.part, 0.0) + 0.985 * way.weight / whole * mean
        total = 0.01 / 30 + 0.005 * likelihood(sound.value) + sum(weights.values())
        return {part: each / total for part, each in weights.items()}


def decades(way: FaultMode, steps: int) -> list[float]:
    """Resistances between those a way has, so many steps from one to the next."""
    first, last, count = (
        math.log10(way.severities[0]),
        math.log10(way.severities[-1]),
        steps * (len(way.severities) - 1),
    )
    return [10 ** (first + (last - first) * step / count) for step in range(count + 1)]


class Together(TestCase):
    def test_the_order_of_readings_and_one_at_a_time_make_no_difference(self) -> None:
        tracer = Tracer(demo("vineyard-tractor"), "found")
        cranking = Situation(stage="found", state="cranking")
        readings = measure(
            demo("vineyard-tractor"),
            [
                Measurement(quantity="seen", device="m1", situation=cranking),
                Measurement(quantity="voltage", red_point="sol-stud", black_point="b-minus", situation=cranking),
                Measurement(quantity="voltage", red_point="block", black_point="b-minus", situation=cranking),
            ],
            FAULTS.validate_python({"part": "w3", "fault": "thin place", "ohm": 0.02}),
        )
        for count in range(1, 4):
            tracer.trace(readings[:count], tests=False)
        one_by_one = by_part(tracer.trace(readings, tests=False))
        turned = by_part(Tracer(demo("vineyard-tractor"), "found").trace(readings[::-1], tests=False))
        for part, probability in one_by_one.items():
            self.assertAlmostEqual(turned[part], probability, places=9)


class Kept(TestCase):
    def test_what_is_planned_leaves_what_was_computed_of_what_is_found(self) -> None:
        vehicle = demo("vineyard-tractor")
        before = Study(vehicle, HouseRules())
        tracers = {stage: before.tracer(stage) for stage in STAGES}
        beside = replace(vehicle.segments["w1"], id="w99", designation="W99", origin="new")
        after = Study(replace(vehicle, segments={**vehicle.segments, "w99": beside}), HouseRules(), before)
        self.assertIs(after.tracer("found"), tracers["found"])
        self.assertIsNot(after.tracer("planned"), tracers["planned"])

    def test_what_nobody_waits_for_any_more_is_left_before_its_next_piece(self) -> None:
        tracer = Tracer(demo("vineyard-tractor"), "found")
        pieces = tracer.ahead(tracer.trace([]))
        with mock.patch.object(Predictions, "show") as shows:
            next(pieces)
            shows.assert_not_called()
            next(pieces)
            shows.assert_called_once()


class Intermittent(TestCase):
    def test_what_moves_when_it_is_wiggled_weighs_more_and_what_does_not_is_not_acquitted(self) -> None:
        """Bayes by hand: a bad contact moves in half of all cases, anything else in three of a hundred."""
        tracer = Tracer(demo("vineyard-tractor"), "planned")
        said = readings_of(tracer.vehicle, "cranks slowly", "planned")
        volts = {"red_point": "block", "black_point": "b-minus", "situation": said[0].situation}
        moves, steady = (
            Measurement(quantity="wiggle", segment="j2", outcome=outcome, **volts) for outcome in ("moves", "steady")
        )
        before, after, still = (by_part(tracer.trace([*said, *more], tests=False)) for more in ([], [moves], [steady]))
        odds = {name: each["j2"] / (1 - each["j2"]) for name, each in (("b", before), ("a", after), ("s", still))}
        self.assertAlmostEqual(odds["a"] / odds["b"], 0.5 / 0.03, delta=1.5)
        self.assertAlmostEqual(odds["s"] / odds["b"], 0.5 / 0.97, delta=0.05)


class TwoAtOnce(TestCase):
    def test_two_dead_circuits_that_share_nothing_are_two_faults(self) -> None:
        """A break in the cold box's feed and a blown fuse of the blower, with a main stud that is live."""
        whole = demo("market-van")
        idle = Situation(stage="planned", state="idle")
        stud = whole.segments["w1"].to_point
        asked = [
            *(Measurement(quantity="seen", device=each, situation=idle) for each in ("m2", "m3")),
            *(
                Measurement(quantity="voltage", red_point=each, black_point="b-minus", situation=idle)
                for each in ("cold-plus", "k5in", stud)
            ),
        ]
        hidden = [{"part": "w9", "fault": "open"}, {"part": "f10", "fault": "blown"}]
        tracer, read = Tracer(whole, "planned"), measure(whole, asked, FAULTS.validate_python(hidden))
        doubted = Measurement(quantity="seen", device="m4", situation=idle, outcome="clicks")
        for known in (read[:3], [*read, doubted]):
            tracer.trace(known, tests=False)
        found, afresh = (each.trace(read, tests=False) for each in (tracer, Tracer(whole, "planned")))
        backwards = Tracer(whole, "planned").trace(read[::-1], tests=False)
        for other in (afresh, backwards):
            self.assertEqual([each.parts for each in other.pairs], [each.parts for each in found.pairs])
            for one, same in zip(found.pairs, other.pairs, strict=True):
                self.assertAlmostEqual(one.probability, same.probability, places=9)
        circuits = {each.name: {*each.whole_path, each.device_id} for each in tracer.vehicle.circuits.values()}
        self.assertGreater(sum(each.probability for each in found.pairs), 0.5)
        for pair in found.pairs[:3]:
            for name in ("Cold box feed", "Blower"):
                self.assertEqual(len(circuits[name].intersection(pair.parts)), 1, pair)
        self.assertIsNone(found.stop)


class Answers(TestCase):
    def test_what_cannot_be_traced_says_why(self) -> None:
        whole = demo("vineyard-tractor")
        fed = lamp(random.Random(1))
        unfed = replace(fed, devices={"E1": fed.devices["E1"]})
        with self.assertRaises(TraceError):
            Tracer(unfed, "found")
        tracer = Tracer(whole, "found")
        found = Situation(stage="found", state="cranking")
        for reading, field in (
            (Measurement(quantity="seen", device="nobody", situation=found, outcome="dead"), (0, "device")),
            (Measurement(quantity="seen", device="m1", situation=found), (0, "value")),
            (Measurement(quantity="seen", device="m1", outcome="dead"), (0, "situation", "stage")),
        ):
            with self.assertRaises(MeasurementError) as refused:
                tracer.trace([reading])
            self.assertEqual(refused.exception.field, field)

    def test_without_readings_the_first_test_is_there_and_with_a_symptom_a_better_one(self) -> None:
        tracer = Tracer(demo("vineyard-tractor"), "found")
        self.assertTrue(tracer.trace([]).next)
        said = readings_of(tracer.vehicle, "does nothing when cranked", "found")
        self.assertGreater(tracer.trace(said).next[0].bits, 0.3)

    def test_every_symptom_is_something_seen(self) -> None:
        vehicle = Tracer(demo("market-van"), "planned").vehicle
        self.assertEqual({*OF_SYMPTOMS}, {*SYMPTOMS})
        for symptom in SYMPTOMS:
            with self.subTest(symptom):
                of = "F10" if "fuse" in symptom else None if symptom in OF_ITSELF else "M3"
                self.assertTrue(readings_of(vehicle, symptom, "planned", of))
        device_less: Symptom = "device dead"
        with self.assertRaises(PercorsoError):
            readings_of(vehicle, device_less, "planned")

    def test_a_complaint_points_to_what_shows_its_signs(self) -> None:
        """A fuse does not blow again by itself; a dark sense lead or a bad regulator charges too high."""
        tracer = Tracer(demo("market-van"), "planned")
        before = tracer.trace([], tests=False).of_units()
        for symptom, of, parts, least in (
            ("fuse keeps blowing", "F10", {"w18", "w19", "m3"}, 0.6),
            ("charges too high", None, {"g2", "w31"}, 0.2),
        ):
            said: Symptom = symptom
            found = tracer.trace(readings_of(tracer.vehicle, said, "planned", of), tests=False)
            shares = found.of_units()
            self.assertGreater(sum(shares.get(each, 0.0) for each in parts), least, symptom)
            self.assertIn(next(iter(shares)), parts)
            self.assertLess(shares.get("f10", 0.0), 0.02)
        believed = (shares["g2"] / before["g2"]) / ((1 - shares["g2"]) / (1 - before["g2"]))
        self.assertLess(believed, 50)  # a customer is not believed before a meter

    def test_an_alternator_runs_away_by_a_chafed_sense_lead_not_by_a_broken_one(self) -> None:
        """Its regulator senses its own post then; and no outcome is called a little less than nothing."""
        vehicle = sensing()
        found = Tracer(vehicle, "planned").trace(readings_of(vehicle, "charges too high", "planned"))
        chances = found.of_units()
        self.assertGreater(chances["W2"] + chances["G2"], 0.6)
        self.assertLess(chances["F1"], 0.1)
        said = {then.outcome for test in found.next for then in test.meanings}
        self.assertIn("about 0 V", said)
        self.assertFalse([each for each in said if each.startswith("about -0")])

    def test_what_is_gone_when_one_measures_is_not_acquitted(self) -> None:
        """Said dead, and all is well while it is looked at: something comes and goes, and is moved by hand."""
        whole = demo("market-van")
        tracer = Tracer(whole, "planned")
        blower = tracer.vehicle.devices["m3"].terminals
        idle = Situation(stage="planned", state="idle")
        volts = Measurement(quantity="voltage", red_point=blower["+"], black_point=blower["-"], situation=idle)
        said = readings_of(tracer.vehicle, "device dead", "planned", "M3")
        found = tracer.trace([*said, *measure(whole, [volts])])
        gone = {each.part for each in found.suspects if each.comes_and_goes}
        self.assertGreater(sum(each.probability for each in found.suspects if each.comes_and_goes), 0.05)
        self.assertFalse(gone.intersection(each.part for each in found.acquitted))
        plug = next(each.id for each, _ in tracer.vehicle.segments_of(Wire) if each.id in gone)
        moved = Measurement(quantity="wiggle", segment=plug, situation=idle, outcome="moves")
        after = tracer.trace([*said, *measure(whole, [volts]), moved], tests=False)
        self.assertEqual((after.suspects[0].part, after.suspects[0].comes_and_goes), (plug, True))

    def test_readings_that_nothing_explains_say_so_and_leave_something_to_measure(self) -> None:
        tracer = Tracer(demo("vineyard-tractor"), "found")
        cranking = Situation(stage="found", state="cranking")
        impossible = [
            Measurement(quantity="voltage", red_point=each, black_point="b-minus", situation=cranking, value=value)
            for each, value in (("b-plus", 24.0), ("sol-stud", -6.0), ("block", 19.0), ("key15", 31.0))
        ]
        found = tracer.trace(impossible)
        self.assertGreater(found.not_described, 0.9)
        self.assertIsNone(found.stop)
        self.assertFalse(found.is_as_planned)
        self.assertTrue(found.next)

    def test_what_is_seen_where_it_makes_no_sense_still_gets_an_answer(self) -> None:
        tracer = Tracer(demo("vineyard-tractor"), "found")
        for part in tracer.vehicle.segments:
            seen = Measurement(quantity="seen", segment=part, situation=Situation(stage="found"), outcome="blown")
            self.assertTrue(tracer.trace([seen]).suspects, part)

    def test_a_relay_is_one_part_and_another_one_in_its_socket_proves_it(self) -> None:
        whole = demo("market-van")
        tracer, hidden = Tracer(whole, "planned"), FAULTS.validate_python({"part": "k5-coil", "fault": "open"})
        readings = measure(
            whole, [Measurement(quantity="seen", device="m3", situation=Situation(state="idle"))], hidden
        )
        while not (found := tracer.trace(readings)).stop:
            readings += measure(whole, [found.next[0].measurement], hidden, noise=len(readings))
        self.assertEqual(next(iter(found.of_units())), "k5-coil")
        if found.stop.prove is not None:
            readings += measure(whole, [found.stop.prove], hidden)
        tried = next(each for each in readings if Swap(part="k5-coil") in each.situation.preparations)
        self.assertEqual(tried.outcome, "works")
        self.assertGreater(tracer.trace(readings, tests=False).of_units()["k5-coil"], 0.98)

    def test_no_jumper_ever_lies_over_a_fuse(self) -> None:
        """Common practice: it leaves its wire unprotected. A fuse with a bad contact is measured instead."""
        whole = demo("market-van")
        tracer, hidden = Tracer(whole, "planned"), FAULTS.validate_python({"part": "f10", "fault": "no contact"})
        dead = Measurement(quantity="seen", device="m3", situation=Situation(state="idle"))
        readings = measure(whole, [dead], hidden)
        while not (found := tracer.trace(readings)).stop:
            readings += measure(whole, [found.next[0].measurement], hidden, noise=len(readings))
        self.assertEqual(found.stop.part, "f10")
        proof = found.stop.prove
        assert proof
        fuse = whole.segments["f10"]
        self.assertEqual(
            (found.stop.by, {proof.red_point, proof.black_point}), ("measured", {fuse.from_point, fuse.to_point})
        )
        for each in (proof, *readings):
            self.assertNotIn("bridge", [done.do for done in each.situation.preparations])

    def test_a_mean_of_what_chatters_is_believed_as_far_as_the_metal_allows(self) -> None:
        """A weak battery chatters, its own voltage half a volt below what is computed; a terminal is pushed out."""
        cranking = Situation(stage="found", state="cranking")
        read = [
            *((Measurement(quantity="seen", device=each, situation=cranking), word) for each, word in SEEN_OF_WEAK),
            *(
                (Measurement(quantity="voltage", red_point=red, black_point=black, situation=cranking), value)
                for red, black, value in READ_OF_WEAK
            ),
        ]
        known = [each.model_copy(update={"outcome" if isinstance(came, str) else "value": came}) for each, came in read]
        found = Tracer(demo("school-minibus"), "found").trace(known, tests=False)
        self.assertEqual(next(iter(found.of_units())), "x9-way3")
        self.assertLess(found.of_units().get("m1", 0.0), 0.05)

    def test_readings_of_sound_metal_accuse_nobody(self) -> None:
        whole = demo("vineyard-tractor")
        cranking = Situation(stage="planned", state="cranking")
        looks = [Measurement(quantity="seen", device=each, situation=cranking) for each in ("m1", "y1")]
        volts = [
            Measurement(quantity="voltage", red_point=each, black_point="b-minus", situation=cranking)
            for each in ("b-plus", "sol-stud", "block")
        ]
        found = Tracer(whole, "planned").trace(measure(whole, [*looks, *volts]), tests=False)
        self.assertIsNone(found.stop)
        self.assertTrue(found.is_as_planned)
        self.assertLess(max(by_part(found).values()), 0.3)
