"""Many faults solved together give what each fault gives by itself, and every fault of the library is a change."""

import random
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from core.tests.support.charged import sensing
from core.tests.support.demo import demo
from core.tests.support.generated import generated_vehicle
from percorso.arrays import Array
from percorso.faults.at_segments import AT_SEGMENTS
from percorso.faults.changes import SeriesResistance
from percorso.faults.library import library
from percorso.faults.model import Fault
from percorso.network.branches import reference_point
from percorso.network.operating_point import Network
from percorso.tracing.predictions import Predictions
from percorso.vehicle.model import Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import State
from percorso.verification.bench.virtual_bench import Bench
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import Unplug, preparation

JOBS = ("market-van", "vineyard-tractor", "school-minibus")
AGREE_V = 1e-3
THROUGH_JUNCTIONS_V = 1e-2  # where the meter itself draws its microampere through a diode
UNHELD_V = 0.05  # where nothing holds a point but what a diode leaks, a microampere of the meter moves it
FAR_V = 20  # beyond it no vehicle's voltage counts to the millivolt: an alternator that nothing takes anything from


def everything_at(vehicle: Vehicle, situation: Situation) -> list[Measurement]:
    """Every point against where voltages count from, across every part, and what is seen of every device."""
    reference = reference_point(vehicle)
    volts = [
        Measurement(quantity="voltage", red_point=each, black_point=reference, situation=situation)
        for each in vehicle.points
        if each != reference
    ]
    volts += [
        Measurement(quantity="voltage", red_point=each.from_point, black_point=each.to_point, situation=situation)
        for each in vehicle.segments.values()
        if each.from_point != each.to_point
    ]
    return volts + [Measurement(quantity="seen", device=each, situation=situation) for each in vehicle.devices]


