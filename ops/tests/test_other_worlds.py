"""The worlds that tracing is measured in: each cause is in the metal, and what blew stays blown."""

import random
from itertools import islice
from unittest import TestCase

from core.tests.support.demo import demo
from ops.bench_worlds import CONFIDENT, HARDER, followed
from ops.other_worlds import CAUSES, World, worlds
from percorso.vehicle.segments import Fuse
from percorso.verification.measurements import Measurement, Situation


class Believed(TestCase):
    def test_sixty_fixed_loops_are_traced_as_truly_as_said(self) -> None:
        """Those of ``ops.bench_worlds`` with a seed of their own, of which some are faults of one part."""
        single = [each for each in followed(66, "fixed") if each.is_described and each.cause not in HARDER]
        wrong = [each.cause for each in single if each.first >= CONFIDENT and each.is_wrong]
        self.assertGreaterEqual(sum(each.is_right for each in single) / len(single), 0.95)
        self.assertLessEqual(len(wrong), 2, wrong)


class OtherWorlds(TestCase):
    def _some(self, count: int) -> list[World]:
        return list(islice(worlds(demo("market-van"), random.Random(1)), count))

    def test_each_cause_is_in_the_metal_once_a_round_and_names_parts_of_the_description(self) -> None:
        vehicle, found = demo("market-van"), self._some(len(CAUSES))
        self.assertEqual({each.cause for each in found}, set(CAUSES))
        for each in found:
            with self.subTest(each.cause):
                self.assertNotEqual(each.metal, each.sound)
                self.assertLessEqual(each.right, set(vehicle.segments) | set(vehicle.devices))
                self.assertEqual(not each.right, each.cause in ("rerouted", "added load"))

    def test_what_blew_in_one_state_is_blown_in_the_next(self) -> None:
        """A blower shorted inside blows F10 with the engine idling, and is not fed with the key off."""
        shorted = next(each for each in self._some(400) if each.cause == "shorted load" and each.right == {"m3"})
        seen = [
            shorted.read(
                Measurement(quantity="seen", segment="f10", situation=Situation(stage="planned", state=state)), 0
            )
            for state in ("off", "idle", "off")
        ]
        self.assertIsInstance(shorted.metal.segments["f10"].spec, Fuse)
        self.assertEqual([each.outcome for each in seen], ["whole", "blown", "blown"])
