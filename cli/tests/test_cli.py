"""The command line as a person calls it: figures from common practice and handbooks, clear refusals."""

import json
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from io import StringIO
from pathlib import Path
from tempfile import NamedTemporaryFile, TemporaryDirectory
from typing import Any
from unittest import TestCase
from unittest.mock import patch

from click.testing import CliRunner

from core.tests.support.simulator import simulated_v
from percorso_cli.main import cli, main

PERCORSO = Path(sys.executable).with_name("percorso")
DEMO = Path(__file__).parents[2] / "demo"
MINIBUS, VAN = str(DEMO / "school-minibus.json"), str(DEMO / "market-van.json")


def run(*arguments: str) -> subprocess.CompletedProcess[str]:
    """The command as it is called, in this process: test_samples and test_wheel call it in its own."""
    out, err = StringIO(), StringIO()
    called = patch.object(sys, "argv", ["percorso", *arguments])
    with called, redirect_stdout(out), redirect_stderr(err), TestCase().assertRaises(SystemExit) as ended:
        main()
    return subprocess.CompletedProcess(arguments, int(ended.exception.code or 0), out.getvalue(), err.getvalue())


class CommandLine(TestCase):
    def test_drop(self) -> None:
        """Common practice: 20 A through 30 ft of 16 AWG loses 2.4 V, as handbooks have it, of copper at 20 °C.

        In 30 °C air 20 of the 25 A that bring it to 105 °C (ABYC E-11, from memory) warm it by 0.64 · 75 K to 78 °C or
        a little less, as a warm wire loses heat sooner: 2.4 V · (1 + 0.00393 · 58) = 2.95 V (IEC 60028).
        """
        asked = ("drop", "--size", "16 AWG", "--length", "30 ft", "--current", "20 A", "--json")
        handbook = json.loads(run(*asked, "--temperature", "20C").stdout)
        self.assertAlmostEqual(handbook["drop_v"], 2.4, places=1)
        self.assertAlmostEqual(handbook["power_w"], handbook["drop_v"] * 20)
        warm = json.loads(run(*asked, "--ambient", "30C").stdout)
        self.assertTrue(2.75 < warm["drop_v"] < 2.95, warm)
        self.assertAlmostEqual(warm["drop_v"], handbook["drop_v"] * (1 + 0.00393 * (warm["copper_c"] - 20)))

    def test_size_for_each_kind_of_target(self) -> None:
        """20 A through 30 ft from 13 V. Handbook mΩ/m: 12 AWG 5.211, 10 AWG 3.277, 8 AWG 2.061 (from memory)."""
        for target, size in [
            (("--max-drop", "0.5 V"), "8 AWG"),  # needs 2.73 mΩ/m
            (("--max-drop", "3%"), "8 AWG"),  # of 13 V: needs 2.13
            (("--max-drop", "3%", "--nominal", "12 V"), "6 AWG"),  # of 12 V: needs 1.97
            (("--min-at-load", "12 V"), "12 AWG"),  # needs 5.47 mΩ/m
        ]:
            asked = ("size", "--current", "20 A", "--length", "30 ft", "--supply", "13 V", *target, "--json")
            asked = (*asked, "--temperature", "20C")
            result = json.loads(run(*asked, "--school", "light").stdout)
            with self.subTest(target):
                self.assertEqual((result["size"], result["fuse_a"]), (size, 25))
                self.assertEqual(result["governed_by"], "voltage drop")
                refused = {tried["size"]: tried["reason"] for tried in result["candidates"]}
                self.assertIn("over by", refused["16 AWG"])

    def test_wrong_input_is_one_line_and_exit_code_two(self) -> None:
        drop = ["drop", "--size", "16 AWG", "--length", "30 ft", "--current", "20 A"]
        for option, value, hint in [
            ("--size", "10", "AWG or mm²"),
            ("--size", "47 AWG", "24 AWG up to 4/0"),
            ("--length", "30", "no unit"),
            ("--current", "-20 A", "above 0"),
            ("--temperature", "hot", '"20C"'),
        ]:
            result = run(*drop, option, value)
            with self.subTest(value):
                self.assertEqual((result.returncode, result.stdout), (2, ""))
                self.assertEqual(len(result.stderr.strip().splitlines()), 1)
                self.assertIn(option, result.stderr)
                self.assertIn(hint, result.stderr)
        neither = run("size", "--current", "20 A", "--length", "30 ft", "--supply", "13 V")
        self.assertEqual(neither.returncode, 2)
        self.assertIn("--max-drop", neither.stderr)


