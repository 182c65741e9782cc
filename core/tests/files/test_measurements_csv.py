"""Measurements as CSV: what goes out comes in as it was, and every wrong line is named."""

from itertools import count
from unittest import TestCase

from core.tests.support.demo import DEMO
from percorso.errors import JobFileError
from percorso.files.job_file import vehicle_of
from percorso.files.measurements_csv import measurements_csv, read_measurements_csv
from percorso.files.reading import read_job_file

HEADER = "taken_at,quantity,red_point,black_point,device,state,preparations,value,unit,outcome,circuit"
AT = "2026-11-03T09:20:00+01:00"


class Measurements(TestCase):
    def setUp(self) -> None:
        self.file = read_job_file((DEMO / "market-van.json").read_text())
        self.vehicle = vehicle_of(self.file)

    def _read(self, *lines: str) -> list[tuple[str, float | None, str | None]]:
        ids = map(str, count())
        read = read_measurements_csv("\n".join([HEADER, *lines]), self.vehicle, (), lambda: next(ids))
        return [(each.reading.quantity, each.reading.value, each.reading.outcome) for each in read]

    def test_what_goes_out_comes_in_as_it_was(self) -> None:
        text = measurements_csv(self.file.readings, self.vehicle)
        for known, does in (((), "add"), ([each.id for each in self.file.readings], "leave")):
            lines = read_measurements_csv(text, self.vehicle, known, lambda: "new")
            self.assertEqual({each.does for each in lines}, {does})
            for line, reading in zip(lines, self.file.readings, strict=True):
                self.assertEqual(line.reading.model_dump(), reading.model_dump() | {"instrument": reading.with_what})

    def test_values_in_si_or_as_people_type_them(self) -> None:
        drop = f"{AT},voltage,B+ post,Cold box +,,idle,"
        self.assertEqual(
            self._read(
                f"{drop},0.58,V,,Cold box feed",
                f"{drop},580 mV,,,",
                f"{drop},580,mV,,",
                f"{AT},continuity,Main stud,F7 out,,off,pull F7; battery off,,,open,",
                f"{AT},seen,,,K3,off,,,,dead,",
            ),
            [("voltage", 0.58, None)] * 3 + [("continuity", None, "open"), ("seen", None, "dead")],
        )

    def test_every_wrong_line_is_named(self) -> None:
        for line, said in (
            (f"{AT},voltage,B+ post,Nowhere,,idle,,1,V,,", 'line 2, black_point: there is no point "Nowhere"'),
            (f"{AT},voltage,B+ post,Main stud,,idle,,much,V,,", "line 2, value"),
            (f"{AT},voltage,B+ post,Main stud,,idle,,,,,", "line 2, value: say what was read"),
            ("yesterday,voltage,B+ post,Main stud,,idle,,1,V,,", "line 2, taken_at"),
            (f"{AT},voltage,B+ post,Main stud,,flying,,1,V,,", "line 2, state"),
            (f"{AT},voltage,B+ post,Main stud,,idle,,1,V,,Moon", 'line 2, circuit: there is no circuit "Moon"'),
            (f"{AT},resistance,B+ post,Main stud,,off,,1,Ω,,", "battery off"),
        ):
            with self.assertRaises(JobFileError) as caught:
                self._read(line)
            self.assertIn(said, str(caught.exception))
