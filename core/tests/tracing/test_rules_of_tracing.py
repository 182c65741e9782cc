"""Rules that tracing and judging go by, each in words and by itself."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from core.tests.support.demo import demo
from percorso.faults.cures import cures_of
from percorso.faults.library import FaultMode, library
from percorso.faults.model import FAULTS
from percorso.network.operating_point import Network
from percorso.tracing.evidence import SPANS, likelihood_of_value
from percorso.tracing.hypotheses import Grid
from percorso.tracing.likelihood import FINER, within
from percorso.tracing.next_check import worth
from percorso.tracing.predictions import Predictions
from percorso.tracing.situations import proof_by_substitution
from percorso.tracing.suspects import INTERVAL
from percorso.tracing.trace import Tracer
from percorso.vehicle.segments import GUARDS, Wire
from percorso.vehicle.stages import vehicle_at
from percorso.verification.bench.prepared_vehicle import remaining_faults
from percorso.verification.checks.minutes import minutes
from percorso.verification.judging.expected import Expected
from percorso.verification.judging.outcomes import judge_outcome
from percorso.verification.judging.spreads import _moments
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import Swap, preparation

IDLE = Situation(stage="planned", state="idle")
POSTS = {"quantity": "voltage", "red_point": "b-plus", "black_point": "b-minus"}


class Tests(TestCase):
    def test_they_are_ranked_by_bits_for_each_minute(self) -> None:
        """Half a bit in a minute before nine tenths in ten."""
        self.assertGreater(worth(0.5, 1.0), worth(0.9, 10.0))
        found = Tracer(demo("market-van"), "planned").trace([])
        ranked = [worth(each.bits, each.minutes) for each in found.next]
        self.assertEqual(ranked, sorted(ranked, reverse=True))

    def test_a_proof_never_lays_a_jumper_over_a_fuse(self) -> None:
        for name in ("market-van", "school-minibus", "vineyard-tractor"):
            vehicle = vehicle_at(demo(name), "planned")
            guards = [each for each in library(vehicle) if _is_guard(vehicle.segments.get(each.part))]
            self.assertTrue(guards)
            for mode in guards:
                relief = proof_by_substitution(vehicle, mode, IDLE, lambda *_: 0.0)
                self.assertNotEqual(relief and relief[1], "bridged", mode)

    def test_what_is_prepared_already_is_not_prepared_again(self) -> None:
        """The battery is off since the last reading: what comes next takes no more than itself."""
        vehicle = vehicle_at(demo("market-van"), "planned")
        prepared = IDLE.model_copy(update={"preparations": (preparation("battery off"),)})
        on_it = Measurement(**POSTS, situation=prepared)
        again = minutes(vehicle, on_it, prepared)
        self.assertAlmostEqual(minutes(vehicle, on_it, IDLE) - again, 3.0)
        self.assertEqual(again, minutes(vehicle, Measurement(**POSTS, situation=IDLE), IDLE))
        more = IDLE.model_copy(update={"preparations": (*prepared.preparations, preparation("pull F10"))})
        pulled = Measurement(**POSTS, situation=more)
        self.assertAlmostEqual(minutes(vehicle, pulled, IDLE) - minutes(vehicle, pulled, prepared), 3.0)


class Readings(TestCase):
    def test_one_in_a_hundred_is_misread(self) -> None:
        """However far off, a reading leaves a fault one hundredth of what any reading has."""
        read = Measurement(**POSTS, situation=IDLE, value=12.0)
        [here, far] = likelihood_of_value(read, np.array([12.0, 0.0]), np.array([0.1, 0.1])).tolist()
        self.assertAlmostEqual(far, 0.01 / SPANS["voltage"])
        self.assertAlmostEqual(here, 0.99 / (0.1 * math.sqrt(2 * math.pi)) + far)

    def test_a_step_of_the_grid_stands_for_all_between_its_neighbours(self) -> None:
        """As wide as a uniform distribution over the step is: its width by the root of 12."""
        read = Measurement(**POSTS, situation=IDLE, value=12.0)
        [likely] = likelihood_of_value(read, np.array([12.0]), np.array([0.0]), np.array([1.2])).tolist()
        self.assertAlmostEqual(likely, 0.99 / (1.2 / math.sqrt(12) * math.sqrt(2 * math.pi)), places=3)

    def test_a_mean_of_what_chatters_is_in_doubt_by_a_tenth_of_what_it_goes_through(self) -> None:
        bus = vehicle_at(demo("school-minibus"), "found")
        cranking = Situation(stage="found", state="cranking")
        posts = Measurement(**POSTS, situation=cranking)
        [shown] = Predictions(demo("school-minibus"), bus, cranking, [None]).show([posts])
        phases = Network(bus).phases("cranking", {})
        places = Network(bus).assembly.numbers
        volts = [each.solved.potential[places["b-plus"]] - each.solved.potential[places["b-minus"]] for each in phases]
        self.assertGreater(len(volts), 1)
        self.assertAlmostEqual(shown.doubt[0], 0.1 * (max(volts) - min(volts)), places=3)

    def test_a_small_resistance_proves_that_the_path_is_there_and_nothing_more(self) -> None:
        off = Situation(stage="planned", state="off", preparations=(preparation("battery off"),))
        ohm = {"quantity": "resistance", "red_point": "b-minus", "black_point": "main", "situation": off}
        for value, is_blind in ((0.03, True), (40.0, False)):
            outcome = judge_outcome(
                Measurement.model_validate(ohm | {"value": value}), Expected(value, 0.0, 50.0, None, ""), None
            )
            self.assertEqual("the path is there" in (outcome.proves_nothing or ""), is_blind)

    def test_a_spread_to_one_side_moves_mean_and_skew_that_way(self) -> None:
        """Against 400 000 draws of a part that is normal to either side, wider to one."""
        drawn = np.abs(np.random.default_rng(4).standard_normal((2, 400_000)))
        side = np.random.default_rng(5).random(400_000) < 0.5
        for less, more in ((-0.2, 1.0), (-1.0, 0.2), (0.0, 0.7)):
            values = np.where(side, more * drawn[0], less * drawn[1])
            mean, deviation, skewness = _moments(np.array([less]), np.array([more]), 0.0)
            third = float((((values - values.mean()) / values.std()) ** 3).mean())
            np.testing.assert_allclose((mean, deviation, skewness), (values.mean(), values.std(), third), atol=0.02)

    def test_the_interval_of_a_severity_holds_eighty_of_a_hundred(self) -> None:
        """Where all between 10 mΩ and 10 Ω are as likely: but for a tenth of the three decades at each end."""
        grid = Grid(np.arange(4)[None], np.array([0.01, 0.1, 1.0, 10.0]))
        low, high = within(grid, np.zeros(3 * FINER + 1), INTERVAL)
        self.assertAlmostEqual(math.log10(high / low) / 3, 0.8, places=6)
        self.assertAlmostEqual(math.log10(low / 0.01), math.log10(10.0 / high))


class Faults(TestCase):
    def test_leads_on_the_wrong_terminals_stay_so_on_a_new_part(self) -> None:
        van = vehicle_at(demo("market-van"), "planned")
        faults = FAULTS.validate_python(
            [{"part": "g2", "fault": "two leads swapped", "other": "S D+"}, {"part": "g2", "fault": "gives too little"}]
        )
        self.assertEqual(remaining_faults(van, [Swap(part="g2")], faults), faults[:1])
        self.assertEqual(remaining_faults(van, [], faults), faults)

    def test_wires_touch_each_other_where_they_lie_in_one_loom(self) -> None:
        """In the same zone, both bundled."""
        van = vehicle_at(demo("market-van"), "planned")
        alone, *bundled = [each for each, _ in van.segments_of(Wire)]
        loom = {each.id: replace(each, spec=each.spec.model_copy(update={"bundle": 3})) for each in bundled}
        vehicle = replace(van, segments={**van.segments, **loom})
        touching = [each for each in library(vehicle) if each.fault == "touching its neighbour"]
        zones = {each.id: spec.zone for each, spec in vehicle.segments_of(Wire)}
        self.assertGreater(len({zones[each.part] for each in touching}), 1)
        for each in touching:
            self.assertEqual(zones[each.part], zones[each.other or ""])
            self.assertNotIn(alone.id, (each.part, each.other))

    def test_a_new_run_takes_longer_by_the_metre(self) -> None:
        """From memory: a quarter of an hour for its ends, and eight minutes for each metre."""
        van = vehicle_at(demo("market-van"), "planned")
        wires = [(each, spec) for each, spec in van.segments_of(Wire) if van.access_to_segment(each) == "open"]
        for wire, spec in wires[:3]:
            renewed = next(each for each in cures_of(van, wire.id, "open") if each.does.startswith("bypass"))
            self.assertAlmostEqual(renewed.work_min, 15 + 8 * spec.length_m)

    def test_burnt_contacts_have_from_five_milliohms_to_half_an_ohm(self) -> None:
        modes = [each for each in library(vehicle_at(demo("vineyard-tractor"), "planned")) if _is_of_contacts(each)]
        self.assertTrue(modes)
        for each in modes:
            self.assertEqual((min(each.severities), max(each.severities)), (0.005, 0.5))


def _is_guard(segment: object) -> bool:
    return isinstance(getattr(segment, "spec", None), GUARDS)


def _is_of_contacts(mode: FaultMode) -> bool:
    return mode.fault == "solenoid contacts burnt"
