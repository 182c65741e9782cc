"""What a starter finds in a job before it lays anything new: on the demo jobs, as a person would point it out."""

from itertools import count
from unittest import TestCase

from core.tests.support.demo import demo
from percorso.house_rules import HouseRules
from percorso.planning.templates.layout import KEY_FUSE_A, Layout
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Body, Fuse, Switch, Wire


def layout(job: str | None = None) -> Layout:
    numbers = count()
    return Layout(demo(job) if job else Vehicle(12, {}, {}), HouseRules(), lambda: f"new{next(numbers)}", "metric")


class WhatIsThere(TestCase):
    def test_feeds_are_taken_where_most_fuses_are(self) -> None:
        van = layout("market-van")
        self.assertEqual(van.vehicle.points[van.source()].name, "Main stud")
        empty = layout()
        source = empty.source()  # lays the battery first
        self.assertEqual(empty.vehicle.points[source].name, "B+ post")

    def test_a_ground_on_the_body_and_the_way_home(self) -> None:
        """The place farthest along the body metal, so that its whole way counts."""
        for job in ("market-van", "vineyard-tractor"):
            there = layout(job)
            point, way = there.ground()
            pieces = [there.vehicle.segments[each] for each in way]
            with self.subTest(job):
                self.assertIsNotNone(pieces[0].other_end(point))
                self.assertIsNotNone(pieces[-1].other_end(there.battery().terminals["-"]))
                self.assertTrue(any(isinstance(each.spec, Body) for each in pieces))
                self.assertTrue(all(each.origin == "existing" for each in pieces))
        made = layout()
        _, way = made.ground()
        strap = made.vehicle.segments[way[-1]].spec
        self.assertEqual(strap.size if isinstance(strap, Wire) else "", "25 mm2")

    def test_the_ignitions_output_and_its_start_contact(self) -> None:
        van = layout("market-van")
        output, way = van.ignition()
        last = van.vehicle.segments[way[-1]]
        self.assertIsInstance(last.spec, Switch)
        self.assertIsNotNone(last.other_end(output))
        self.assertEqual(len(van.vehicle.segments), len(demo("market-van").segments))
        new = layout()
        (_, on), (_, start) = new.ignition(), new.start_output()
        self.assertEqual(on[:-1], start[:-1])  # one key, one feed, one fuse
        fuse = new.vehicle.segments[on[0]].spec
        self.assertEqual(fuse.rating_a if isinstance(fuse, Fuse) else 0, KEY_FUSE_A)

    def test_a_way_does_not_lead_over_what_is_switched(self) -> None:
        van = layout("market-van")
        output, way = van.ignition()
        plus = van.battery().terminals["+"]
        self.assertIsNone(van.way(plus, output))
        self.assertEqual(van.way(plus, output, through=way[-1:]), way)

    def test_names_and_points_that_are_taken_are_numbered(self) -> None:
        van = layout("market-van")
        self.assertEqual(van.free_name("Cold box"), "Cold box 2")
        first, second = van.new_point("Tap"), van.new_point("Tap")
        self.assertEqual([van.vehicle.points[each].name for each in (first, second)], ["Tap", "Tap 2"])
        self.assertEqual(van.point("Tap"), first)
