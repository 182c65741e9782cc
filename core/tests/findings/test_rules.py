"""The register of rules: each finding says its rule, and the page that lists them all is the one in the docs."""

from unittest import TestCase

from core.tests.support.demo import DEMO, demo
from percorso.findings.rules import RULES, as_page
from percorso.house_rules import HouseRules
from percorso.study import Study
from percorso.vehicle.model import STAGES
from percorso.vehicle.states import STATES


class Register(TestCase):
    def test_whatever_is_noticed_of_a_demo_job_says_its_rule(self) -> None:
        said = set()
        for path in DEMO.glob("*.json"):
            study = Study(demo(path.stem), HouseRules())
            for stage in STAGES:
                of_states = (found for state in STATES for found in study.state_findings(state, stage, {}))
                said |= {(each.rule, each.title) for each in (*study.plan_findings(stage), *of_states)}
        self.assertGreater(len({rule for rule, _ in said}), 10)
        self.assertEqual([title for rule, title in said if rule not in RULES], [])

    def test_the_page_in_the_docs_is_current(self) -> None:
        self.assertEqual((DEMO.parent / "docs" / "findings.md").read_text(), as_page())
