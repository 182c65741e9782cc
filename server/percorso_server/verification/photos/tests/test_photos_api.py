"""Photos over HTTP: whole or not at all, whatever is sent and whenever it stops; and no more than a shop may have."""

import os
import shutil
import subprocess
import sys
import tempfile
from errno import ENOSPC
from io import BytesIO, StringIO
from pathlib import Path
from random import Random
from typing import Any
from unittest import mock
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import override_settings
from PIL import Image

from percorso_server.verification.photos import keeping
from percorso_server.verification.photos.pictures import PictureError, picture
from percorso_server.workshop.tests.case import ShopCase

MOST_MB = 300  # of a process that takes in the largest photo there may be; Python and the library have half of it
TAKEN_IN = """
import re, sys
from percorso_server.verification.photos.pictures import picture
made = picture(open(sys.argv[1], "rb").read())
most_kb = int(re.search("VmHWM:\\s+(\\d+)", open("/proc/self/status").read())[1])
print(made.width, made.height, most_kb // 1000)
"""


def photo(width: int = 40, height: int = 30, kind: str = "JPEG", **options: Any) -> bytes:
    """A picture of nothing."""
    into = BytesIO()
    Image.new("RGB", (width, height), (90, 120, 150)).save(into, kind, **options)
    return into.getvalue()


class Photos(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.media = Path(tempfile.mkdtemp(prefix="percorso-media-"))
        self.addCleanup(shutil.rmtree, self.media)
        kept = override_settings(MEDIA_ROOT=str(self.media))
        kept.enable()
        self.addCleanup(kept.disable)
        self.job = self.new_job()
        self.new_circuit(self.job)
        self.point = self.call("GET", f"/jobs/{self.job}")["points"][0]["id"]

    def _take(self, sent: bytes, status: int = 200, **values: str) -> Any:
        named = {"of": "point", "subject_id": self.point, **values}
        answer = self.client.post(f"/api/jobs/{self.job}/photos", {**named, "file": SimpleUploadedFile("p.jpg", sent)})
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    def _files(self) -> list[Path]:
        return [each for each in self.media.rglob("*") if each.is_file()]

    def test_a_photo_outlives_a_kill_between_its_row_and_its_place(self) -> None:
        """No test commits, so that its files stay aside as after a kill: whoever looks finds them."""
        taken = self._take(photo())
        self.assertEqual({each.parent.name for each in self._files()}, {"aside"})
        for address in (f"/api/photos/{taken['id']}", f"/api/photos/{taken['id']}/thumbnail"):
            shown = b"".join(self.client.get(address).streaming_content)  # type: ignore[attr-defined]
            self.assertEqual(Image.open(BytesIO(shown)).size, (40, 30))
        self.assertEqual({each.parent.name for each in self._files()}, {"photos"})

    def test_what_is_refused_or_cut_short_leaves_nothing(self) -> None:
        taken = self._take(photo())
        before = self._files()
        for _ in range(3):
            refused = self._take(photo(), subject_id=str(uuid4()), status=422)
            self.assertEqual(refused["problems"][0]["field"], ["subject_id"])
        other = self.new_job()
        self.new_circuit(other)
        point = self.call("GET", f"/jobs/{other}")["points"][0]["id"]
        values = {"id": taken["id"], "of": "point", "subject_id": point, "file": SimpleUploadedFile("p.jpg", photo())}
        self.assertEqual(self.client.post(f"/api/jobs/{other}/photos", values).status_code, 422)
        with mock.patch.object(keeping, "_write", side_effect=OSError(ENOSPC, "No space left on device")):
            self.assertEqual(self._take(photo(), status=503)["code"], "disk-full")
        self.assertEqual(self._files(), before)

    def test_tidy_clears_what_no_row_names(self) -> None:
        taken = self._take(photo())
        old, fresh = (self.media / "photos" / f"{uuid4()}.jpg" for _ in range(2))
        for left in (old, fresh, self.media / "aside" / "left.jpg"):
            left.parent.mkdir(exist_ok=True)
            left.write_bytes(b"left")
            if left != fresh:
                os.utime(left, (0, 0))
        call_command("tidy", stdout=(said := StringIO()))
        self.assertIn("2 files of no photo", said.getvalue())
        self.assertEqual((len(self._files()), old.exists(), fresh.exists()), (3, False, True))
        self.assertEqual(self.client.get(f"/api/photos/{taken['id']}").status_code, 200)

    def test_a_shop_has_room_for_so_many(self) -> None:
        self._take(photo())
        with override_settings(SHOP_PHOTOS=1):
            self.assertIn("as many as are kept", self._take(photo(), status=422)["message"])
        with override_settings(SHOP_PHOTO_MB=0):
            self.assertIn("all the room they have", self._take(photo(), status=422)["message"])
        self._take(photo())

    def test_whatever_the_library_makes_of_it_is_said(self) -> None:
        """EXIF by chance, which no camera wrote: each is a picture or a refusal, never an error of ours."""
        random = Random(1)
        refused = 0
        for number in range(300):
            head, tag = ((b"II*\0\x08\0\0\0", b"\x02\0\x12\x01"), (b"MM\0*\0\0\0\x08", b"\0\x02\x01\x12"))[number % 2]
            try:
                picture(photo(exif=b"Exif\0\0" + head + tag + random.randbytes(56)))
            except PictureError:
                refused += 1
        self.assertLess(refused, 300)
        with mock.patch(
            "percorso_server.verification.photos.pictures.ImageOps.exif_transpose", side_effect=KeyError("no such tag")
        ):
            self.assertIn("no JPEG", self._take(photo(), status=422)["message"])

    def test_a_large_photo_takes_little_memory_or_is_refused(self) -> None:
        """48 megapixels as phones take them; what cannot be read small is bounded."""
        with tempfile.NamedTemporaryFile() as file:
            file.write(photo(8000, 6000))
            file.flush()
            command = [sys.executable, "-c", TAKEN_IN, file.name]
            environment = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
            done = subprocess.run(command, env=environment, capture_output=True, text=True, check=True)
        width, height, megabytes = map(int, done.stdout.split())
        self.assertEqual((width, height), (2048, 1536))
        self.assertLess(megabytes, MOST_MB)
        for sent in (photo(8000, 6000, "PNG"), photo(8000, 6000, progressive=True)):
            self.assertIn("take it smaller", self._take(sent, status=422)["message"])