class Together(TestCase):
    def _agrees(
        self, whole: Vehicle, state: State, count: int, seed: int, *done: str, within_v: float = AGREE_V
    ) -> None:
        vehicle = vehicle_at(whole, "found")
        situation = Situation(stage="found", state=state, preparations=tuple(map(preparation, done)))
        ways = library(vehicle)
        faults: list[Fault | None] = [None, *(fault for way in ways for fault in way.faults)]
        asked = everything_at(vehicle, situation)
        together = Predictions(whole, vehicle, situation, faults)
        together.show(asked[:1])
        chance = random.Random(seed)
        chosen = [faults.index(chance.choice(way.faults)) for way in chance.sample(ways, count)]
        shown = together.show(asked, np.array(chosen))
        for place in chosen:
            fault = faults[place]
            bench = Bench(whole, situation, [] if fault is None else [fault])
            alone, untouched = bench.show_all(asked), Network(bench.vehicle).solve(state)
            for measurement, one, each in zip(asked, alone, shown, strict=True):
                with self.subTest(fault=fault, state=state, of=measurement.red_point or measurement.device):
                    if one.value is None:
                        self.assertEqual(each.word[place], one.outcome)
                    else:
                        there = untouched.voltage_v(measurement.red_point or "", measurement.black_point or "")
                        most = UNHELD_V if there is None else within_v * max(1.0, abs(one.value) / FAR_V)
                        self.assertLess(abs(each.value[place] - one.value), most)

    def test_on_the_demo_jobs(self) -> None:
        states: tuple[State, ...] = ("idle", "cranking", "on")
        for name, state in zip(JOBS, states, strict=True):
            self._agrees(demo(name), state, 10, seed=1)

    def test_on_prepared_metal(self) -> None:
        for done in (("swap K1",), ("unplug X9", "swap K6")):
            self._agrees(demo("school-minibus"), "on", 10, 2, *done)

    def test_a_holder_is_as_bad_with_a_lamp_in_it(self) -> None:
        whole, lamp = demo("market-van"), preparation("lamp F10")
        situation = Situation(stage="planned", state="idle", preparations=(lamp.model_copy(update={"part": "f10"}),))
        asked = Measurement(quantity="voltage", red_point="f10", black_point="b-minus", situation=situation)
        burnt = Fault(part="f10", fault="resistance", ohm=30)
        [one] = Bench(whole, situation, [burnt]).show_all([asked])
        [shown] = Predictions(whole, vehicle_at(whole, "planned"), situation, [None, burnt]).show([asked])
        assert one.value is not None
        self.assertAlmostEqual(shown.value[1], one.value, delta=AGREE_V)
        self.assertGreater(abs(shown.value[1] - shown.value[0]), 0.3)

    def test_a_chafed_wire_that_is_lifted_hangs_on_its_end(self) -> None:
        whole = demo("market-van")
        lifted = preparation("lift w23").model_copy(update={"part": "w23"})
        for chafed in ("chafed near its start", "chafed to ground", "chafed near its end"):
            for done in ((), (lifted,)):
                situation = Situation(stage="planned", state="on", preparations=done)
                asked = Measurement(
                    quantity="resistance",
                    red_point="k6-87",
                    black_point="b-minus",
                    situation=situation.model_copy(
                        update={"preparations": (*done, preparation("battery off"), Unplug(part="m4"))}
                    ),
                )
                fault = Fault.model_validate({"part": "w23", "fault": chafed, "ohm": 1})
                [one] = Bench(whole, asked.situation, [fault]).show_all([asked])
                at_stage = vehicle_at(whole, "planned")
                [shown] = Predictions(whole, at_stage, asked.situation, [None, fault]).show([asked])
                with self.subTest(chafed, lifted=bool(done)):
                    self.assertEqual(one.value is None, bool(done))
                    self.assertAlmostEqual(shown.value[1] if one.value else 0.0, one.value or 0.0, delta=0.01)

    def test_a_fault_written_once_is_in_one_vehicle_and_in_many(self) -> None:
        whole, situation = demo("vineyard-tractor"), Situation(stage="found", state="cranking")
        asked = Measurement(quantity="voltage", red_point="sol-stud", black_point="starter-case", situation=situation)
        frayed = Fault(part="w2", fault="burnt")
        with patch.dict(AT_SEGMENTS, {("burnt", "wire"): lambda _, segment, *__: SeriesResistance(segment, 0.004)}):
            [one] = Bench(whole, situation, [frayed]).show_all([asked])
            [shown] = Predictions(whole, vehicle_at(whole, "found"), situation, [None, frayed]).show([asked])
        assert one.value is not None
        self.assertAlmostEqual(shown.value[1], one.value, delta=AGREE_V)
        self.assertLess(shown.value[1], shown.value[0] - 0.2)

    def test_on_generated_vehicles(self) -> None:
        for seed in range(15):
            self._agrees(generated_vehicle(seed, 6), "on", 4, seed, within_v=THROUGH_JUNCTIONS_V)
            states: tuple[State, ...] = ("cranking", "idle", "road")
            self._agrees(generated_vehicle(seed, 12), states[seed % 3], 6, seed, within_v=THROUGH_JUNCTIONS_V)

    def _at_the_posts(self, *faults: Fault, **fuse: bool) -> tuple[Array, Array]:
        """Volts at the alternator's post and the battery's on the road, with a fused sense lead from the battery."""
        whole, situation = sensing(**fuse), Situation(stage="found", state="road")
        ends = [{"red_point": each, "black_point": "minus"} for each in ("post", "plus")]
        asked = [Measurement(quantity="voltage", **each, situation=situation) for each in ends]
        post, plus = Predictions(whole, whole, situation, [None, *faults]).show(asked)
        return post.value, plus.value

    def test_a_regulator_whose_sense_lead_breaks_sees_its_own_post(self) -> None:
        """Then 14.2 V are there; before, they are where the lead is taken."""
        breaks = [Fault(part="F1", fault="blown"), Fault(part="F1", fault="no contact"), Fault(part="W2", fault="open")]
        post, plus = self._at_the_posts(*breaks)
        self.assertAlmostEqual(plus[0], 14.2, delta=AGREE_V)
        np.testing.assert_allclose(post[1:], 14.2, atol=AGREE_V)

    def test_a_sense_lead_that_leads_nowhere_is_fed_where_it_touches(self) -> None:
        """Half-way along the charge cable: as much as is lost before it is lost behind it."""
        touches = Fault(part="W2", fault="touching its neighbour", other="W1", ohm=0.01)
        post, plus = self._at_the_posts(touches, fitted=False)
        self.assertAlmostEqual(post[0], 14.2, delta=AGREE_V)
        self.assertAlmostEqual((post[1] + plus[1]) / 2, 14.2, delta=AGREE_V)
        self.assertGreater(post[1], 14.25)
