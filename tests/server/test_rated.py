"""The rated table over the API: read, offered readings, saved, taken from the library."""

import io
import json

import xlsxwriter
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from server.assessments.cache import cache_results
from server.jobs.running import perform
from server.readings.store import store
from server.systems.models import LibraryTable
from tests.server.helpers import log, send, signed_in, system

US = "outdoor\tflow\tcapacity\tinput\n47\t95\t28.4\t2.0\n17\t95\t20\t2.4\n47\t113\t27\t2.5\n17\t113\t19\t2.9\n"  # noqa: E501
AS_WRITTEN = {"units": {}, "swapped": False, "cop_over": 1.0}


class Rated(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.system = system()
        store(cls.system, log())
        cache_results(cls.system)

    def setUp(self) -> None:
        self.client = signed_in()
        self.at = f"/api/v1/systems/{self.system.pk}/rated"

    def post(self, address: str, body: object):
        return self.client.post(address, json.dumps(body), content_type="application/json")

    def read(self, text: str, reading=None, kind: str = "water"):
        body = {"text": text, "kind": kind, "reading": reading or AS_WRITTEN, "nominal_kw": None}
        return self.post("/api/v1/rated/read", body).json()

    def table(self, sheet, **changes):
        keys = ("outdoor", "flow", "capacity_kw", "cop", "speed", "airflow_m3h")
        points = [{k: e[k] for k in keys} for e in sheet["entries"]]
        return {"points": points, "kind": "water", "includes_defrost": False, **changes}

    def test_the_table_its_surface_and_its_scops(self) -> None:
        found = self.client.get(self.at).json()
        table = found["table"]
        self.assertEqual(len(table["points"]), len(self.system.installation.rated.points))
        self.assertEqual(len(table["hull"]), 5 * 4)
        line = next(x for x in table["lines"] if x["flow"] == 35.0)
        at = line["outdoor"].index(min(line["outdoor"]))
        point = next(p for p in table["points"] if (p["flow"], p["outdoor"]) == (35.0, -15.0))
        self.assertAlmostEqual(line["cop"][at], point["cop"], 9)
        self.assertEqual(point["standard"], "A-15/W35")
        self.assertEqual(len(found["scops"]), 3 * 4)
        self.assertTrue(all(len(s["bins"]) in (26, 14, 38) for s in found["scops"]))

    def test_a_us_paste_is_doubted_then_read_then_saved(self) -> None:
        sheet = self.read(US)
        self.assertFalse(sheet["usable"])
        (doubt,) = sheet["doubts"]
        self.assertIn("kBtu/h", doubt["remedy"])
        again = self.read(US, doubt["reading"])
        self.assertTrue(again["usable"])
        self.assertAlmostEqual(again["entries"][0]["capacity_kw"], 28.4 / 3.412142, 4)
        self.assertAlmostEqual(again["entries"][0]["cop"], 28.4 / 3.412142 / 2.0, 4)
        before = self.system.history.count()
        saved = send(self.client, "put", self.at, {"table": self.table(again)})
        self.assertEqual(saved.status_code, 200, saved.content)
        self.system.refresh_from_db()
        self.assertEqual(len(self.system.installation.rated.points), 4)
        self.assertEqual(self.system.history.count(), before + 1)
        self.assertTrue(self.client.get(f"/api/v1/systems/{self.system.pk}").json()["stale"])

    def test_what_cannot_be_is_not_stored(self) -> None:
        turned = self.read(US.replace("47", "3"))
        table = self.table(turned)
        for point in table["points"]:
            point["outdoor"], point["flow"] = 40.0, point["outdoor"]
        answer = send(self.client, "put", self.at, {"table": table})
        self.assertEqual(answer.status_code, 422)
        self.system.refresh_from_db()
        self.assertEqual(len(self.system.installation.rated.points), 30)

    def test_taken_away(self) -> None:
        found = send(self.client, "put", self.at, {"table": None}).json()
        self.assertIsNone(found["table"])
        self.assertEqual(found["scop_reason"]["sentence"], "no rated table is given")

    def test_a_spreadsheet(self) -> None:
        out = io.BytesIO()
        book = xlsxwriter.Workbook(out, {"in_memory": True})
        sheet = book.add_worksheet()
        for r, row in enumerate(
            (
                ("outdoor [°C]", "flow [°C]", "capacity [kW]", "cop"),
                (7, 35, 8, 4.4),
                (-7, 35, 6.5, 2.9),
                (7, 45, 7.8, 3.5),
                (-7, 45, 6.3, 2.4),
            )
        ):
            sheet.write_row(r, 0, row)
        book.close()
        file = SimpleUploadedFile("table.xlsx", out.getvalue())
        sent = self.client.post("/api/v1/rated/file?kind=water", {"file": file}).json()
        self.assertIsNone(sent["sheet"])
        perform(sent["opening"]["id"])
        path = f"/api/v1/jobs/{sent['opening']['id']}/table?kind=water"
        found = self.client.get(path).json()
        self.assertTrue(found["usable"], found)
        self.assertEqual(len(found["entries"]), 4)

    def test_a_file_that_is_none(self) -> None:
        file = SimpleUploadedFile("table.csv", b"\x89PNG\xff\xfe")
        answer = self.client.post("/api/v1/rated/file?kind=water", {"file": file})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("table.csv", answer.json()["detail"])

    def test_the_library(self) -> None:
        sheet = self.read(
            "outdoor [°C],flow [°C],capacity [kW],cop\n7,35,8,4.4\n-7,35,6.5,2.9\n"
            "7,45,7.8,3.5\n-7,45,6.3,2.4\n"
        )
        body = {"name": "air-to-water 8 kW", "table": self.table(sheet)}
        rows = self.post("/api/v1/library", body).json()
        self.assertEqual([(r["name"], r["points"]) for r in rows], [("air-to-water 8 kW", 4)])
        taken = self.client.get(f"/api/v1/library/{rows[0]['id']}").json()
        self.assertEqual(taken["name"], "air-to-water 8 kW")
        self.assertEqual(len(taken["points"]), 4)
        self.post("/api/v1/library", body)  # the same name replaces
        self.assertEqual(LibraryTable.objects.count(), 1)
        self.assertEqual(self.client.delete(f"/api/v1/library/{rows[0]['id']}").json(), [])
        self.assertEqual(self.client.get(f"/api/v1/library/{rows[0]['id']}").status_code, 404)
        self.assertIn("name:", self.post("/api/v1/library", {**body, "name": " "}).json()["detail"])
