"""After something was mended: what else is wrong is found, what was mended in vain is known, and when all is well."""

from unittest import TestCase

from core.tests.support.demo import demo
from percorso.errors import MeasurementError
from percorso.faults.library import library
from percorso.faults.model import FAULTS, Fault
from percorso.tracing.mending import Mended
from percorso.tracing.trace import Evidence, Trace, Tracer
from percorso.vehicle.model import Stage
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import State
from percorso.verification.bench.virtual_bench import measure
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import Pull

MOST_STEPS = 24


def seen(device: str, state: State, stage: Stage = "planned") -> Measurement:
    return Measurement(quantity="seen", device=device, situation=Situation(stage=stage, state=state))


class AfterMending(TestCase):
    def test_before_any_reading_by_hand(self) -> None:
        """Either the part was all, or it was good and another is bad, or both: one job in twenty has two."""
        whole = demo("vineyard-tractor")
        weights: dict[str, float] = {}
        ways = library(vehicle_at(whole, "planned"))
        beyond = 0.05 * sum(way.weight for way in ways)  # what draws or feeds and is not described
        for way in ways:
            goes = 1.05 if way.fault in ("open", "terminal pushed out", "no contact", "does not close") else 1.0
            weights[way.part] = weights.get(way.part, 0.0) + way.weight * goes  # what comes and goes is seldom
        whole_weight = sum(weights.values()) + beyond
        prior = {part: 0.985 * weight / whole_weight for part, weight in weights.items()}
        sound, unknown = 0.005, 0.01 + 0.985 * beyond / whole_weight
        found = Tracer(whole, "planned").trace([Mended("w8")], tests=False)
        beside = 1 + 0.05 * prior["w8"]
        total = sound + prior["w8"] + (1 - sound - prior["w8"]) * beside
        self.assertAlmostEqual(found.sound, (sound + prior["w8"]) / total, delta=0.002)
        self.assertAlmostEqual(found.not_described, unknown * beside / total, delta=0.004)
        self.assertNotIn("w8", found.of_units())

    def test_the_second_of_two_is_found_once_the_first_is_mended(self) -> None:
        hidden = [{"part": "p2", "fault": "open"}, {"part": "j4", "fault": "open"}]
        symptoms = [seen("m1", "cranking"), seen("p2", "on")]
        mended, last = self._repaired("vineyard-tractor", FAULTS.validate_python(hidden), symptoms)
        self.assertEqual(mended, {"p2", "j4"})
        self.assertTrue(last.is_as_planned)
        self.assertEqual(last.again, ())
        self.assertGreater(last.sound, 0.9)

    def _repaired(self, name: str, bad: list[Fault], symptoms: list[Measurement]) -> tuple[set[str], Trace]:
        """Trace, prove, mend and measure again until nothing is off: what was mended, and the last answer."""
        whole, mended = demo(name), set[str]()
        tracer = Tracer(whole, "planned")
        known: list[Evidence] = [*measure(whole, symptoms, bad)]
        for step in range(MOST_STEPS):
            found = tracer.trace(known)
            asked = None
            if found.stop is not None and (found.stop.also or found.stop.prove is None):
                parts = [found.stop.part, *([found.stop.also.part] if found.stop.also else [])]
                known += [Mended(each) for each in parts]
                mended |= set(parts)
                bad = [each for each in bad if each.part not in parts]
            elif found.stop is not None:
                asked = found.stop.prove
            elif found.again and mended:
                asked = known[found.again[0].reading]
            elif found.next:
                asked = found.next[0].measurement
            else:
                break
            if isinstance(asked, Measurement):
                known += measure(whole, [asked], bad, noise=step)
        return mended, found

    def test_what_was_mended_in_vain_leaves_the_rest_as_suspect_as_it_was(self) -> None:
        whole = demo("market-van")
        tracer = Tracer(whole, "planned")
        dead = measure(whole, [seen("m3", "idle")], FAULTS.validate_python([{"part": "w9", "fault": "open"}]))
        before = tracer.trace(dead, tests=False).of_units()
        after = tracer.trace([*dead, Mended("m3"), *dead], tests=False).of_units()
        self.assertNotIn("m3", after)
        rest = 1 - before["m3"]
        for part in ("w9", "k3-coil"):
            self.assertAlmostEqual(after[part] * rest / before[part], 1, delta=0.3)

    def test_a_part_that_is_not_there_is_said(self) -> None:
        with self.assertRaises(MeasurementError) as refused:
            Tracer(demo("vineyard-tractor"), "found").trace([Mended("W99")])
        self.assertEqual(refused.exception.field, (0, "mended"))

    def test_a_relay_whose_contact_is_welded_opens_when_it_is_pulled(self) -> None:
        """So that pulling it proves it: the contact goes with its relay."""
        whole = demo("market-van")
        contact = next(each for each in whole.segments.values() if each.spec.kind == "relay contact")
        welded = FAULTS.validate_python([{"part": contact.id, "fault": "welded"}])
        pulled = Situation(state="on", preparations=(Pull(part=contact.id),))
        asked = Measurement(quantity="voltage", red_point=contact.to_point, black_point="b-minus", situation=pulled)
        [stuck] = measure(whole, [asked.model_copy(update={"situation": Situation(state="on")})], welded)
        self.assertGreater(stuck.value or 0.0, 12)
        [read], [sound] = measure(whole, [asked], welded), measure(whole, [asked])
        self.assertAlmostEqual(read.value or 0.0, sound.value or 0.0, delta=0.001)
