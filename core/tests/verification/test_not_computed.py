"""What is left out or taken over so as not to compute it: all comes to what computing it comes to."""

from unittest import TestCase, mock

from core.tests.support.demo import demo
from percorso.network.operating_point import Network
from percorso.states.pulling import removable
from percorso.vehicle.stages import vehicle_at
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.checks.build import list_checks
from percorso.verification.measured.preparations import Pull

JOBS = ("market-van", "school-minibus", "vineyard-tractor")


class NotComputed(TestCase):
    def test_situations_that_cannot_be_are_not_tried_and_the_list_is_the_same(self) -> None:
        for name in JOBS:
            network = Network(vehicle_at(demo(name), "planned"))
            found = list_checks(network, "planned", None, -10)
            with (
                mock.patch.object(Network, "cannot_pull_in", return_value=False),
                mock.patch("percorso.network.branches.Gate.is_held_open", return_value=False),
            ):
                self.assertEqual(found, list_checks(network, "planned", None, -10))

    def test_what_is_left_alone_is_taken_over_and_all_else_made_anew(self) -> None:
        for name in JOBS:
            vehicle = vehicle_at(demo(name), "planned")
            whole = Network(vehicle)
            for part in removable(vehicle):
                made = prepared(vehicle, [Pull(part=part.id)]) if part.spec.kind != "joint" else vehicle
                self.assertEqual(Network(made, like=whole).assembly, Network(made).assembly)
