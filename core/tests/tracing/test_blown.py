"""What a fault has blown stays blown, and what blew it is sought."""

from unittest import TestCase

from core.tests.support.demo import demo
from percorso.tracing.trace import Tracer
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import LampInPlace


class Blown(TestCase):
    def test_what_blew_stays_blown_and_is_not_the_answer_by_itself(self) -> None:
        """A pump shorted inside blew F11 idling; with the key on, where it is not fed, the fuse has blown as well."""
        idle, on = (Situation(stage="planned", state=each) for each in ("idle", "on"))
        known = [
            Measurement(quantity="seen", device="m4", situation=idle, outcome="dead"),
            Measurement(quantity="seen", device="k6-coil", situation=idle, outcome="works"),
            Measurement(quantity="voltage", red_point="f11", black_point="b-minus", situation=on, value=0.0),
            Measurement(quantity="seen", segment="f11", situation=on, outcome="blown"),
        ]
        found = Tracer(demo("market-van"), "planned").trace(known)
        self.assertIsNone(found.stop)
        self.assertGreater(found.of_units()["m4"], 0.05)
        sure = Tracer(demo("market-van"), "planned").trace([*known, known[2].model_copy(update={"red_point": "k6-87"})])
        self.assertIsNone(sure.stop)

    def test_what_blew_a_fuse_is_sought_with_a_lamp_in_its_place_also_where_two_faults_are_thought_of(self) -> None:
        """F2 has blown idling, and the battery gives more than it should, so that no single fault explains it all."""
        idle, on = (Situation(stage="found", state=each) for each in ("idle", "on"))
        dead = [Measurement(quantity="seen", device=each, situation=idle, outcome="dead") for each in ("m4", "m1")]
        dead += [Measurement(quantity="seen", device=f"k{n}-coil", situation=idle, outcome="dead") for n in (4, 5)]
        amps = [
            Measurement(quantity="current", segment=each, situation=on, value=value)
            for each, value in (("w1", 6.9), ("w2", 6.7))
        ]
        volts = [
            Measurement(quantity="voltage", red_point=each, black_point="k6-86", situation=situation, value=value)
            for each, situation, value in (("sol", idle, 0.0), ("ign15", on, 12.5))
        ]
        first = sorted([*dead, *amps, *volts], key=lambda each: each.situation != on)  # what blew it is idling
        prepared = [
            each.measurement.situation.preparations for each in Tracer(demo("market-van"), "found").trace(first).next
        ]
        self.assertIn((LampInPlace(part="f2"),), prepared)
