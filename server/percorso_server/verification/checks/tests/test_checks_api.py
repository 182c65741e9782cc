"""Tests and photos over HTTP: what is asked for stands beside what was read before and after; photos are made anew."""

import tempfile
from io import BytesIO
from typing import Any
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from PIL import Image

from percorso_server.verification.models import Photo
from percorso_server.workshop.tests.case import ShopCase


class CheckList(ShopCase):
    def test_before_and_after_stand_side_by_side(self) -> None:
        job = self.new_job()
        battery = {"kind": "battery", "capacity_ah": 70, "cold_cranking_a": 600}
        circuit = self.new_circuit(job, device_kind="pump")
        posts = {"+": "Stud", "-": "B− post"}
        self.edit(job, {"do": "add device", "name": "Battery", "terminals": posts, "spec": battery})
        listed = self.call("GET", f"/jobs/{job}/tests?circuit_id={circuit}")["tests"]
        supply = next(each for each in listed if each["title"].endswith("supply drop"))
        self.assertEqual([supply["place"], len(supply["path"])], [["Stud", "Pump +"], 1])
        for stage, value in (("found", 0.4), ("planned", 0.2)):
            measured = supply["measurement"] | {"value": value}
            measured["situation"] = measured["situation"] | {"stage": stage}
            self.call("POST", f"/jobs/{job}/readings", {"measurement": measured, "circuit_id": circuit})
        again = self.call("GET", f"/jobs/{job}/tests?circuit_id={circuit}")
        now = next(each for each in again["tests"] if each["id"] == supply["id"])
        self.assertEqual([now["found"]["value"], now["planned"]["value"]], [0.4, 0.2])
        self.assertLess(again["minutes_left"], sum(each["minutes"] for each in again["tests"]))

    def test_between_any_two_points_of_the_state_that_is_looked_at(self) -> None:
        """What is logged of it there is shown with it the next time; a point of another job is not found."""
        job = self.new_job()
        battery = {"kind": "battery", "capacity_ah": 70, "cold_cranking_a": 600}
        points = self.view(self.new_circuit(job, device_kind="pump"))["supply_stations"]
        posts = {"+": "Stud", "-": "B− post"}
        self.edit(job, {"do": "add device", "name": "Battery", "terminals": posts, "spec": battery})
        where = f"/jobs/{job}/tests/between?red_point={points[0]}&black_point={{}}&state=on"
        asked = self.call("GET", where.format(points[-1]))
        self.assertEqual((asked["place"], len(asked["path"])), (["Stud", "Pump +"], 1))
        self.assertEqual(asked["measurement"]["situation"]["state"], "on")
        low, high = asked["expected"]["low"], asked["expected"]["high"]
        drop_v = self.call("GET", f"/jobs/{job}?state=on")["segments"][0]["result"]["drop_v"]
        self.assertTrue(low <= drop_v <= high, (low, drop_v, high))
        self.call("POST", f"/jobs/{job}/readings", {"measurement": asked["measurement"] | {"value": 0.3}})
        self.assertEqual(self.call("GET", where.format(points[-1]))["planned"]["value"], 0.3)
        for wrong in (points[0], str(uuid4())):
            refused = self.call("GET", where.format(wrong), status=422)
            self.assertEqual(refused["problems"][0]["field"][-1], "black_point")


@override_settings(MEDIA_ROOT=tempfile.mkdtemp())
class Photos(ShopCase):
    def _take(self, sent: bytes, **values: Any) -> Any:
        body = {"id": str(uuid4()), "of": "point", "subject_id": self.point, "file": SimpleUploadedFile("x.jpg", sent)}
        return self.client.post(f"/api/jobs/{self.job}/photos", body | values)

    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.point = self.view(self.new_circuit(self.job))["supply_stations"][0]

    def test_a_photo_is_made_anew_and_kept_once(self) -> None:
        """2 048 pixels at most, upright by its own mark, nothing of the camera in it, for its own shop alone."""
        into, exif = BytesIO(), Image.Exif()
        exif[0x0112], exif[0x010F] = 6, "a camera"  # lies on its side; who made it
        Image.new("RGB", (3000, 1000), "red").save(into, "JPEG", exif=exif)
        same = str(uuid4())
        for _ in range(2):
            answer = self._take(into.getvalue(), id=same, caption="rust under the lug")
        photo = answer.json()
        self.assertEqual((photo["width"], photo["height"], Photo.objects.count()), (683, 2048, 1))
        read = self.client.get(f"/api/photos/{same}")
        kept = Image.open(BytesIO(read.getvalue()))
        self.assertEqual((kept.format, kept.size, dict(kept.getexif())), ("JPEG", (683, 2048), {}))
        small = self.client.get(f"/api/photos/{same}/thumbnail")
        self.assertLessEqual(max(Image.open(BytesIO(small.getvalue())).size), 320)
        self.assertEqual(self.stranger().get(f"/api/photos/{same}").status_code, 404)

    def test_what_is_no_photo_is_refused(self) -> None:
        into = BytesIO()
        Image.new("RGB", (40, 40)).save(into, "PNG")
        gif = BytesIO()
        Image.new("RGB", (40, 40)).save(gif, "GIF")
        for sent, values, field in (
            (b"not a picture", {}, "file"),
            (into.getvalue()[:60], {}, "file"),
            (gif.getvalue(), {}, "file"),
            (into.getvalue(), {"subject_id": str(uuid4())}, "subject_id"),
        ):
            answer = self._take(sent, **values)
            self.assertEqual((answer.status_code, answer.json()["problems"][0]["field"]), (422, [field]))
        self.assertEqual(Photo.objects.count(), 0)
