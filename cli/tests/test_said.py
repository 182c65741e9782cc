"""What every command says as text, for people: each ends, and names what it is about."""

import json
from collections.abc import Sequence
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import TestCase

from cli.tests.test_cli import DEMO, MINIBUS, VAN, run
from percorso_cli.main import NAMES

TRACTOR = str(DEMO / "vineyard-tractor.json")
MOST_CHARACTERS = 300_000
RUN = ("--length", "9 m", "--supply", "13 V")
BLOWN = {"part": "f10", "fault": "blown"}


class Text(TestCase):
    def _said(self, *arguments: str) -> str:
        done = run(*arguments)
        self.assertEqual((done.returncode, done.stderr), (0, ""), arguments)
        self.assertLess(len(done.stdout), MOST_CHARACTERS, arguments)
        return done.stdout

    def test_every_command(self) -> None:
        asked: Sequence[tuple[str, tuple[str, ...]]] = (
            ("of copper at 60 °C", ("drop", "--size", "16 AWG", "--length", "30 ft", "--current", "20 A")),
            ("carries 20 A with margin", ("size", *RUN, "--current", "20 A", "--max-drop", "0.5 V")),
            ("no stocked size does it", ("size", *RUN, "--current", "900 A", "--max-drop", "0.01 V")),
            ("(stays), governed by", ("size", "--file", VAN)),
            ("amps=15 A: It draws", ("lay", "--kinds")),
            ("by table", ("ampacity", "--size", "10 AWG", "--insulation", "105C")),
            ("nothing wrong with the file", ("check", VAN)),
            ("error: Engine ground drops", ("findings", VAN)),
            ("caution: W6", ("findings", MINIBUS)),
            ("All 88 situations tried", ("states", MINIBUS, "--stage", "found")),
            ("Nothing forbidden can happen", ("states", MINIBUS)),
            ("drops out", ("states", VAN, "--as", "found", "--way", "off, on, cranking, idle, off")),
            ("stays on through", ("pull", MINIBUS, "--stage", "found", "--part", "K6")),
            ("supply drop: 0.558 to 0.753 V", ("tests", VAN, "--circuit", "Cold box feed")),
            ("under load:", ("tests", TRACTOR, "--stage", "found")),
            ("W8: open (weight", ("faults", TRACTOR)),
            ("limited by the battery", ("cold", TRACTOR)),
            ("chatters", ("solve", MINIBUS, "--state", "cranking", "--as", "found")),
            ("SHORT", ("budget", VAN)),
            ("goes on so for ever", ("budget", MINIBUS, "--drive", "motorway")),
            ("plus W1 F7 W19 K7 W22 [+ Y1 Lift valve -] W23 B1 J1 W2 minus", ("map", MINIBUS, "--stage", "found")),
            ("* Percorso, state road", ("netlist", VAN, "--state", "road", "--stage", "found")),
            ("next: ", ("trace", TRACTOR, "--symptom", "does nothing when cranked")),
            ("| ", ("rules",)),
            ("| ", ("tables",)),
            ("percorso-job", ("schema",)),
            ("Starter 50", ("vehicle",)),
        )  # fmt: skip
        for wanted, arguments in asked:
            with self.subTest(arguments[0]):
                self.assertIn(wanted, self._said(*arguments))
        self.assertEqual({each[0] for _, each in asked} | {"measure"}, set(NAMES))

    def test_lay_lays_on_nothing_and_on_a_job_and_says_what_cannot_be(self) -> None:
        with TemporaryDirectory() as folder:
            laid, more = Path(folder, "laid.json"), Path(folder, "more.json")
            laid.write_text(self._said("lay", "charge-cable", "--answer", "output_a=90 A", "--series", "awg"))
            more.write_text(self._said("lay", "relay-fed-device", "--on", str(laid), "--school", "light"))
            said = self._said("size", "--file", str(laid), "--stage", "planned")
            self.assertIn("nothing wrong with the file", self._said("check", str(more)))
        self.assertIn("W1: 4 AWG (stays)", said)  # a 90 A alternator 2.5 m away: 6 to 4 AWG, common practice
        for wanted, arguments in (
            ("length_m: length must be above 0", ("relay-fed-device", "--answer", "length_m=0 m")),
            ("length_m: length must be above 0 up to 200 m", ("relay-fed-device", "--answer", "length_m=300 m")),
            ("this starter asks for name, kind, amps", ("relay-fed-device", "--answer", "colour=red")),
            ("amps: no standard fuse does both", ("relay-fed-device", "--answer", "amps=300 A")),
            ("'light', 'usual', 'generous'", ("relay-fed-device", "--school", "bold")),
            ("there is charge-cable", ("spoiler",)),
            ("is no answer", ("relay-fed-device", "--answer", "amps")),
        ):
            with self.subTest(arguments):
                done = run("lay", *arguments)
                self.assertEqual((done.returncode, done.stdout), (2, ""))
                self.assertIn(wanted, done.stderr)

    def test_trace_says_what_is_found_and_ends(self) -> None:
        """Two faults, measured and traced in turns with what trace itself asks for: both named, with their cures."""
        idle = {"stage": "planned", "state": "idle"}
        seen = [{"quantity": "seen", "device": each, "situation": idle} for each in ("m2", "m3")]
        points = [{"quantity": "voltage", "red_point": each, "black_point": "b-minus", "situation": idle}
                  for each in ("cold-plus", "k5in", "main")]  # fmt: skip
        known = self._measured(VAN, [*seen, *points], {"part": "w9", "fault": "open", "weight": 1.0}, BLOWN)
        self.assertIn("two at once: F10, W9", self._traced(VAN, known))
        for _ in range(6):
            found = json.loads(self._traced(VAN, known, "--json"))
            if found["stop"]:
                break
            known += self._measured(VAN, found["next"], {"part": "w9", "fault": "open"}, BLOWN)
        said = self._traced(VAN, known)
        self.assertEqual({found["stop"]["part"], found["stop"]["also"]["part"]}, {"w9", "f10"})
        for part in ("most likely W9: ", "most likely F10: "):
            self.assertEqual(said.count(part), 1, said)
        for part in ("replace the whole run", "g of copper", "cut free at both ends"):
            self.assertIn(part, said)

    def test_measure_says_what_is_read_and_seen(self) -> None:
        off = {"state": "off", "preparations": [{"do": "battery off"}]}
        asked = [
            {"quantity": "resistance", "red_point": "cold-plus", "black_point": "b-minus", "situation": off},
            {"quantity": "current", "segment": "w9", "situation": {"state": "idle"}},
            {"quantity": "seen", "device": "M1", "situation": {"state": "cranking"}},
        ]
        with TemporaryDirectory() as folder:
            listed = Path(folder, "asked.json")
            listed.write_text(json.dumps(asked))
            said = self._said("measure", VAN, "--measurements", str(listed))
        self.assertRegex(said, r"(?s)resistance cold-plus – b-minus: .*\ncurrent w9: [0-9.]+ A\nseen M1: works\n")

    def _traced(self, job: str, readings: Sequence[Any], *more: str) -> str:
        with TemporaryDirectory() as folder:
            listed = Path(folder, "readings.json")
            listed.write_text(json.dumps(readings))
            return self._said("trace", job, "--readings", str(listed), *more)

    def _measured(self, job: str, asked: Sequence[Any], *faults: Any) -> list[Any]:
        """What is read, with faults as ``percorso faults`` lists them."""
        with TemporaryDirectory() as folder:
            listed, hidden = Path(folder, "asked.json"), Path(folder, "faults.json")
            listed.write_text(json.dumps(asked))
            hidden.write_text(json.dumps(faults))
            read = self._said("measure", job, "--measurements", str(listed), "--fault", str(hidden), "--json")
        told: list[Any] = json.loads(read)
        return told
