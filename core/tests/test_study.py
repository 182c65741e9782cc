"""A study answers the same however little of it is asked for, and whatever it knew before."""

from dataclasses import replace
from random import Random
from unittest import TestCase

from core.tests.support.demo import demo
from percorso.changes.edits import ChangeSegment, Edit, SetFate
from percorso.circuits.glance import running
from percorso.circuits.voltage_profile import NotLive, Profile
from percorso.errors import PercorsoError
from percorso.findings.finding import concerns
from percorso.findings.plan import vehicle_findings
from percorso.house_rules import HouseRules
from percorso.planning.apply import edited
from percorso.study import Study
from percorso.vehicle.model import STAGES
from percorso.vehicle.segments import Wire

RULES = HouseRules()
DEMOS = ("market-van", "vineyard-tractor", "school-minibus")


class Studies(TestCase):
    def test_looked_at_around_a_circuit_a_plan_says_of_it_what_it_says_as_a_whole(self) -> None:
        for name in DEMOS:
            study = Study(demo(name), RULES)
            for stage in STAGES:
                plan = study.plan(stage)
                everywhere = list(vehicle_findings(plan))
                for circuit in plan.vehicle.circuits.values():
                    near = [each for each in vehicle_findings(plan.around(circuit)) if concerns(each, circuit)]
                    with self.subTest(name, stage=stage, circuit=circuit.name):
                        self.assertEqual(near, [each for each in everywhere if concerns(each, circuit)])

    def test_what_was_known_before_a_change_does_not_alter_what_is_said_after_it(self) -> None:
        random = Random(12)
        for name in DEMOS:
            before = Study(demo(name), RULES)
            before.plan("planned")
            for _ in range(25):
                piece = random.choice(list(before.vehicle.segments.values()))
                fate: Edit = SetFate(segment_id=piece.id, fate=random.choice(("kept", "removed", "stowed")))
                longer = {"length_m": round(random.uniform(0.2, 9), 2)} if isinstance(piece.spec, Wire) else None
                edit = ChangeSegment(segment_id=piece.id, change=longer) if longer else fate
                try:
                    vehicle = edited(before.vehicle, [edit], RULES, lambda: "new")
                except PercorsoError:
                    continue
                found = before.at("found")
                after, afresh = Study(vehicle, RULES, before), Study(vehicle, RULES)
                with self.subTest(name, edit=edit):
                    self.assertEqual(after.at("found") is found, afresh.at("found").vehicle == found.vehicle)
                    self.assertEqual(after.plan("planned").profiles, afresh.plan("planned").profiles)
                    self.assertEqual(after.plan_findings("planned"), afresh.plan_findings("planned"))
                before = random.choice((before, after, Study(vehicle, RULES, before)))  # the last was never asked

    def test_a_glance_loses_along_its_stations_what_the_profile_loses(self) -> None:
        study = Study(demo("market-van"), RULES)
        said = {}
        for circuit in study.vehicle.circuits.values():
            live = study.live(circuit.id, "idle", "planned", {})
            seen = running(live)
            if isinstance(seen, NotLive):
                said[circuit.name] = seen.reason
            elif isinstance(live, Profile):
                out, back = len(circuit.supply), len(circuit.return_path)
                self.assertEqual((len(seen.supply_lost_v), len(seen.return_lost_v)), (out and out + 1, back + 1))
                self.assertAlmostEqual(seen.return_lost_v[-1], live.total_drop_v, places=9)
        self.assertEqual(said["Starter feed"], "no current here")
        self.assertEqual(said["Charge cable"], "current flows in reverse")
        self.assertEqual(said["Sense lead"], "raised by other circuits’ current")

    def test_a_circuit_that_does_not_run_says_why(self) -> None:
        study = Study(demo("vineyard-tractor"), RULES)
        bypass = next(each.id for each in study.vehicle.circuits.values() if each.name == "Charge bypass")
        starter = next(each.id for each in study.vehicle.circuits.values() if each.family == "starting")
        for circuit, state, stage, says in (
            (bypass, "idle", "found", "this route is not there as found"),
            (starter, "off", "planned", "0 A flow"),
        ):
            live = study.live(circuit, state, stage, {})
            told = live.reason if isinstance(live, NotLive) else live.verdict.reason
            self.assertIn(says, told)
        self.assertGreater(study.designed(bypass, "found").total_drop_v, 0)
        found = study.difference(bypass, "idle", {})
        self.assertEqual((found and found.found_drop_v, bool(found and found.planned_drop_v)), (None, True))
        unfed = Study(replace(study.vehicle, devices={}, scenarios={}, drives={}, circuits={}), RULES)
        self.assertIsNone(unfed.difference(bypass, "idle", {}))
