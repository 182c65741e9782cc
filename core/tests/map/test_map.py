"""The map: everything on it once, nothing over another thing, rows that stay; read back from its drawing."""

from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from itertools import combinations, count, pairwise
from random import Random
from unittest import TestCase
from xml.etree import ElementTree

from core.tests.support.demo import demo
from core.tests.support.generated import generated_vehicle, large_vehicle
from core.tests.support.small import IDEAL_BATTERY, joint, small_vehicle, solved
from percorso.house_rules import HouseRules
from percorso.map.drawing import drawn
from percorso.map.layout import MapLayout, layout_of
from percorso.map.picture import picture_of
from percorso.network.operating_point import Network
from percorso.planning.templates import STARTERS, answered, lay_starter
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.model import Device, Point, Segment, Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC
from percorso.vehicle.stages import vehicle_at

SVG = "{http://www.w3.org/2000/svg}"
LETTER_PX = 6.1  # of 9.5 px at most, from memory: a capital M is wider, a figure narrower
WIRE = SEGMENT_SPEC.validate_python({"kind": "wire", "size": "1.5 mm2", "length_m": 1})
LAMP = {"kind": "resistive", "rated_v": 12, "rated_a": 1}
Box = tuple[float, float, float, float]
Line = tuple[tuple[float, float], tuple[float, float]]


def tangled(seed: int) -> Vehicle:
    """A vehicle at random with rings, bridges from side to side, parallel wires and loose ends added to it."""
    random, vehicle = Random(seed), generated_vehicle(seed, 8 + seed % 70)
    segments, points = dict(vehicle.segments), dict(vehicle.points)
    for number in range(seed % 7):
        ends = random.sample(list(vehicle.points), 2)
        if number % 3 == 2:
            ends[1] = f"loose{number}"
            points[ends[1]] = Point(ends[1], ends[1])
        segments[f"x{number}"] = Segment(f"x{number}", f"X{number}", *ends, WIRE)
    return replace(vehicle, segments=segments, points=points)


def with_one_more(vehicle: Vehicle, random: Random) -> Vehicle:
    """A lamp more, fed from one point over two wires and grounded at another."""
    plus, minus = (random.choice(list(vehicle.points)) for _ in range(2))
    added = {name: Segment(name, name, *ends, WIRE) for name, ends in (("n1", (plus, "n-p")), ("n2", ("n-p", "n-q")))}
    lamp = Device("nd", "E99", "One more", {"+": "n-q", "-": minus}, DEVICE_SPEC.validate_python(LAMP))
    points = {each: Point(each, each) for each in ("n-p", "n-q")}
    return replace(
        vehicle,
        points={**vehicle.points, **points},
        segments={**vehicle.segments, **added},
        devices={**vehicle.devices, "nd": lamp},
    )


def boxes(svg: ElementTree.Element) -> Iterator[tuple[str, Box]]:
    """What has to be read: labels, marks and devices, with the room each takes."""
    for group in svg.iter(f"{SVG}g"):
        name = group.get("data-segment") or group.get("data-device") or ""
        for rect in group.iter(f"{SVG}rect"):
            x, y, width, height = (float(rect.get(each) or 0) for each in ("x", "y", "width", "height"))
            yield name, (x, y, x + width, y + height)
        for text in group.iter(f"{SVG}text"):
            if "label" in (text.get("class") or ""):
                x, y, half = float(text.get("x") or 0), float(text.get("y") or 0), len(text.text or "") * LETTER_PX / 2
                yield f"label of {name}", (x - half, y - 8, x + half, y + 1)
        for path in group.iter(f"{SVG}path"):
            if path.get("transform"):
                x, y = map(float, (path.get("transform") or "")[10:-1].split(","))
                yield f"mark of {name}", (x - 14, y - 8, x + 14, y + 8)


def lines(layout: MapLayout, side: str) -> Iterator[tuple[str, Line]]:
    """Every straight line of the trees of a side, by the point where it branches off or ends."""
    for segment in layout.segments:
        if segment.side == side and segment.turn is None:
            row = segment.mark[1]
            yield segment.segment, ((segment.start[0], row), (segment.end[0], row))
    for point in layout.points:
        if point.side == side and point.top < point.bottom:
            yield point.point, ((point.x, point.top), (point.x, point.bottom))


