"""A new circuit is laid whole and sized: checked by hand with handbook resistances."""

from itertools import count
from typing import Any
from unittest import TestCase

from pydantic import ValidationError

from percorso.circuits.voltage_profile import profile
from percorso.errors import PathError
from percorso.house_rules import HouseRules
from percorso.planning.new_circuit import lay_circuit
from percorso.targets import FAMILIES
from percorso.vehicle.model import Vehicle, stations
from percorso.vehicle.segments import Wire
from percorso.vehicle.values import NewRoute

RULES = HouseRules()
EMPTY = Vehicle(12, {}, {}, {})
FAN: dict[str, Any] = {
    "name": "Fan",
    "family": "feed",
    "device": "Fan",
    "design_current_a": "12 A",
    "source_v": "13.5 V",
    "target_kind": "max_drop_percent",
    "target_value": "5 %",
    "source": "Main stud",
    "ground": "GND1",
    "supply_length_m": "3 m",
    "return_length_m": "1 m",
    "series": "metric",
}


def lay(vehicle: Vehicle = EMPTY, **changes: Any) -> Vehicle:
    numbers = count(len(vehicle.points) + len(vehicle.segments))
    route = NewRoute.model_validate(FAN | changes)
    return lay_circuit(vehicle, route, route.name, RULES, lambda: f"id{next(numbers)}")


class Laying(TestCase):
    def test_the_smallest_size_that_keeps_the_target(self) -> None:
        """5 % of 12 V is 0.60 V; 12 A × 4 m allow 12.5 mΩ/m at 50 °C, 11.2 at 20 °C: 2.5 mm² (7.60), not 1.5 (12.7)."""
        laid = lay()
        wires = [segment.spec for segment in laid.segments.values()]
        self.assertEqual([wire.size for wire in wires if isinstance(wire, Wire)], ["2.5 mm2", "2.5 mm2"])
        solved = profile(laid, laid.circuits["Fan"], RULES)
        self.assertAlmostEqual(solved.total_drop_v, 12 * 4 * 7.60e-3 * (1 + 0.00393 * 30), places=6)
        self.assertEqual(solved.verdict.word, "pass")

    def test_a_hot_zone_asks_for_more_copper(self) -> None:
        """40 A for 1 m ask for a 50 A fuse: in 50 °C air √(75 ÷ 95), in 85 °C √(40 ÷ 95) of what ISO 10133 lists.

        From memory: 70 A of 6 mm² leave 62 A, 70 A leave 45 A and 100 A of 10 mm² 65 A.
        """
        cold = lay(design_current_a="40 A", supply_length_m="0.5 m", return_length_m="0.5 m")
        hot = lay(design_current_a="40 A", supply_length_m="0.5 m", return_length_m="0.5 m", zone="engine bay")
        self.assertEqual(self._size(cold), "6 mm2")
        self.assertEqual(self._size(hot), "10 mm2")

    def test_cranking_is_not_held_to_the_continuous_ampacity(self) -> None:
        """300 A for 2 m at nine tenths of 0.5 V allow 0.67 mΩ/m at 50 °C: 35 mm² (0.527 · 1.118), good for 200 A."""
        starter = lay(
            family="starting", state="cranking", design_current_a="300 A", target_kind="max_drop_v",
            target_value="0.5 V", supply_length_m="1 m", return_length_m="1 m",
        )  # fmt: skip
        self.assertEqual(self._size(starter), "35 mm2")

    def test_points_are_found_by_name_and_designations_go_on(self) -> None:
        both = lay(lay(), name="Lamp", device="Lamp")
        self.assertEqual(len(both.points), 6)  # Main stud and GND1 are shared
        self.assertEqual(sorted(each.designation for each in both.segments.values()), ["W1", "W2", "W3", "W4"])
        first, second = (stations(both, both.circuits[name], "supply")[0] for name in ("Fan", "Lamp"))
        self.assertEqual(first, second)

    def test_a_ground_circuit_has_only_the_way_back(self) -> None:
        ground = lay(family="ground", device="Engine block", source=None, supply_length_m=None)
        circuit = ground.circuits["Fan"]
        self.assertEqual((circuit.source_point, circuit.supply), (None, ()))
        self.assertEqual(len(circuit.return_path), 1)

    def test_every_other_family_needs_a_source(self) -> None:
        for family in set(FAMILIES) - {"ground"}:
            for missing in ("source", "supply_length_m"):
                with self.subTest(family), self.assertRaises(PathError) as caught:
                    lay(family=family, **{missing: None})
                self.assertEqual(caught.exception.field, (missing,))

    def test_source_and_ground_on_one_point_make_a_loop(self) -> None:
        with self.assertRaisesRegex(PathError, "loop"):
            lay(ground="Main stud")

    def test_an_impossible_target_is_laid_with_the_thickest_and_judged(self) -> None:
        laid = lay(design_current_a="500 A", supply_length_m="90 m", return_length_m="90 m")
        self.assertEqual(self._size(laid), "120 mm2")
        self.assertEqual(profile(laid, laid.circuits["Fan"], RULES).verdict.word, "fail")

    def test_what_was_typed_is_kept(self) -> None:
        laid = lay(supply_length_m="10 ft")
        self.assertEqual(laid.circuits["Fan"].typed["target_value"], "5 %")
        self.assertIn("10 ft", [segment.spec.typed.get("length_m") for segment in laid.segments.values()])

    def test_wrong_values_are_refused(self) -> None:
        for changes in [{"target_value": "5 V"}, {"design_current_a": "-1 A"}, {"zone": "moon"}, {"extra": 1}]:
            with self.subTest(changes), self.assertRaises(ValidationError):
                lay(**changes)

    def _size(self, vehicle: Vehicle) -> str:
        spec = next(iter(vehicle.segments.values())).spec
        return spec.size if isinstance(spec, Wire) else ""
