"""A vehicle that came in over HTTP: the questions, the map of what is usual, and a job on it."""

from uuid import uuid4

from percorso_server.jobs.models import Job
from percorso_server.workshop.tests.case import ShopCase

TRACTOR = {"kind": "tractor", "starting": "start relay", "has": "Horn, Work lamps"}


class CameIn(ShopCase):
    def test_from_answers_to_a_job_that_knows_what_it_only_assumes(self) -> None:
        asked = {each["key"]: each for each in self.call("GET", "/came-in/questions")}
        self.assertTrue(asked["has"]["several"])
        laid = self.call("POST", "/came-in/vehicle", {"answers": TRACTOR})
        self.assertEqual({row["name"] for row in laid["picture"]["rows"]} & {"Horn", "Blower"}, {"Horn"})
        self.assertEqual(laid["taken_as"], laid["taken_as"] | TRACTOR)
        self.assertEqual({each["known"] for each in laid["picture"]["segments"]}, {"assumed"})
        job = str(uuid4())
        body = {"id": job, "name": "Does not crank", "vehicle": "Quarry tractor", "answers": TRACTOR}
        for _ in range(2):
            self.assertEqual(self.call("POST", "/came-in/jobs", body)["id"], job)
        self.assertEqual(Job.objects.count(), 1)
        board = self.call("GET", f"/jobs/{job}?stage=found")
        self.assertEqual(len(board["segments"]), laid["segments"])
        wire = next(each for each in board["segments"] if each["designation"] == "W1")
        self.edit(job, {"do": "change segment", "segment_id": wire["id"], "known": "seen"}, seen={wire["id"]: 1})
        self.assertEqual(self._known(job, wire["id"]), "seen")
        self.call("POST", f"/jobs/{job}/undo")
        self.assertEqual(self._known(job, wire["id"]), "assumed")

    def _known(self, job: str, segment: str) -> str:
        drawn = self.call("GET", f"/jobs/{job}/map?stage=found")["segments"]
        known: str = next(each["known"] for each in drawn if each["id"] == segment)
        return known

    def test_what_is_not_asked_is_refused_and_nothing_is_written(self) -> None:
        for answers, says in (({"colour": "red"}, "is not asked"), ({"kind": "tank"}, "is no answer")):
            body = {"name": "x", "vehicle": "y", "answers": answers}
            self.assertIn(says, self.call("POST", "/came-in/jobs", body, status=422)["message"])
        self.assertEqual(Job.objects.count(), 0)
