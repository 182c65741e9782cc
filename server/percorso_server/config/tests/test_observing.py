"""What the server tells of itself: a line for each request, and counts for the machine alone."""

import json
import logging

from percorso_server.workshop.tests.case import ShopCase


class Seen(ShopCase):
    def test_each_request_is_a_line_with_its_id_and_its_person_and_nothing_of_what_was_sent(self) -> None:
        logging.disable(logging.NOTSET)  # the runner keeps tests quiet
        self.addCleanup(logging.disable, logging.WARNING)
        with self.assertLogs("percorso.access", "INFO") as lines:
            answer = self.client.get("/api/jobs?search=somebodys+secret")
        told = json.loads(lines.records[-1].getMessage())
        self.assertEqual((told["method"], told["path"], told["status"]), ("GET", "/api/jobs", 200))
        self.assertEqual(told["request"], answer["X-Request-ID"])
        self.assertEqual(told["person"], int(self.client.session["_auth_user_id"]))
        self.assertNotIn("secret", lines.output[-1])

    def test_counts_are_told_on_the_machine_alone(self) -> None:
        self.client.get("/api/jobs")
        told = self.client.get("/metrics").content.decode()
        self.assertRegex(told, r'percorso_request_seconds_count\{.*route="api/jobs",status="200"\} [1-9]')
        self.assertEqual(self.client.get("/metrics", headers={"X-Forwarded-For": "203.0.113.1"}).status_code, 404)
        self.assertEqual(self.client.get("/metrics", REMOTE_ADDR="203.0.113.1").status_code, 404)