def cross(one: Line, other: Line) -> bool:
    """Whether a level and an upright line go through each other."""
    for (start, end), (top, bottom) in ((one, other), (other, one)):
        is_level, is_upright = start[1] == end[1], top[0] == bottom[0]
        left, right = sorted((start[0], end[0]))
        if is_level and is_upright and left < top[0] < right and top[1] < start[1] < bottom[1]:
            return True
    return False


class Everything(TestCase):
    def test_is_on_it_once_and_nothing_over_another_thing(self) -> None:
        for seed in range(300):
            with self.subTest(seed):
                self._is_whole(tangled(seed))

    def test_so_it_is_of_vehicles_that_templates_laid(self) -> None:
        """Which lay as people wire, and not as chance does; in any order, some of them more than once."""
        for seed in range(12):
            numbers, vehicle = (f"n{each}" for each in count()), Vehicle(12, {}, {}, {})
            for starter in Random(seed).choices(list(STARTERS), k=2 + seed):
                laid = vehicle, answered(starter, {}), HouseRules(), partial(next, numbers)
                vehicle, _ = lay_starter(*laid, "metric")
            with self.subTest(seed):
                self._is_whole(vehicle)

    def _is_whole(self, vehicle: Vehicle) -> None:
        layout = layout_of(vehicle)
        self.assertEqual(sorted(each.segment for each in layout.segments), sorted(vehicle.segments))
        wanted = sorted((each.id, mark) for each in vehicle.devices.values() for mark in each.terminals)
        self.assertEqual(sorted((each.device, each.terminal) for each in layout.terminals), wanted)
        at = {each.point: (each.x, each.y) for each in layout.points}
        for each in layout.segments:
            segment = vehicle.segments[each.segment]
            self.assertEqual({each.start, each.end}, {at[segment.from_point], at[segment.to_point]})
        supply = list(lines(layout, "supply"))
        crossed = [(a, b) for (a, one), (b, other) in combinations(supply, 2) if cross(one, other)]
        self.assertEqual((crossed, layout.crossings["supply"]), ([], 0))
        self._is_legible(vehicle)

    def _is_legible(self, vehicle: Vehicle) -> None:
        svg = ElementTree.fromstring(drawn(picture_of(vehicle, solved(vehicle)), "as found, on"))
        found = sorted(boxes(svg), key=lambda each: each[1][1])
        for (name, box), (other, beside) in combinations(found, 2):
            if beside[1] >= box[3] or name.removeprefix("mark of ") == other.removeprefix("mark of "):
                continue
            self.assertTrue(beside[0] >= box[2] or box[0] >= beside[2] or box[1] >= beside[3], (name, other))

    def test_demo_jobs_and_a_large_vehicle_are_legible(self) -> None:
        for name in ("market-van", "vineyard-tractor", "school-minibus"):
            for stage in ("found", "planned"):
                self._is_legible(vehicle_at(demo(name), stage))
        self._is_legible(large_vehicle())

    def test_one_circuit_more_moves_no_row(self) -> None:
        for seed in range(100):
            vehicle = tangled(seed)
            more = layout_of(with_one_more(vehicle, Random(seed)))
            rows = [(each.device, each.terminal) for each in more.terminals if each.device != "nd"]
            with self.subTest(seed):
                self.assertEqual(rows, [(each.device, each.terminal) for each in layout_of(vehicle).terminals])

    def test_the_way_to_a_device_is_a_way(self) -> None:
        """Each segment on it ends where the next begins, from the battery's plus to the device and on to minus."""
        vehicle = vehicle_at(demo("school-minibus"), "found")
        ways = {(each.device, each.terminal): each.way for each in layout_of(vehicle).terminals}
        names = [vehicle.segments[each].designation for each in (*reversed(ways["y1", "+"]), *ways["y1", "-"])]
        self.assertEqual(" ".join(names), "W1 F7 W19 K7 W22 W23 B1 J1 W2")
        for way in ways.values():
            for one, two in pairwise(vehicle.segments[name] for name in way):
                self.assertTrue({one.from_point, one.to_point} & {two.from_point, two.to_point})

    def test_a_red_probe_goes_where_the_voltage_is_higher(self) -> None:
        """With the key on only the battery feeds: volts fall from plus to minus, but for millivolts between grounds."""
        for name in ("market-van", "vineyard-tractor", "school-minibus"):
            vehicle = vehicle_at(demo(name), "planned")
            solution = Network(vehicle).solve("on")
            for each in picture_of(vehicle, solution).segments:
                red, black = (solution.points[end].v for end in (each.plus_point, each.minus_point))
                if each.line.drawn_as in ("supply", "return") and red is not None and black is not None:
                    with self.subTest(name, segment=each.designation):
                        self.assertGreaterEqual(red, black - 0.002)


