"""Faults of the library: each is a change of the vehicle, has a cure in the plan and weighs what its place makes it."""

from unittest import TestCase

from core.tests.support.demo import demo
from percorso.errors import FaultError, PercorsoError
from percorso.faults.cures import cures_of
from percorso.faults.library import library
from percorso.faults.model import FAULTS, with_faults
from percorso.house_rules import HouseRules
from percorso.planning.apply import edited
from percorso.vehicle.stages import vehicle_at

JOBS = ("market-van", "vineyard-tractor", "school-minibus")


class Library(TestCase):
    def test_every_fault_is_a_change_of_the_vehicle(self) -> None:
        for name in JOBS:
            vehicle = vehicle_at(demo(name), "planned")
            ways = library(vehicle)
            for way in ways:
                for fault in way.faults[:: max(len(way.faults) - 1, 1)]:
                    self.assertIsNot(with_faults(vehicle, [fault]), vehicle)
            self.assertEqual({each.part for each in ways}, {*vehicle.segments, *vehicle.devices} - vehicle.opened)

    def test_every_cure_goes_into_the_plan_as_a_new_part_in_the_place_of_the_old_one(self) -> None:
        for name in JOBS:
            whole = demo(name)
            cures = [
                (way, cure)
                for way in library(vehicle_at(whole, "found"))
                for cure in cures_of(whole, way.part, way.fault)
                if cure.edits
            ]
            self.assertTrue(cures)
            for way, cure in {(way.part, cure.does): (way, cure) for way, cure in cures}.values():
                with self.subTest(name, part=way.part, does=cure.does):
                    mended = edited(whole, cure.edits, HouseRules(), lambda: "new-part")
                    planned = vehicle_at(mended, "planned")
                    self.assertNotIn(way.part, {*planned.segments, *planned.devices})
                    self.assertEqual(vehicle_at(mended, "found").circuits, vehicle_at(whole, "found").circuits)
                    self.assertEqual(planned.circuits.keys(), vehicle_at(whole, "planned").circuits.keys())

    def test_heat_movement_age_and_suspicion_weigh_more_and_say_so(self) -> None:
        vehicle = vehicle_at(demo("vineyard-tractor"), "found")
        plain = {(each.part, each.fault): each for each in library(vehicle)}
        suspected = {(each.part, each.fault): each for each in library(vehicle, ["w1"])}
        self.assertEqual(suspected["w1", "open"].weight, 5 * plain["w1", "open"].weight)
        self.assertEqual(suspected["w1", "open"].because[-1], "suspected")
        self.assertEqual(suspected["w2", "open"], plain["w2", "open"])

    def test_what_is_never_bad_like_that_is_refused(self) -> None:
        vehicle = vehicle_at(demo("vineyard-tractor"), "found")
        for fault, field in (
            ({"part": "w1", "fault": "blown"}, (0, "fault")),
            ({"part": "m1", "fault": "low"}, (0, "fault")),
            ({"part": "nothing", "fault": "open"}, (0, "part")),
            ({"part": "w1", "fault": "touching its neighbour"}, (0, "other")),
            ({"part": "g2", "fault": "two leads swapped", "other": "D+ X"}, (0, "other")),
        ):
            with self.subTest(fault), self.assertRaises(FaultError) as refused:
                with_faults(vehicle, FAULTS.validate_python(fault))
            self.assertEqual(refused.exception.field, field)
            self.assertIsInstance(refused.exception, PercorsoError)
