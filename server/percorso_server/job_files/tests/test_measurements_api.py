"""Measurements as a file over HTTP: looked at line by line first, then all of it written, or nothing."""

from percorso_server.workshop.tests.case import ShopCase

HEADER = "id,taken_at,quantity,red_point,black_point,state,value,supersedes"


class Measurements(ShopCase):
    def test_out_in_and_in_again(self) -> None:
        job = self.new_job()
        self.new_circuit(job)
        lines = [HEADER, "a,2026-11-03T09:20:00Z,voltage,Stud,Pump +,idle,0.2,"]
        lines.append("b,2026-11-03T09:25:00Z,voltage,Stud,Pump +,idle,0.21,a")
        file = {"text": "\n".join(lines)}
        preview = self.call("POST", f"/jobs/{job}/measurements/preview", file)
        self.assertEqual([(each["said"], each["does"]) for each in preview], [("0.2 V", "add"), ("0.21 V", "add")])
        self.assertEqual(self.call("GET", f"/jobs/{job}/readings"), [])
        self.call("POST", f"/jobs/{job}/measurements", file)
        listed = self.call("GET", f"/jobs/{job}/readings")
        self.assertEqual([(each["net"], each["superseded"]) for each in listed], [(0.21, False), (0.2, True)])
        out = self.client.get(f"/api/jobs/{job}/measurements.csv").content.decode()
        again = self.call("POST", f"/jobs/{job}/measurements", {"text": out})
        self.assertEqual([each["does"] for each in again], ["leave", "leave"])
        self.assertEqual(len(self.call("GET", f"/jobs/{job}/readings")), 2)

    def test_one_wrong_line_and_nothing_is_written(self) -> None:
        job = self.new_job()
        self.new_circuit(job)
        good = "a,2026-11-03T09:20:00Z,voltage,Stud,Pump +,idle,0.2,"
        for wrong, where in (
            ("b,x,voltage,Stud,Pump +,idle,1,", "line 3, taken_at"),
            (f"{good}z", "line 3, supersedes"),
        ):
            text = "\n".join([HEADER, good, wrong])
            refused = self.call("POST", f"/jobs/{job}/measurements", {"text": text}, status=422)
            self.assertEqual(refused["problems"][0]["field"], [where])
        self.assertEqual(self.call("GET", f"/jobs/{job}/readings"), [])
