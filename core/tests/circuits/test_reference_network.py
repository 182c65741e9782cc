"""A circuit's profile against a general method: nodal equations solved by NumPy's dense linear solver."""

from random import Random
from unittest import TestCase

import numpy as np

from percorso.circuits.voltage_profile import profile
from percorso.components.conductors import stocked_sizes
from percorso.house_rules import HouseRules
from percorso.targets import Target
from percorso.vehicle.model import Circuit, Point, Segment, Vehicle, stations
from percorso.vehicle.resistance import segment_resistance_ohm
from percorso.vehicle.segments import SEGMENT_SPEC

RULES = HouseRules()


def random_circuit(seed: int) -> tuple[Vehicle, Circuit]:
    """A feed of 1-9 segments out and 1-6 back, of every kind, lying either way round."""
    random = Random(seed)
    points = {f"p{index}": Point(f"p{index}", f"P{index}") for index in range(20)}
    names = iter(points)
    segments: dict[str, Segment] = {}

    def side(count: int) -> tuple[str, tuple[str, ...]]:
        here = start = next(names)
        path = []
        for _ in range(count):
            there, name = next(names), f"s{len(segments)}"
            ends = (here, there) if random.random() < 0.5 else (there, here)
            segments[name] = Segment(name, name, *ends, random_spec(random))
            path.append(name)
            here = there
        return start, tuple(path)

    source, supply = side(random.randint(1, 9))
    back, return_path = side(random.randint(1, 6))
    current, source_v = random.uniform(0.2, 200), random.uniform(9, 15)
    target = Target("max_drop_v", 0.5)
    circuit = Circuit("c", "C", "feed", "D", current, source_v, target, source, supply, back, return_path)
    return Vehicle(12, points, segments, {"c": circuit}), circuit


def random_spec(random: Random):
    kind = random.choice(["wire", "fuse", "connector", "relay contact", "joint", "body"])
    if kind == "wire":
        size = random.choice(stocked_sizes(random.choice(["awg", "metric"])))
        zone = random.choice(["cabin", "engine bay", "near exhaust", "outside"])
        values = {"size": size.name, "length_m": random.uniform(0.1, 9), "zone": zone}
    elif kind == "fuse":
        values = {"rating_a": random.choice([5, 15, 30])}
    else:
        values = {"resistance_ohm": random.choice([None, random.uniform(1e-4, 0.05)])}
    return SEGMENT_SPEC.validate_python({"kind": kind, **values})


def nodal_potentials(vehicle: Vehicle, circuit: Circuit) -> dict[str, float]:
    """Potential of every station against the end of the return, V, from the conductance matrix."""
    on_route = [*stations(vehicle, circuit, "supply"), *stations(vehicle, circuit, "return")]
    index = {point: row for row, point in enumerate(on_route)}
    conductance = np.zeros((len(on_route), len(on_route)))
    for segment in vehicle.segments.values():
        a, b = index[segment.from_point], index[segment.to_point]
        g = 1 / segment_resistance_ohm(segment.spec, vehicle.zone_temperature_c)
        conductance[[a, b, a, b], [a, b, b, a]] += [g, g, -g, -g]
    injected = np.zeros(len(on_route))
    device_in, device_out = len(circuit.supply), len(circuit.supply) + 1
    injected[device_in] -= circuit.design_current_a
    injected[device_out] += circuit.design_current_a
    for fixed, volts in ((0, circuit.source_v), (len(on_route) - 1, 0.0)):
        conductance[fixed] = 0
        conductance[fixed, fixed] = 1
        injected[fixed] = volts
    return dict(zip(on_route, np.linalg.solve(conductance, injected), strict=True))


class AgainstNodalAnalysis(TestCase):
    def test_every_station_of_sixty_random_circuits(self) -> None:
        for seed in range(60):
            vehicle, circuit = random_circuit(seed)
            solved = profile(vehicle, circuit, RULES)
            reference = nodal_potentials(vehicle, circuit)
            with self.subTest(seed=seed):
                for leg in solved.legs:
                    measured = reference[leg.start_point] - reference[leg.end_point]
                    self.assertAlmostEqual(leg.drop_v, measured, delta=1e-6 * max(1, solved.total_drop_v))
                device_in = reference[stations(vehicle, circuit, "supply")[-1]]
                device_v = device_in - reference[circuit.return_point]
                self.assertAlmostEqual(solved.device_v, device_v, delta=1e-6 * max(1, solved.total_drop_v))

    def test_power_balances(self) -> None:
        """Energy is conserved: source power = device power + heat in the segments."""
        for seed in range(20):
            vehicle, circuit = random_circuit(seed)
            solved = profile(vehicle, circuit, RULES)
            heat = sum(leg.power_w for leg in solved.legs)
            current = circuit.design_current_a
            self.assertAlmostEqual(circuit.source_v * current, solved.device_v * current + heat, places=6)
