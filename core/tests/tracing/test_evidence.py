"""What is made of readings: what they weigh, what is not believed, what is left out, where one begins, what proves."""

from unittest import TestCase

from core.tests.support.demo import demo
from percorso.faults.changes import with_resistor
from percorso.faults.model import FAULTS
from percorso.tracing.left_out import LeftOut, WhyNot
from percorso.tracing.next_check import NextCheck
from percorso.tracing.speaking import weighs
from percorso.tracing.symptoms import SYMPTOMS, Symptom, readings_of
from percorso.tracing.trace import Tracer
from percorso.tracing.wording import beyond_says
from percorso.verification.bench.virtual_bench import measure
from percorso.verification.measured.instruments import error
from percorso.verification.measured.measurements import Measurement, Situation

IDLE = Situation(stage="planned", state="idle")
BLOWER = {"quantity": "voltage", "red_point": "blow-plus", "black_point": "blow-minus", "situation": IDLE}
AT_POSTS: tuple[Symptom, ...] = ("cranks slowly", "clicks", "clicks once", "battery flat in the morning")


class Evidence(TestCase):
    def setUp(self) -> None:
        self.van = demo("market-van")
        self.tracer = Tracer(self.van, "planned")
        self.said = readings_of(self.tracer.vehicle, "device dead", "planned", "M3")

    def test_a_reading_says_how_far_off_it_is_what_its_part_would_make_it(self) -> None:
        """What comes with the fault in the metal is measured by the general solver."""
        hidden = FAULTS.validate_python({"part": "w19", "fault": "thin place", "ohm": 1.0})
        wire = self.van.segments["w19"]
        across = {"quantity": "voltage", "red_point": wire.from_point, "black_point": wire.to_point, "situation": IDLE}
        asked = [Measurement.model_validate(across), Measurement(quantity="current", segment="w19", situation=IDLE)]
        read, sound = measure(self.van, asked, hidden, noise=1), measure(self.van, asked)
        found = self.tracer.trace(read, tests=False)
        self.assertEqual(found.suspects[0].part, "w19")
        for each, reading, was in zip(found.speaks, read, sound, strict=True):
            assert isinstance(each.with_it, float) and isinstance(each.sound, float) and each.off is not None
            self.assertAlmostEqual(each.with_it + each.off, reading.value or 0.0)
            self.assertLess(each.deviations or 0.0, 2)
            self.assertAlmostEqual(each.sound, was.value or 0.0, delta=0.05)
        self.assertRegex(
            weighs("W19", found.speaks[0]),
            r"^for W19: \S+ V with it \(\d+ mV off, fits\), 0\.\d+ V where nothing is bad$",
        )

    def test_what_no_physics_allows_or_contradicts_itself_or_is_read_fifty_times(self) -> None:
        volts = Measurement.model_validate(BLOWER)
        amps = Measurement(quantity="current", segment="w19", situation=IDLE, value=3000)
        before = self.tracer.trace(self.said, tests=False)
        for reading in (volts.model_copy(update={"value": 90.0}), amps):
            found = self.tracer.trace([*self.said, reading], tests=False)
            self.assertEqual([each.readings for each in found.doubtful], [(1,)])
            self.assertIn("not believed", found.doubtful[0].why)
            self.assertEqual([each.part for each in found.suspects], [each.part for each in before.suspects])
        fine, dead = (volts.model_copy(update={"value": each}) for each in (12.1, 0.2))
        both = self.tracer.trace([*self.said, fine, dead], tests=False)
        self.assertEqual([(each.readings, "contradict" in each.why) for each in both.doubtful], [((1, 2), True)])
        often = self.tracer.trace([*self.said, *[fine] * 50])
        self.assertIn("counts as 3", often.doubtful[0].why)
        self.assertLess(max(often.of_units().values()), 0.5)  # no more sure than a few readings make it

    def test_a_test_that_cannot_be_made_is_not_offered_again(self) -> None:
        first = self.tracer.trace(self.said).next[0].measurement
        cases: tuple[tuple[WhyNot, float | None], ...] = (("don't know", None), ("cannot reach", None))
        for why, reach in cases:
            left = LeftOut(first, why, reach)
            then = [each.measurement for each in self.tracer.trace(self.said, left_out=[left]).next]
            self.assertNotIn(first.key, [each.key for each in then])
            if why == "cannot reach":
                self.assertFalse(any(left.covers(self.tracer.vehicle, each) for each in then))
        reached = LeftOut(first, "cannot reach", 99.0)  # it took so long when that was said, and does no more
        self.assertEqual(self.tracer.trace(self.said, left_out=[reached]).next[0].measurement.key, first.key)

    def test_a_flat_battery_or_a_slow_starter_is_measured_at_the_posts_first(self) -> None:
        """Common practice: at hand, and everything is fed from there."""
        for job in ("market-van", "vineyard-tractor", "school-minibus"):
            tracer = Tracer(demo(job), "planned")
            posts = next(each for each in tracer.vehicle.devices.values() if each.spec.kind == "battery").terminals
            for symptom in AT_POSTS:
                first = tracer.trace(readings_of(tracer.vehicle, symptom, "planned")).next[0].measurement
                self.assertEqual((first.quantity, first.red_point), ("voltage", posts["+"]), (job, symptom))
        self.assertLess(set(AT_POSTS), set(SYMPTOMS))

    def test_how_long_it_stood_says_how_much_was_drawn(self) -> None:
        """2 A through a chafed wire empty 45 Ah in a day, and not in one night."""
        tractor = Tracer(demo("vineyard-tractor"), "planned")
        drawn = []
        for stood_h in (8.0, 336.0):
            said = readings_of(tractor.vehicle, "battery flat in the morning", "planned", stood_h=stood_h)
            found = tractor.trace(said, tests=False)
            drains = [each for each in found.suspects if each.fault.startswith("chafed") and each.severity]
            drawn.append(max(each.severity[1] for each in drains if each.severity))
        self.assertLess(drawn[0], drawn[1])

    def test_what_a_look_at_the_likeliest_part_would_mean_is_told_as_far_as_the_part_is_believed(self) -> None:
        broken = FAULTS.validate_python({"part": "w9", "fault": "open"})
        known = readings_of(self.tracer.vehicle, "device dead", "planned", "M2")
        found = self.tracer.trace(known)
        while found.of_units().get("w9", 0.0) < 0.99:
            known += measure(self.van, [found.next[0].measurement], broken, len(known))
            found = self.tracer.trace(known)
        [look] = found.next
        self.assertEqual(look.meanings[0].parts, ("w9",))
        self.assertGreater(look.meanings[0].probability, 0.95)

    def test_a_contact_that_welded_is_told_from_what_lies_beside_it(self) -> None:
        """The contact unplugged: what still runs is fed by something that nobody described. No look across it tells."""
        welded = FAULTS.validate_python({"part": "s6", "fault": "welded"})
        contact = self.van.segments["s6"]
        beside = with_resistor(self.van, contact.from_point, contact.to_point, 0.03)
        for metal, faults, is_it in ((self.van, welded, True), (beside, [], False)):
            seen = Measurement(quantity="seen", device="m3", situation=Situation(stage="planned", state="on"))
            known, found = measure(metal, [seen], faults), None
            while found is None or (found.next and not found.stop):
                found = self.tracer.trace(known)
                known += measure(metal, [each.measurement for each in found.next[:1]], faults, noise=len(known))
            self.assertEqual(bool(found.stop and found.stop.part == "s6"), is_it)
            self.assertEqual(found.not_described > 0.95, not is_it)
            self.assertLess(len(known), 7)
            says = beyond_says(self.tracer.vehicle, found.beyond) if found.beyond else "nothing"
            self.assertRegex(
                says, "^nothing$" if is_it else "^something else (feeds|connects Ignition switch 15 and) K5 86$"
            )

    def test_how_much_a_test_tells_is_said_in_words(self) -> None:
        volts = Measurement.model_validate(BLOWER)
        said = [NextCheck(volts, bits, 1.0, ()).how_much for bits in (0.9, 0.3, 0.1)]
        self.assertEqual(said, ["a lot", "some", "a little"])

    def test_a_proof_tells_bad_from_good_by_three_times_what_a_meter_is_off(self) -> None:
        """Battery, starter, alternator and regulator, each measured bad and good by the general solver."""
        tractor = demo("vineyard-tractor")
        for part, fault, looked_at, state in (
            ("g1", {"fault": "weak", "times": 6.0}, "m1", "cranking"),
            ("m1", {"fault": "drags", "times": 2.5}, "m1", "cranking"),
            ("g2", {"fault": "gives too little", "times": 0.05}, "g2", "idle"),
            ("g2", {"fault": "regulates wrongly", "times": 1.2}, "g2", "idle"),
        ):
            hidden = FAULTS.validate_python({"part": part} | fault)
            tracer, situation = Tracer(tractor, "planned"), Situation(stage="planned", state=state)
            readings = measure(tractor, [Measurement(quantity="seen", device=looked_at, situation=situation)], hidden)
            if part == "g2":
                battery = {"quantity": "voltage", "red_point": "b-plus", "black_point": "b-minus"}
                asked = Measurement.model_validate(battery | {"situation": situation})
                readings = measure(tractor, [asked], hidden)
            for step in range(10):
                found = tracer.trace(readings)
                if found.stop or not found.next:
                    break
                readings += measure(tractor, [found.next[0].measurement], hidden, noise=step)
            assert found.stop, (part, fault)
            self.assertEqual(found.stop.part, part)
            if found.stop.prove is None:
                self.assertTrue(found.stop.is_proved, (part, fault))
                continue
            [bad], [good] = measure(tractor, [found.stop.prove], hidden), measure(tractor, [found.stop.prove])
            if bad.value is None or good.value is None:
                self.assertNotEqual(bad.outcome, good.outcome)
            else:
                off = error(bad.with_what, bad.quantity, good.value) / 1.96
                self.assertGreater(abs(bad.value - good.value), 3 * off, (part, fault))
