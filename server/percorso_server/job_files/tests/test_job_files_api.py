"""Job files over HTTP: a preview before anything is written, all or nothing, and the same file back."""

import json
from pathlib import Path
from typing import Any
from uuid import uuid4

from percorso.files.job_file import JobFile, write_job_file
from percorso.files.reading import read_job_file
from percorso_server.jobs.models import Device, Job, Segment
from percorso_server.workshop.tests.case import ShopCase

DEMO = sorted((Path(__file__).parents[4] / "demo").glob("*.json"))


def without_photos(file: JobFile) -> JobFile:
    """A file as a shop exports it that does not have the pictures of its photos."""
    return file.model_copy(update={"photos": []})


class JobFiles(ShopCase):
    def send(self, path: str, text: bytes, status: int = 200) -> Any:
        answer = self.client.post(f"/api/job-files{path}", text, content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer.json()

    def exported(self, job: str) -> bytes:
        return self.client.get(f"/api/jobs/{job}/file").content

    def test_import_and_export_give_the_same_file(self) -> None:
        """Export, import the export, export again: identical; and the same as the core writes the original."""
        for path in DEMO:
            document = json.loads(path.read_bytes())
            case = document["cases"][0]
            case["mended"] = [{"part": document["segments"][0]["id"], "before": case["readings"]}]
            case["suspected"] = ["W1"]
            text = json.dumps(document).encode()
            before = Job.objects.count()
            preview = self.send("/preview", text)
            self.assertEqual(len(preview["circuits"]), len(json.loads(text)["circuits"]))
            self.assertEqual(Job.objects.count(), before)
            once = self.exported(self.send(f"?id={uuid4()}", text)["id"])
            twice = self.exported(self.send(f"?id={uuid4()}", once)["id"])
            self.assertEqual(once, twice, path.stem)
            self.assertEqual(once.decode(), write_job_file(without_photos(read_job_file(text))))

    def test_sent_twice_it_is_opened_once(self) -> None:
        job = str(uuid4())
        for _ in range(2):
            self.assertEqual(self.send(f"?id={job}", DEMO[0].read_bytes())["id"], job)
        self.assertEqual(Job.objects.count(), 1)

    def test_a_wrong_file_lists_its_problems_and_writes_nothing(self) -> None:
        broken = json.loads(DEMO[0].read_text())
        broken["segments"][0]["spec"]["length_m"] = -1
        broken["devices"][0]["terminals"]["+"] = "nowhere"
        for path in ("/preview", f"?id={uuid4()}"):
            refused = self.send(path, json.dumps(broken).encode(), 422)
            named = {problem["field"][0] for problem in refused["problems"]}
            self.assertEqual(named, {"$.segments[0].spec.length_m", "$.devices[0].terminals.+"})
        too_big = self.send("/preview", b" " * 6_000_000, 422)
        self.assertIn("larger than 5 MB", too_big["message"])
        self.assertEqual((Job.objects.count(), Segment.objects.count(), Device.objects.count()), (0, 0, 0))
