"""What people type becomes the SI value they meant, or a clear refusal. Unit definitions: exact, international."""

from unittest import TestCase

from percorso.errors import QuantityError
from percorso.quantities import (
    CURRENT,
    LENGTH,
    POWER,
    RESISTANCE,
    TEMPERATURE,
    VOLTAGE,
    Kind,
    TypedSize,
    parse,
    parse_size,
    show,
)


class TypedQuantities(TestCase):
    def test_units_people_use_are_understood(self) -> None:
        cases: list[tuple[str, Kind, float]] = [
            ("30 ft", LENGTH, 9.144),
            ("9.1m", LENGTH, 9.1),
            ("360 in", LENGTH, 9.144),
            ("12 ft 6 in", LENGTH, 3.81),
            ("5' 6\"", LENGTH, 1.6764),
            ("450 mm", LENGTH, 0.45),
            ("0.65A", CURRENT, 0.65),
            ("650 mA", CURRENT, 0.65),
            (".65 amps", CURRENT, 0.65),
            ("470 ohm", RESISTANCE, 470),
            ("470Ω", RESISTANCE, 470),
            ("2 mΩ", RESISTANCE, 0.002),
            ("55 W", POWER, 55),
            ("13.8v", VOLTAGE, 13.8),
            ("120F", TEMPERATURE, 48.8889),
            ("20 °C", TEMPERATURE, 20),
            ("293.15 K", TEMPERATURE, 20),
        ]
        for text, kind, si in cases:
            with self.subTest(text):
                self.assertAlmostEqual(parse(text, kind), si, places=4)

    def test_sizes_people_use_are_understood(self) -> None:
        same = {
            ("4 AWG", "4ga", "AWG 4", "4 gauge"): TypedSize("awg", 4),
            ("2/0", "2/0 AWG", "2/0awg"): TypedSize("awg", -1),
            ("10 mm2", "10mm²", "10 sq mm"): TypedSize("metric", 10),
        }
        for texts, size in same.items():
            for text in texts:
                with self.subTest(text):
                    self.assertEqual(parse_size(text), size)

    def test_ambiguous_unknown_and_absurd_input_is_refused_with_a_hint(self) -> None:
        cases = [
            ("30", LENGTH, "no unit"),
            ("", LENGTH, "nothing"),
            ("thirty ft", LENGTH, "not a length"),
            ("30 furlongs", LENGTH, "not a unit"),
            ("1,5 m", LENGTH, "comma"),
            ("-3 m", LENGTH, "above 0"),
            ("0 m", LENGTH, "above 0"),
            ("1 km", LENGTH, "up to 200 m"),
            ("10000 A", CURRENT, "up to 3000 A"),
            ("5 MA", CURRENT, "milli or mega"),
            ("nan A", CURRENT, "not a current"),
            ("inf A", CURRENT, "not a current"),
            ("1e999 A", CURRENT, "up to"),
            ("20 V", CURRENT, "not a unit"),
            ("20 A" + " " * 3 + "x" * 100, CURRENT, "longer than"),
            ("٣ m", LENGTH, "not a length"),
        ]
        for text, kind, hint in cases:
            with self.subTest(text), self.assertRaisesRegex(QuantityError, hint):
                parse(text, kind)
        for text, hint in [("10", "AWG or mm²"), ("10 mm", "diameter"), ("big", "not a conductor size")]:
            with self.subTest(text), self.assertRaisesRegex(QuantityError, hint):
                parse_size(text)

    def test_written_back_as_people_do(self) -> None:
        for value, kind, text in [
            (0.2514, VOLTAGE, "251 mV"),
            (12.94, VOLTAGE, "12.9 V"),
            (9.144, LENGTH, "9.14 m"),
            (0.03, RESISTANCE, "30 mohm"),
            (500, CURRENT, "500 A"),
        ]:
            self.assertEqual(show(value, kind), text)