class Odd(TestCase):
    def _map(self, vehicle: Vehicle) -> MapLayout:
        layout = layout_of(vehicle)
        self.assertEqual(len(layout.segments), len(vehicle.segments))
        ElementTree.fromstring(drawn(picture_of(vehicle, solved(vehicle)), "as found, on"))
        return layout

    def test_what_a_job_can_be(self) -> None:
        battery = {"G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY)}
        many = {f"W{each}": ("hub", f"end{each}", joint(0.1)) for each in range(40)}
        ring = {f"W{each}": (f"p{each}", f"p{(each + 1) % 5}", joint(0.1)) for each in range(5)}
        for name, vehicle in (
            ("no devices", small_vehicle(ring, {})),
            ("no battery yet", small_vehicle(many, {"E1": ({"+": "end1", "-": "end2"}, LAMP)})),
            ("no ground", small_vehicle({"W1": ("plus", "a", joint(0.1))}, battery)),
            ("a ring", small_vehicle({**ring, "W9": ("plus", "p0", joint(0.1))}, battery)),
            ("forty wires at one point", small_vehicle({**many, "W99": ("plus", "hub", joint(0.1))}, battery)),
            ("an island", small_vehicle(ring, {**battery, "E1": ({"+": "i", "-": "j"}, LAMP)})),
            ("shorted", small_vehicle({"W1": ("plus", "minus", joint(0.1))}, battery)),
        ):
            with self.subTest(name):
                self._map(vehicle)

    def test_sources_that_are_known_and_not_wired_yet_feed_nothing(self) -> None:
        vehicle = vehicle_at(demo("vineyard-tractor"), "planned")
        for kind in ("battery", "alternator"):
            away = {
                each.id: replace(each, terminals={}) if each.spec.kind == kind else each
                for each in vehicle.devices.values()
            }
            with self.subTest(kind):
                rows = layout_of(replace(vehicle, devices=away)).terminals
                self.assertEqual({away[each.device].spec.kind for each in rows} & {kind}, set())

    def test_of_two_batteries_in_series_the_upper_feeds(self) -> None:
        """24 V: the link between the two is no ground and no feed, and hangs between their rows."""
        layout = self._map(
            small_vehicle(
                {"W1": ("middle-low", "middle-high", joint(0.001)), "W2": ("plus", "lamp", joint(0.1))},
                {
                    "G1": ({"+": "plus", "-": "middle-high"}, IDEAL_BATTERY),
                    "G2": ({"+": "middle-low", "-": "minus"}, IDEAL_BATTERY),
                    "E1": ({"+": "lamp", "-": "minus"}, LAMP),
                },
            )
        )
        sides = {each.point: each.side for each in layout.points}
        self.assertEqual((sides["plus"], sides["lamp"], sides["minus"]), ("supply", "supply", "return"))
        self.assertEqual((sides["middle-low"], sides["middle-high"]), ("between", "between"))

    def test_a_sneak_and_a_lamp_before_an_exciter_are_seen(self) -> None:
        layout = layout_of(vehicle_at(demo("school-minibus"), "found"))
        placed = {each.segment: each for each in layout.segments}
        self.assertIsNotNone(placed["w30"].turn)
        self.assertEqual(placed["f6"].bend, ((placed["f6"].start[0], placed["f6"].end[1]),))
        self.assertEqual(placed["w9"].side, "between")
        at = {(each.device, each.terminal): each.y for each in layout.terminals}
        self.assertLess(at["p1-led", "-"], at["g2", "D+"])

    def test_names_are_text(self) -> None:
        """What no form takes may be in a file of another hand: it is cut off, and never becomes markup."""
        vehicle = small_vehicle({"W1": ("plus", "a", joint(0.1))}, {"G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY)})
        evil = "<script>alert(1)</script>" * 5
        named = replace(vehicle, devices={"G1": replace(vehicle.devices["G1"], name=evil)})
        svg = drawn(picture_of(named, solved(named)), evil)
        self.assertNotIn("<script", svg)
        self.assertEqual(svg, drawn(picture_of(named, solved(named)), evil))