class HandbookOnTheCommandLine(TestCase):
    """Every listed size through the command itself, called in one process."""

    def test_solid_copper_within_half_a_percent(self) -> None:
        """NBS Handbook 100 (1966), Ω/km at 20 °C, from memory."""
        handbook = {
            "18 AWG": 20.95, "16 AWG": 13.17, "14 AWG": 8.286, "12 AWG": 5.211, "10 AWG": 3.277, "8 AWG": 2.061,
            "6 AWG": 1.296, "4 AWG": 0.8152, "2 AWG": 0.5128, "1 AWG": 0.4066, "1/0": 0.3224, "2/0": 0.2557,
            "3/0": 0.2028, "4/0": 0.1608,
        }  # fmt: skip
        for size, ohm_per_km in handbook.items():
            found = self._drop("--size", size, "--length", "100 m", "--current", "1 A")
            with self.subTest(size):
                self.assertLess(abs(found["resistance_ohm"] / (ohm_per_km / 10) - 1), 0.005)

    def test_metric_tables_and_temperature(self) -> None:
        """ISO 6722-1 and IEC 60228, from memory; IEC 60028: 0.393 %/K at 20 °C."""
        common = ("--size", "10mm²", "--length", "10 m", "--current", "10 A")
        cool = (*common, "--temperature", "20C")
        self.assertAlmostEqual(self._drop(*cool)["drop_v"], 0.182)
        self.assertAlmostEqual(self._drop(*cool, "--metric-standard", "iec-60228")["drop_v"], 0.191)
        self.assertAlmostEqual(self._drop(*common, "--temperature", "120C")["drop_v"], 0.182 * 1.393)

    def test_text_answers_and_what_stands_in_the_way(self) -> None:
        asked = ("size", "--supply", "13 V", "--max-drop", "0.1 V", "--length", "100 m")
        self.assertIn("allow more drop, shorten the path or split", self._run(*asked, "--current", "100 A"))
        self.assertIn("take insulation for more heat", self._run(*asked, "--current", "500 A"))
        soft = self._run(*asked[:-1], "1 m", "--current", "5 A", "--ambient", "90C", "--insulation", "PVC")
        self.assertIn("good for 80 °C and lies in 90 °C", soft)
        sae = ("--size", "20 AWG", "--length", "1 m", "--current", "1 A", "--gauge", "sae")
        self.assertIn("0.508 mm² of copper", self._run("drop", *sae))
        melts = self._run("drop", "--size", "16 AWG", "--length", "30 ft", "--current", "60 A")
        self.assertIn("more than its insulation is good for (105 °C)", melts)

    def _drop(self, *arguments: str) -> dict[str, float]:
        return json.loads(self._run("drop", *arguments, "--json"))

    def _run(self, *arguments: str) -> str:
        result = CliRunner().invoke(cli, arguments)
        self.assertEqual(result.exit_code, 0, result.output)
        return result.output


