"""What the trade fits: the usual cases laid in each school and series, and more never laid thinner."""

from collections.abc import Mapping
from itertools import count, pairwise
from typing import NamedTuple
from unittest import TestCase

from percorso.components.conductors import Series, find_size
from percorso.errors import PercorsoError
from percorso.house_rules import HouseRules, School
from percorso.planning.templates import STARTERS, answered, lay_starter
from percorso.sizing.search import recommend
from percorso.vehicle.form_fields import form_fields
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Fuse, Wire
from percorso.vehicle.stages import vehicle_at


class Row(NamedTuple):
    """A route of a starter: of which circuit which wires, by their places among its wires, may be how thick, and its
    first fuse (A). Common practice, from memory.
    """

    starter: str
    answers: Mapping[str, str]
    circuit: str
    wires: tuple[int, ...]
    metric: tuple[str, str]
    awg: tuple[str, str]
    fuse_a: tuple[float, float] = (0, 1000)


def over_a_relay(
    kind: str, amps: int, length: str, metric: tuple[str, str], awg: tuple[str, str], *fuse_a: float
) -> Row:
    answers = {"name": "Fan", "kind": kind, "amps": f"{amps} A", "length_m": length}
    return Row("relay-fed-device", answers, "Fan feed", (0, 1, 2), metric, awg, (fuse_a[0], fuse_a[-1]))


def charge(amps: int, length: str, metric: tuple[str, str], awg: tuple[str, str], *fuse_a: float) -> Row:
    answers = {"output_a": f"{amps} A", "length_m": length}
    return Row("charge-cable", answers, "Charge cable", (0, 1), metric, awg, (fuse_a[0], fuse_a[-1]))


def crank(amps: int, length: str, metric: tuple[str, str], awg: tuple[str, str]) -> Row:
    answers = {"cranking_a": f"{amps} A", "plus_m": length}
    return Row("starter-cables", answers, "Starter cables", (0,), metric, awg)


MODULE = {"amps": "5 A", "length_m": "2 m"}
BUTTON = {"way": "push button", "coil_a": "15 A", "button_m": "2 m", "starter_m": "2.5 m"}
TRIGGER = (("2.5", "6"), ("14", "10"))
ROWS = (
    charge(55, "2 m", ("10", "16"), ("8", "6"), 60, 80),
    charge(75, "2.5 m", ("16", "25"), ("6", "4"), 80, 100),
    charge(90, "2.5 m", ("16", "25"), ("6", "4"), 100, 125),
    charge(130, "2.5 m", ("25", "50"), ("4", "1"), 150, 175),
    charge(200, "2 m", ("50", "70"), ("1/0", "2/0"), 225, 250),
    crank(100, "1 m", ("16", "25"), ("6", "4")),
    crank(150, "1.2 m", ("25", "35"), ("4", "2")),
    crank(200, "1.5 m", ("25", "50"), ("4", "1")),
    crank(180, "5 m", ("50", "70"), ("1/0", "2/0")),
    Row("start-trigger", {"coil_a": "8 A"}, "Start trigger", (1, 2), *TRIGGER, (15, 30)),
    Row("start-trigger", {"coil_a": "15 A"}, "Start trigger", (1, 2), *TRIGGER, (15, 30)),
    Row("start-trigger", BUTTON, "Start trigger", (0, 1), *TRIGGER, (20, 30)),
    Row("relay-fed-device", {}, "Fan trigger", (0,), *TRIGGER, (20, 40)),  # the feed of the key
    Row("relay-fed-device", {}, "Fan trigger", (1, 2), ("0.5", "1"), ("20", "18")),
    Row("exciter-lead", {}, "Exciter lead", (1,), ("0.75", "1.5"), ("18", "16")),
    Row("charge-cable", {}, "Sense lead", (0,), ("0.75", "1.5"), ("18", "16"), (3, 10)),
    Row("ignition-feed", {}, "Ignition coil feed", (0, 1, 2), ("1.5", "4"), ("16", "12"), (15, 20)),
    Row("module-feed", MODULE, "Control module switched supply", (1, 2), ("1", "2.5"), ("18", "14")),
    Row("module-feed", MODULE, "Control module permanent supply", (0,), ("0.75", "1.5"), ("18", "16"), (3, 10)),
    over_a_relay("pump", 6, "3.5 m", ("1.5", "6"), ("16", "10"), 10, 15),
    over_a_relay("motor", 8, "4 m", ("1.5", "2.5"), ("16", "14"), 10, 15),
    over_a_relay("motor", 15, "3 m", ("2.5", "4"), ("14", "12"), 20, 25),
    over_a_relay("motor", 25, "2 m", ("4", "6"), ("12", "10"), 30, 40),
    over_a_relay("motor", 35, "2 m", ("6", "10"), ("10", "8"), 40, 50),
    over_a_relay("resistive", 20, "4 m", ("4", "6"), ("12", "10"), 25, 30),
    over_a_relay("filament lamp", 10, "5 m", ("1.5", "2.5"), ("16", "14"), 15),
)
METRIC = ("0.35", "0.5", "0.75", "1", "1.5", "2.5", "4", "6", "10", "16", "25", "35", "50", "70", "95")
AWG = ("22", "20", "18", "16", "14", "12", "10", "8", "6", "4", "2", "1", "1/0", "2/0", "3/0")
ONE_MORE: Mapping[School, tuple[int, int]] = {"light": (-1, 0), "usual": (0, 0), "generous": (0, 1)}
CURRENTS = ("3 A", "14 A", "33 A", "90 A", "190 A")
LENGTHS = ("0.3 m", "1 m", "3.5 m", "8 m")


