"""The whole network against ngspice, a general circuit simulator, and against what must hold for any network."""

from dataclasses import replace
from random import Random
from typing import Any
from unittest import TestCase

import numpy as np
from numpy.typing import NDArray

from core.tests.support.demo import DEMO
from core.tests.support.generated import generated_vehicle
from core.tests.support.simulator import worst_disagreement
from core.tests.support.small import joint, small_vehicle, solved
from percorso.files.job_file import vehicle_of
from percorso.files.reading import read_job_file
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.vehicle.copper import by_house
from percorso.vehicle.model import STAGES, Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import STATES, steps

BALANCED_A = 1e-6


class AgainstTheSimulator(TestCase):
    """Every point within 1 mV and 0.1 %, and currents that balance at every point within 1 µA."""

    def _compare(self, network: Network) -> int:
        compared = 0
        for solution in network.sequence(steps(STATES)):
            with self.subTest(solution.state):
                self.assertLess(solution.residual_a, BALANCED_A)
                if not solution.unsettled:
                    self.assertLessEqual(worst_disagreement(network, solution), (1.0, "worst point"))
                    compared += 1
        return compared

    def test_every_demo_job_as_found_and_as_planned(self) -> None:
        for path in sorted(DEMO.glob("*.json")):
            vehicle = by_house(vehicle_of(read_job_file(path.read_bytes())), HouseRules())
            for stage in STAGES:
                with self.subTest(path.stem, stage=stage):
                    self.assertGreaterEqual(self._compare(Network(vehicle_at(vehicle, stage))), len(STATES) - 1)

    def test_generated_vehicles_of_five_to_a_hundred_and_fifty_points(self) -> None:
        compared = 0
        for seed in range(30):
            with self.subTest(seed=seed):
                warm = by_house(generated_vehicle(seed, 5 + 5 * seed), HouseRules())
                compared += self._compare(Network(warm))
        self.assertGreaterEqual(compared, 170)

    def test_generated_vehicles_with_two_and_three_alternators(self) -> None:
        """None is given up: one mode of each alternator agrees with itself, and the simulator finds the same.

        In the last three one that senses nothing lifts a battery that takes nothing to more than 70 V.
        """
        cases = [(seed, 45, 2 + seed % 2) for seed in range(24)] + [(46, 45, 3), (20, 45, 4), (6, 80, 2)]
        for seed, size, alternators in cases:
            with self.subTest(seed=seed):
                network = Network(generated_vehicle(seed, size, alternators))
                said = [each.reason for one in network.sequence(steps(STATES)) for each in one.unsettled]
                self.assertFalse([each for each in said if "no voltages" in each])
                self.assertGreaterEqual(self._compare(network), len(STATES) - 1)  # a starter may make a relay chatter


class AnyNetwork(TestCase):
    def test_renaming_everything_changes_no_voltage(self) -> None:
        for seed in (3, 8, 21):
            vehicle = generated_vehicle(seed, 70)
            renamed = self._shuffled(vehicle, Random(seed))
            for one, other in zip(
                Network(vehicle).sequence(steps(STATES)), Network(renamed).sequence(steps(STATES)), strict=True
            ):
                for point, result in one.points.items():
                    again = other.points[f"x{point}"]
                    self.assertEqual(result.floating, again.floating)
                    self.assertAlmostEqual(result.v or 0, again.v or 0, places=7)

    @staticmethod
    def _shuffled(vehicle: Vehicle, random: Random) -> Vehicle:
        def mixed(parts: dict[str, Any]) -> dict[str, Any]:
            return dict(random.sample(list(parts.items()), len(parts)))

        points = {f"x{each.id}": replace(each, id=f"x{each.id}") for each in vehicle.points.values()}
        segments = {
            each.id: replace(each, from_point=f"x{each.from_point}", to_point=f"x{each.to_point}")
            for each in vehicle.segments.values()
        }
        devices = {
            each.id: replace(each, terminals={mark: f"x{point}" for mark, point in each.terminals.items()})
            for each in vehicle.devices.values()
        }
        return replace(vehicle, points=mixed(points), segments=mixed(segments), devices=mixed(devices))

    def test_a_segment_without_current_can_go(self) -> None:
        for seed in (5, 12):
            vehicle = generated_vehicle(seed, 60)
            network = Network(vehicle)
            before = network.solve("road")
            idle = next(
                each
                for each in vehicle.segments.values()
                if each.id in before.conducting and abs(before.segments[each.id].current_a or 0) < 1e-9
            )
            rest = {each.id: each for each in vehicle.segments.values() if each.id != idle.id}
            after = Network(replace(vehicle, segments=rest)).solve("road")
            for device, result in before.devices.items():
                self.assertAlmostEqual(result.current_a or 0, after.devices[device].current_a or 0, places=5)

    def test_scaling_and_superposition_of_a_linear_network(self) -> None:
        """Two sources over resistances: a change of one adds the same whatever the other is; twice the volts, twice
        the amperes (superposition and homogeneity).
        """

        def currents(first_percent: float, second_percent: float, nominal_v: float = 12) -> NDArray[np.float64]:
            source = {"kind": "battery", "chemistry": "LiFePO4", "capacity_ah": 60, "cold_cranking_a": 500}
            charges = {"G1": ("a", 0.02, first_percent), "G2": ("b", 0.03, second_percent)}
            devices = {
                name: ({"+": plus, "-": "minus"}, source | {"resistance_ohm": ohm, "state_of_charge_percent": percent})
                for name, (plus, ohm, percent) in charges.items()
            }
            parts = {"R1": ("a", "m", joint(0.3)), "R2": ("b", "m", joint(0.5)), "R3": ("m", "minus", joint(0.7))}
            result = solved(replace(small_vehicle(parts, devices), nominal_v=nominal_v))
            return np.array([each.current_a for each in result.segments.values()])

        full, flat = 100.0, 5.0
        steps = currents(full, full) - currents(flat, full), currents(full, flat) - currents(flat, flat)
        np.testing.assert_allclose(*steps, atol=1e-9)
        self.assertGreater(abs(steps[0]).max(), 0.1)
        np.testing.assert_allclose(currents(full, flat, 24), 2 * currents(full, flat), rtol=1e-9)

    def test_variants_of_one_resistance_agree_with_solving_anew(self) -> None:
        vehicle = generated_vehicle(11, 60)
        network, random = Network(vehicle), Random(1)
        changeable = [each for each in vehicle.segments.values() if each.spec.kind in ("joint", "connector", "splice")]
        changes = [(random.choice(changeable).id, 10 ** random.uniform(-4, 1)) for _ in range(25)]
        number = {point: place for place, point in enumerate(vehicle.points)}
        for (segment_id, ohm), potential in zip(changes, network.varied("road", changes), strict=True):
            segment = vehicle.segments[segment_id]
            spec = SEGMENT_SPEC.validate_python({"kind": segment.spec.kind, "resistance_ohm": ohm})
            anew = Network(
                replace(vehicle, segments={**vehicle.segments, segment_id: replace(segment, spec=spec)})
            ).solve("road")
            for point, result in anew.points.items():
                if result.v is not None:
                    self.assertAlmostEqual(potential[number[point]], result.v, places=5)