class JobsOnTheCommandLine(TestCase):
    def test_solve_and_netlist_agree_through_the_simulator(self) -> None:
        """Every point within 1 mV of ngspice run on the netlist that was printed."""
        asked = (VAN, "--state", "road", "--as", "planned", "--input", "work_lamps=on")
        result = json.loads(run("solve", *asked, "--json").stdout)
        self.assertLessEqual({"state", "points", "segments", "devices", "findings"}, result.keys())
        simulated = simulated_v(run("netlist", *asked).stdout)
        for point, found in result["points"].items():
            if not found["floating"]:
                self.assertAlmostEqual(found["v"], simulated[point], delta=1e-3)
        wire = result["segments"]["w9"]
        self.assertAlmostEqual(wire["power_w"], wire["current_a"] * wire["drop_v"])
        self.assertTrue(result["devices"]["e1"]["on"])

    def test_inputs_and_stages_change_what_is_solved(self) -> None:
        dry = json.loads(
            run("solve", VAN, "--state", "idle", "--as", "found", "--input", "oil_pressure=off", "--json").stdout
        )
        self.assertIn("Fuel pump is off.", " ".join(each["title"] for each in dry["findings"]))
        said = run("solve", MINIBUS, "--state", "idle", "--as", "planned").stdout
        self.assertIn("M3 Heater pump: on", said)
        self.assertIn("Alternator: on", said)

    def test_what_is_done_to_the_metal_is_solved_and_gone(self) -> None:
        """A fuse out kills its load; a jumper in its place brings it back; what cannot be done is one line."""
        for done, runs in ((), True), (("pull F6",), False), (("pull F6", "bridge main f6"), True):
            asked = [part for each in done for part in ("--with", each)]
            said = run("solve", MINIBUS, "--state", "idle", "--json", *asked)
            with self.subTest(done):
                self.assertEqual(json.loads(said.stdout)["devices"]["m3"]["on"], runs)
        for wrong, hint in (("pull W3", "W3 is a wire"), ("pull F99", "no part"), ("dismantle K1", "pull F3")):
            refused = run("solve", MINIBUS, "--state", "idle", "--with", wrong)
            with self.subTest(wrong):
                self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (2, 1))
                self.assertIn(hint, refused.stderr)

    def test_states_are_proved_and_pulled_and_their_json_is_a_contract(self) -> None:
        found = json.loads(run("states", MINIBUS, "--stage", "found", "--json").stdout)
        self.assertEqual((found["situations"], len(found["matrix"])), (88, 16 * 6))
        cell = next(each for each in found["matrix"] if (each["device"], each["state"]) == ("y1", "road"))
        self.assertEqual((cell["meant"], cell["does"], cell["inputs"]["heater"]), ("must not", "runs", "on"))
        worst = found["forbidden"][0]
        self.assertEqual((worst["what"], worst["device"]), ("runs and must not", "y1"))
        self.assertEqual(" ".join(worst["path"]), "g1-old w1 f6 w16 k6 w30 w22 y1 w23 b1 j1 w2")
        self.assertEqual((worst["situation"]["stage"], worst["situation"]["state"]), ("found", "road"))
        self.assertEqual(json.loads(run("states", MINIBUS, "--json").stdout)["forbidden"], [])
        pulled = json.loads(run("pull", MINIBUS, "--part", "F3", "--json").stdout)
        dead = {each["state"] for each in pulled["rows"] if (each["device"], each["effect"]) == ("a1", "goes dead")}
        self.assertEqual((pulled["part"], dead), ("f3", {"on", "cranking", "idle", "road"}))
        drive = run("states", VAN, "--stage", "found", "--way", "off, on, cranking, idle, off").stdout
        self.assertIn("off: the engine runs on", drive)

    def test_tests_are_measured_as_they_are_asked_for(self) -> None:
        """What ``tests`` expects ``measure`` shows on sound metal; 0.3 Ω in W9 is five volts of the cold box."""
        asked = json.loads(run("tests", VAN, "--circuit", "Cold box feed", "--json").stdout)
        with TemporaryDirectory() as folder:
            listed, fault = Path(folder, "tests.json"), Path(folder, "fault.json")
            listed.write_text(json.dumps(asked))
            fault.write_text('{"part": "w9", "fault": "thin place", "ohm": 0.3}')
            sound, broken = (
                json.loads(run("measure", VAN, "--measurements", str(listed), *more, "--json").stdout)
                for more in ((), ("--fault", str(fault)))
            )
            fault.write_text('{"part": "w9", "fault": "melted"}')
            refused = run("measure", VAN, "--measurements", str(listed), "--fault", str(fault))
            listed.write_text('[{"quantity": "seen", "device": "M1", "situation": {"state": "cranking"}}]')
            said = run("measure", VAN, "--measurements", str(listed)).stdout
        for test, shown in zip(asked, sound, strict=True):
            expected = test["expected"]
            self.assertEqual(shown["outcome"], expected.get("outcome"), test["title"])
            self.assertAlmostEqual(shown["value"] or 0.0, expected.get("value", 0.0), places=6, msg=test["title"])
        place = next(number for number, each in enumerate(asked) if each["title"].endswith("supply drop"))
        self.assertAlmostEqual(broken[place]["value"] - sound[place]["value"], 5.1, delta=0.3)
        self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (2, 1))
        self.assertIn("0.fault", refused.stderr)
        self.assertEqual(said, "seen M1: works\n")
        self.assertIn('no circuit "Moon"', run("tests", VAN, "--circuit", "Moon").stderr)

    def test_states_asked_wrongly_are_refused_in_a_line(self) -> None:
        for asked, hint in (
            (("states", MINIBUS, "--way", "off, on, idle"), "idle does not come after on"),
            (("states", MINIBUS, "--way", "off, away"), '"away" is no state'),
            (("states", MINIBUS, "--input", "heater=hot"), "it can be off, on"),
            (("states", MINIBUS, "--with", "bridge main main"), "two different points"),
            (("pull", MINIBUS, "--part", "W3"), "nothing that is taken out; there is F1"),
        ):
            refused = run(*asked)
            with self.subTest(hint):
                self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (2, 1))
                self.assertIn(hint, refused.stderr)

    def test_what_never_settles_is_said_and_has_no_netlist(self) -> None:
        result = json.loads(run("solve", MINIBUS, "--state", "cranking", "--as", "found", "--json").stdout)
        self.assertIn("chatters", result["findings"][0]["title"])
        self.assertEqual(result["points"]["b-plus"], {"v": None, "floating": False})
        refused = run("netlist", MINIBUS, "--state", "cranking", "--as", "found")
        self.assertEqual((refused.returncode, refused.stdout), (2, ""))
        self.assertIn("no operating point", refused.stderr)

    def test_check_and_schema(self) -> None:
        self.assertIn("nothing wrong", run("check", VAN).stdout)
        self.assertEqual(json.loads(run("schema").stdout)["properties"]["version"]["const"], 3)
        with NamedTemporaryFile("w", suffix=".json") as broken:
            broken.write(Path(VAN).read_text().replace('"to_point": "main"', '"to_point": "nowhere"'))
            broken.flush()
            checked = run("check", broken.name)
            self.assertEqual((checked.returncode, checked.stdout), (2, ""))
            self.assertIn('$.segments[0].to_point: there is no point "nowhere"', checked.stderr)
            self.assertEqual(run("solve", broken.name, "--state", "on").returncode, 2)

    def test_wrong_inputs_are_one_line(self) -> None:
        for wrong, hint in (
            ("oil=on", "there is no input"),
            ("oil_pressure=wet", "it can be off, on"),
            ("oil", "oil_pressure=on"),
        ):
            refused = run("solve", VAN, "--state", "on", "--input", wrong)
            with self.subTest(wrong):
                self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (2, 1))
                self.assertIn(hint, refused.stderr)


