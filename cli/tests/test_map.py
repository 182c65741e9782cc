"""The map from the command line: everything on it once, with the currents of the solve."""

import json
from unittest import TestCase

from cli.tests.test_cli import VAN, run


class MapOnTheCommandLine(TestCase):
    def test_the_map_has_everything_once_with_the_currents_of_solve(self) -> None:
        asked = (VAN, "--state", "idle", "--stage", "found")
        drawn, result = (json.loads(run(each, *asked, "--json").stdout) for each in ("map", "solve"))
        self.assertEqual(
            {each["segment"]: (each["current_a"], each["drop_v"]) for each in drawn["segments"]},
            {each: (found["current_a"], found["drop_v"]) for each, found in result["segments"].items()},
        )
        self.assertEqual(len(drawn["segments"]), len(result["segments"]))
        self.assertEqual(drawn["crossings"]["supply"], 0)
        svg = run("map", *asked, "--svg").stdout
        self.assertEqual(svg, run("map", *asked, "--svg").stdout)
        self.assertIn("<title>Mobile market van, as found, idle</title>", svg)
        self.assertEqual(run("map", VAN, "--svg", "--json").returncode, 2)
