"""The whole API fed with what its contract allows and what it does not: it never fails, and answers as it promised."""

import json
from random import Random
from typing import Any

from django.core.management import call_command
from django.db import transaction
from django.test import TestCase
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis import openapi
from schemathesis.core.result import Ok

from percorso_server.config.api import api
from percorso_server.jobs.models import Circuit, Device, Drive, Job, Point, Scenario, Segment
from percorso_server.workshop.models import Person

EXAMPLES = 12  # of each operation; the whole takes under a minute
EDITS = 120  # examples of lists of edits: there are many kinds of them
REAL: dict[str, Any] = {
    f"{model._meta.model_name}_id": model for model in (Job, Circuit, Segment, Point, Device, Scenario, Drive)
}


class Contract(TestCase):
    def setUp(self) -> None:
        call_command("load_demo")
        self.person = Person.objects.get(username="valbruna")
        self.real = {name: [str(each) for each in model.objects.values_list("pk", flat=True)[:5]]
                     for name, model in REAL.items()}  # fmt: skip

    def test_no_request_makes_it_fail_or_break_its_promise(self) -> None:
        schema = openapi.from_dict(json.loads(json.dumps(api.get_openapi_schema())))
        operations: list[Any] = [each.ok() for each in schema.get_all_operations() if isinstance(each, Ok)]
        self.assertGreater(len(operations), 30)
        for operation in operations:
            with self.subTest(operation.label):
                self._hold(operation)

    def test_an_operation_has_a_name_of_its_own(self) -> None:
        described = [each for path in api.get_openapi_schema()["paths"].values() for each in path.values()]
        names = [each["operationId"] for each in described]
        self.assertIn("trace", names)
        self.assertEqual(len(names), len(set(names)))

    def _hold(self, operation: Any) -> None:
        promised = operation.definition.raw["responses"]
        random = Random(operation.label)

        @given(case=operation.as_strategy())
        @settings(
            max_examples=EDITS if operation.path.endswith("/edits") else EXAMPLES,
            deadline=None,
            derandomize=True,
            database=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        def hold(case: Any) -> None:
            answer = self._answer(case, random)
            status = str(answer.status_code)
            self.assertLess(answer.status_code, 500, (case.formatted_path, case.query, case.body))
            self.assertIn(status, promised, (case.formatted_path, case.query, case.body, answer.content[:300]))
            kinds = promised[status].get("content", {answer.headers["Content-Type"]: {}})
            self.assertIn(answer.headers["Content-Type"].split(";")[0], [each.split(";")[0] for each in kinds])

        hold()

    def _answer(self, case: Any, random: Random) -> Any:
        """The answer to a request, at things that are there where there are any; nothing of it stays."""
        for name in case.path_parameters:
            if self.real.get(name) and random.random() < 0.8:
                case.path_parameters[name] = random.choice(self.real[name])
        body = b"" if not isinstance(case.body, dict | list | str | int | float) else json.dumps(case.body).encode()
        with transaction.atomic():
            self.client.force_login(self.person)
            answer = self.client.generic(
                case.method,
                case.formatted_path,
                body,
                content_type="application/json",
                query_params={name: _plain(value) for name, value in (case.query or {}).items()},
                raise_request_exception=False,
            )
            transaction.set_rollback(True)
        return answer


def _plain(value: Any) -> Any:
    return value if isinstance(value, list) else str(value)