class Sizing(TestCase):
    def test_a_whole_job_with_reasons_and_mass(self) -> None:
        """Every wire and fuse of the van gets its size, its governing rule and the reason; kg of copper add up."""
        result = json.loads(run("size", "--file", VAN, "--json").stdout)
        document = json.loads(Path(VAN).read_text())
        stays = [each for each in document["segments"] if each.get("fate", "kept") == "kept"]
        kinds = [each["spec"]["kind"] for each in stays]
        self.assertEqual((len(result["wires"]), len(result["fuses"])), (kinds.count("wire"), kinds.count("fuse")))
        self.assertAlmostEqual(sum(each["copper_kg"] for each in result["wires"]), result["copper_kg"])
        for each in result["wires"]:
            self.assertTrue(each["reason"] and each["governed_by"])
            sizes = [other["size"] for other in each["alternatives"]]
            self.assertIn(each["size"], sizes)
            self.assertLessEqual(len(sizes), 5)

    def test_one_circuit_and_one_that_is_not_there(self) -> None:
        result = json.loads(run("size", "--file", VAN, "--circuit", "blower", "--json").stdout)
        self.assertEqual([each["circuit_id"] for each in result["circuits"]], ["blower"])
        refused = run("size", "--file", VAN, "--circuit", "sauna")
        self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (2, 1))
        self.assertIn("blower", refused.stderr)

    def test_ampacity_by_table_and_model(self) -> None:
        """10 AWG, 105 °C, 30 °C air: 60 A by ABYC E-11 (from memory); at what it stands the copper has its limit."""
        asked = ("ampacity", "--size", "10 AWG", "--insulation", "105C", "--ambient", "30C")
        result = json.loads(run(*asked, "--json").stdout)
        self.assertEqual(result["table_a"], 60)
        self.assertTrue(60 <= result["model_a"] <= 75)
        self.assertAlmostEqual(list(result["temperature_c_at"].values())[-1], 105, places=3)
        bundled = json.loads(run(*asked, "--bundle", "5", "--json").stdout)
        self.assertAlmostEqual(bundled["model_a"], 0.6 * result["model_a"])  # ABYC E-11, from memory
        sae = json.loads(run(*asked, "--gauge", "sae", "--json").stdout)
        self.assertLess(sae["table_a"], 60)

    def test_a_wire_of_a_job_carries_what_ampacity_says_of_it(self) -> None:
        """W9 of the van: 10 AWG, thin-wall cross-linked, outside at 40 °C (common practice), alone."""
        wires = json.loads(run("size", "--file", VAN, "--json").stdout)["wires"]
        told = next(each["ampacity"] for each in wires if each["segment_id"] == "w9")
        asked = ("--size", "10 AWG", "--insulation", "thin-wall cross-linked", "--ambient", "40C", "--gauge", "sae")
        alone = json.loads(run("ampacity", *asked, "--json").stdout)
        self.assertEqual((told["table_a"], told["model_a"]), (alone["table_a"], alone["model_a"]))

    def test_findings_as_the_board_shows_them(self) -> None:
        """The van's story: its engine ground is over as planned, and its cold box starves while idling."""
        found = json.loads(run("findings", VAN, "--json").stdout)
        self.assertIn("Engine ground drops", found["plan"][0]["title"])
        self.assertIn("Cold box gets too little voltage.", [each["title"] for each in found["state"]])
        printed = run("findings", VAN, "--stage", "found", "--state", "off").stdout
        self.assertIn("error: Engine ground drops", printed)
        self.assertNotIn("Cold box gets too little voltage", printed)
        self.assertEqual(run("findings", VAN, "--input", "no_such=on").returncode, 2)

    def test_house_rules_from_a_file(self) -> None:
        with TemporaryDirectory() as folder:
            rules = Path(folder) / "rules.json"
            asked = ("size", "--current", "15 A", "--length", "3 m", "--supply", "13 V", "--max-drop", "0.6 V",
                     "--temperature", "20C")  # fmt: skip
            found = {}
            for school in ("light", "usual", "generous"):
                rules.write_text(json.dumps({"school": school}))
                found[school] = json.loads(run(*asked, "--rules", str(rules), "--json").stdout)["size"]
            self.assertEqual(found, {"light": "16 AWG", "usual": "14 AWG", "generous": "12 AWG"})
            for wrong, hint in [
                ('{"school": "lavish"}', "school"),
                ('{"targets": {"feed": {"kind": "max_drop_percent", "value": 70}}}', "targets.feed"),
                ('{"thinnest_wire": "11 mm2"}', "not a standard size"),
                ('{"sauna": 1}', "sauna"),
                ('{"coldest_morning_c": 60}', "coldest_morning_c"),
                ("no JSON", "is no JSON"),
            ]:
                rules.write_text(wrong)
                refused = run(*asked, "--rules", str(rules))
                with self.subTest(wrong):
                    self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (2, 1))
                    self.assertIn(hint, refused.stderr)

    def test_what_a_job_file_does_not_go_by_is_refused(self) -> None:
        for option, value in [("--ambient", "30C"), ("--current", "5 A"), ("--insulation", "PVC"), ("--bundle", "2"),
                              ("--temperature", "20C"), ("--gauge", "sae"), ("--metric-standard", "iec-60228"),
                              ("--max-drop", "3%"), ("--length", "3 m"), ("--nominal", "12 V")]:  # fmt: skip
            refused = run("size", "--file", VAN, option, value)
            with self.subTest(option):
                self.assertEqual(refused.returncode, 2)
                self.assertIn(f"{option} goes not with --file", refused.stderr)

    def test_ampacity_refuses_what_cannot_be(self) -> None:
        for options, hint in [
            (("--insulation", "foam"), "silicone"),
            (("--insulation", "105C", "--ambient", "120C"), "as hot as"),
            (("--insulation", "shielded"), "not in 4 AWG"),
            (("--bundle", "0"), "--bundle"),
        ]:
            refused = run("ampacity", "--size", "4 AWG", *options)
            with self.subTest(options):
                self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (2, 1))
                self.assertIn(hint, refused.stderr)