def laid(
    starter: str, answers: Mapping[str, str], rules: HouseRules, series: Series, nominal_v: float = 12.0
) -> Vehicle:
    numbers = count()
    made = answered(starter, answers)
    return lay_starter(Vehicle(nominal_v, {}, {}), made, rules, lambda: f"id-{next(numbers)}", series)[0]


class WhatTheTradeFits(TestCase):
    def test_every_row_in_every_school_and_series(self) -> None:
        for school in ONE_MORE:
            for row in ROWS:
                self._check(row, school, "metric", row.metric, METRIC, "mm2")
                self._check(row, school, "awg", row.awg, AWG, "AWG")

    def _check(
        self, row: Row, school: School, series: Series, ends: tuple[str, str], sizes: tuple[str, ...], unit: str
    ) -> None:
        under, over = ONE_MORE[school]
        low, high = sizes.index(ends[0]) + under, sizes.index(ends[1]) + over
        least, most = (find_size(f"{sizes[each]} {unit}").area_mm2 for each in (low, high))
        vehicle = laid(row.starter, row.answers, HouseRules(school=school), series)
        circuit = next(each for each in vehicle.circuits.values() if each.name == row.circuit)
        path = [vehicle.segments[each].spec for each in circuit.whole_path]
        wires = [each.size for each in path if isinstance(each, Wire)]
        for place in row.wires:
            self.assertTrue(least <= find_size(wires[place]).area_mm2 <= most, (school, series, row, wires))
        fuses = [each.rating_a for each in path if isinstance(each, Fuse)]
        lowest, largest = row.fuse_a
        self.assertTrue(all(lowest <= each <= largest for each in fuses[:1]), (school, series, row, fuses))

    def test_more_current_or_length_never_lays_a_thinner_wire_or_a_smaller_fuse(self) -> None:
        for starter, kind in STARTERS.items():
            for field in form_fields(kind):
                asked = {"current": CURRENTS, "length": LENGTHS}.get(field.quantity or "", ())
                for series in ("metric", "awg"):
                    found = list(self._each(starter, field.name, asked, series))
                    for before, after in pairwise(found):
                        thinner = {name for name in before if after.get(name, before[name]) < before[name] - 1e-9}
                        self.assertEqual(thinner, set(), (starter, field.name, series, before, after))

    def _each(self, starter: str, key: str, asked: tuple[str, ...], series: Series) -> list[dict[str, float]]:
        found = []
        for each in asked:
            try:
                vehicle = laid(starter, {key: each}, HouseRules(), series)
            except PercorsoError:  # no fuse is made for so much
                break
            found.append(
                {
                    piece.designation: find_size(piece.spec.size).area_mm2
                    if isinstance(piece.spec, Wire)
                    else piece.spec.rating_a
                    for piece in vehicle.segments.values()
                    if isinstance(piece.spec, Wire | Fuse)
                }
            )
        return found

    def test_sizing_the_job_says_what_laying_it_said(self) -> None:
        for starter in STARTERS:
            for school in ONE_MORE:
                rules = HouseRules(school=school)
                vehicle = laid(starter, {}, rules, "metric")
                again = recommend(vehicle_at(vehicle, "planned"), rules)
                self.assertEqual(again.changes, {}, (starter, school))