class Budget(TestCase):
    """The load budget of a job file: a balance by scenario, a drive, and refusals in one line."""

    def _json(self, *arguments: str) -> Any:
        return json.loads(run("budget", *arguments, "--json").stdout)

    def test_the_van_short_on_a_winter_night_at_idle(self) -> None:
        """45 A at 1 800 and 110 A at 6 000 rpm make 46.5 A at 1 900, of which 40 °C leave 1 − 0.0025 · 15: 44.8 A."""
        found = self._json(VAN, "--scenario", "idle-night-winter", "--scenario", "road-night-winter")
        idle, road = found["balances"]
        self.assertAlmostEqual(idle["capability_a"], (45 + 65 * 100 / 4200) * 0.9625)
        self.assertAlmostEqual(idle["margin_a"], idle["capability_a"] - sum(idle["by_priority"].values()))
        self.assertEqual((idle["verdict"], road["verdict"]), ("fail", "pass"))
        self.assertEqual(
            [each["scenario_id"] for each in found["endurances"]], ["idle-night-winter", "road-night-winter"]
        )
        box = next(each for each in found["loads"] if each["name"] == "Cold box")
        self.assertEqual((box["drawn_a"], box["measured"], box["circuit"]), (18, True, "cold-box-feed"))
        said = run("budget", VAN).stdout
        self.assertIn("idle, winter night: needs 52.6 A, makes 44.8 A at 1900 rpm, -7.8 A: SHORT", said)
        self.assertIn("cures it: a smaller pulley", said)
        self.assertNotIn("SHORT", run("budget", VAN, "--as", "found").stdout)

    def test_a_drive_keeps_its_books(self) -> None:
        driven = self._json(VAN, "--drive", "winter-round")["drive"]
        given, taken = driven["given_ah"] + driven["discharged_ah"], driven["taken_ah"] + driven["charged_ah"]
        self.assertAlmostEqual(given, taken, delta=0.001 * taken)
        self.assertEqual(driven["minute"][-1], 180)
        said = run("budget", VAN, "--drive", "winter-round").stdout
        self.assertIn("stand, idling, minute 25 to 120: 74.", said)
        self.assertIn("drives like this before it will not start: 4", said)
        self.assertIn("goes on so for ever", run("budget", MINIBUS, "--drive", "motorway").stdout)

    def test_what_is_not_there_is_one_line(self) -> None:
        document = json.loads(Path(VAN).read_text())
        document["devices"] = [each for each in document["devices"] if each["spec"]["kind"] != "battery"]
        document["circuits"] = [each for each in document["circuits"] if each.get("device_id") != "g1"]
        document["readings"] = [each for each in document["readings"] if each.get("circuit") != "charge-cable"]
        with NamedTemporaryFile("w", suffix=".json") as without:
            json.dump(document, without)
            without.flush()
            for arguments, hint in (
                ((VAN, "--scenario", "moon"), 'no scenario "moon"; write for example "idle-night-winter"'),
                ((VAN, "--drive", "moon"), "this job has town-winter-night"),
                ((without.name, "--drive", "motorway"), "needs a battery"),
                (("nowhere.json",), "nowhere.json"),
            ):
                refused = run("budget", *arguments)
                self.assertEqual((refused.returncode, len(refused.stderr.strip().splitlines())), (2, 1))
                self.assertIn(hint, refused.stderr)
            self.assertIn("SHORT", run("budget", without.name).stdout)
