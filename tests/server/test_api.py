"""The API: the core's figures as they are, a sentence for everything that cannot be."""

import csv
import gzip
import io
import json
import subprocess
from pathlib import Path
from tempfile import mkdtemp
from unittest import skipUnless

import numpy as np
from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import Client, TestCase

from ember.assessment.assess import assess
from ember.basis.clock import zone_named
from ember.description.as_json import installation_to_json
from server.api.files import attachment, harmless
from server.assessments.cache import cache_results
from server.assessments.times import instant
from server.jobs.models import Job
from server.jobs.running import perform
from server.readings.models import Block, Import, Upload
from server.readings.store import store, trace_of, undo
from server.systems.models import System
from tests.server.helpers import described, log, send, signed_in, system

WEB = settings.BASE_DIR / "web"


class WithRecord(TestCase):
    """A system with twelve days, worked out."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.system = system()
        store(cls.system, log())
        cache_results(cls.system)
        cls.system.refresh_from_db()

    def setUp(self) -> None:
        self.client = signed_in()

    def get(self, path: str, **query: str):
        return self.client.get(f"/api/v1/systems/{self.system.pk}{path}", query)


class Figures(WithRecord):
    def test_a_span_is_what_the_core_makes_of_it(self) -> None:
        for start, stop in (
            ("2025-10-05T17:03", "2025-10-05T22:41"),
            ("2025-10-04", "2025-10-06"),
            ("2025-10-02T11:30", "2025-10-09T00:07"),
        ):
            found = self.get("/span", start=start, stop=stop).json()
            zone = zone_named(self.system.installation.zone)
            begin, end = instant(start, zone, ""), instant(stop, zone, "", 1)
            core = assess(self.system.installation, trace_of(self.system), begin, end)
            for shown in found["levels"]:
                mine = core.total.at(shown["level"])
                if mine is None:
                    self.assertIsNone(shown["reckoning"])
                    self.assertTrue(shown["reason"])
                    continue
                self.assertAlmostEqual(shown["reckoning"]["cop"]["value"], mine.cop.value, 9)
                self.assertAlmostEqual(shown["reckoning"]["cop"]["U"], mine.cop.U, 9)
                self.assertEqual(shown["reckoning"]["covered"], mine.covered)
            self.assertAlmostEqual(found["cost"]["total"]["value"], core.total.cost.total.value, 9)
            self.assertEqual(found["defrosts"], core.running.defrosts)

    def test_the_sum_as_text_holds_the_figures(self) -> None:
        found = self.get("/span", start="2025-10-04", stop="2025-10-06").json()
        text = self.get("/span.txt", start="2025-10-04", stop="2025-10-06").content.decode()
        cop = found["levels"][-1]["reckoning"]["cop"]
        self.assertIn(f"{cop['value']:.2f}", text)
        self.assertIn("Heat", text)
        self.assertIn("Electricity", text)

    def test_a_window_holds_the_readings(self) -> None:
        answer = self.get("/window", start="2025-10-05", stop="2025-10-05", points="2000")
        content = answer.content
        length = int.from_bytes(content[:4], "little")
        head = json.loads(content[4 : 4 + length])
        values = np.frombuffer(content[4 + length :], np.float32)
        lane = next(lane for lane in head["lanes"] if lane["channel"] == "flow_temp")
        trace = trace_of(self.system).between(head["start"], head["stop"])
        drawn = values[lane["at"] : lane["at"] + lane["count"]]
        np.testing.assert_allclose(drawn, trace["flow_temp"], atol=1e-5)
        self.assertEqual(
            {lane["channel"] for lane in head["lanes"]} & {"heat", "power", "cop"},
            {"heat", "power", "cop"},
        )
        self.assertEqual(len(head["states"]), len(head["state_starts"]))

    def test_the_fleet_row(self) -> None:
        (row,) = self.client.get("/api/v1/systems").json()["rows"]
        core = assess(self.system.installation, trace_of(self.system))
        self.assertAlmostEqual(row["system"]["spf"]["value"], core.main.cop.value, 9)
        self.assertEqual(row["system"]["verdict"], core.verdict.kind.value)
        self.assertEqual(len(row["system"]["strip"]["kinds"]), 12)
        self.assertFalse(row["stale"])

    def test_stale_figures_say_so(self) -> None:
        changed = self.system.description.replace('"EUR"', '"CHF"')
        System.objects.filter(pk=self.system.pk).update(description=changed)
        self.assertTrue(self.client.get("/api/v1/systems").json()["rows"][0]["stale"])
        self.assertTrue(self.get("").json()["stale"])
        self.assertTrue(self.get("/span", start="2025-10-04", stop="2025-10-04").json()["stale"])

    def test_carbon_of_each_month_by_the_described_factor(self) -> None:
        query = {"start": "2025-10-01", "stop": "2025-10-12"}
        self.assertIsNone(self.get("/money", **query).json()["total"]["carbon"])
        described = json.loads(self.system.description)
        described["carbon"] = {"kg_per_kwh": 0.25, "source": "its supplier"}
        self.system.description = json.dumps(described)
        self.system.save()
        cache_results(self.system)
        found = self.get("/money", **query).json()
        for month in (*found["months"], found["total"]):
            used = month["electricity"]
            self.assertAlmostEqual(month["carbon"]["value"], 0.25 * used["value"])
            self.assertAlmostEqual(month["carbon"]["U"], 0.25 * used["U"])
        self.assertEqual(found["carbon_by"], "0.25 kg a kWh, its supplier")
        head, *rows = self.get("/money.csv", **query).content.decode().splitlines()
        self.assertTrue(head.endswith("carbon [kg CO2]"))
        self.assertEqual(rows[-1].split(",")[-1], f"{found['total']['carbon']['value']:.3f}")

    def test_money_adds_up_and_its_csv_says_the_same(self) -> None:
        query = {"start": "2025-10-01", "stop": "2025-10-12"}
        found = self.get("/money", **query).json()
        months = sum(m["cost"]["total"]["value"] for m in found["months"])
        self.assertAlmostEqual(months, found["total"]["cost"]["total"]["value"], 6)
        text = self.get("/money.csv", **query).content.decode()
        rows = list(csv.DictReader(io.StringIO(text)))
        self.assertEqual(len(rows), len(found["months"]) + 1)
        heat = found["total"]["reckoning"]["heat"]["value"]
        self.assertAlmostEqual(float(rows[-1]["heat [kWh]"]), heat, 3)

    def test_a_season_is_what_the_core_makes_of_it(self) -> None:
        found = self.get("/season", start="2025-10-01", stop="2025-10-12").json()
        span = self.get("/span", start="2025-10-01", stop="2025-10-12").json()
        self.assertEqual(found["whole"]["reckoning"], span["levels"][-1]["reckoning"])
        self.assertEqual([one["name"] for one in found["months"]], ["2025-10"])
        self.assertEqual(found["whole"]["quotient"], "COP")  # an SPF is of a year
        self.assertIsNone(found["whole"]["filled"])
        self.assertIsNone(found["heat"])
        self.assertEqual(found["heat_reason"]["code"], "too_few_days")
        hourly, daily = found["degree_days"], found["whole"]["degree_days"]
        self.assertEqual(hourly["method"], "mean of each hour")
        self.assertGreaterEqual(hourly["heating"], daily["heating"] - 1e-9)  # a convex function
        query = {"start": "2025-10-01", "stop": "2025-10-12", "base": 18}
        warmer = self.get("/season", **query).json()["degree_days"]
        self.assertEqual(warmer["base"], 18)
        self.assertGreater(warmer["heating"], hourly["heating"])
        self.assertEqual(self.get("/season", **{**query, "base": 400}).status_code, 422)

    def test_a_season_apart_and_what_was_lost(self) -> None:
        found = self.get("/season", start="2025-10-01", stop="2025-10-12").json()
        self.assertEqual([one["name"] for one in found["modes"]], ["heating", "hot water"])
        self.assertEqual(found["modes_level"], "H3")
        runs = self.get("/starts", start="2025-10-01", stop="2025-10-12").json()
        lost = {one["code"]: one for one in found["losses"]}
        self.assertAlmostEqual(lost["start"]["electricity"]["value"], runs["loss"]["value"], 9)
        self.assertEqual(lost["start"]["view"], "running/starts")
        self.assertIsNone(found["before"])  # there is no year before in twelve days
        self.assertEqual(found["peers"][0]["what"], "Expected SPF")

    def test_a_season_as_a_file(self) -> None:
        query = {"start": "2025-10-01", "stop": "2025-10-12"}
        found = self.get("/season", **query).json()["whole"]["reckoning"]
        got = self.get("/season/file", **query, form="csv")
        rows = list(csv.DictReader(io.StringIO(b"".join(got).decode())))
        self.assertEqual([row["period"] for row in rows], ["2025-10", "all"])
        self.assertAlmostEqual(float(rows[-1]["COP"]), found["cop"]["value"], 9)
        self.assertAlmostEqual(float(rows[-1]["U of heat [kWh]"]), found["heat"]["U"], 9)
        book = self.get("/season/file", **query, form="xlsx")
        self.assertEqual(b"".join(book)[:2], b"PK")
        self.assertEqual(self.get("/season/file", **query, form="doc").status_code, 422)

    def test_a_purchase_is_counted_over_whole_years(self) -> None:
        query = {"start": "2025-10-01", "stop": "2025-10-12", "kind": "gas", "price": 0.1}
        asked = {**query, "kwh": 1, "efficiency": 0.9, "purchase": 9000, "grant": 4000, "below": 8}
        found = self.get("/fuels", **asked).json()
        self.assertIsNone(found["payback"])
        self.assertEqual(found["payback_reason"]["code"], "no_year")
        self.assertIsNone(found["hybrid"])  # twelve days have no signature
        refused = self.get("/fuels", **{**asked, "fuel_rise": -1})
        self.assertEqual(refused.status_code, 422)

    def test_another_fuel_beside_this_system(self) -> None:
        known = self.client.get("/api/v1/fuels").json()
        propane = next(one for one in known if one["kind"] == "propane")
        gallon = next(one for one in propane["units"] if one["unit"] == "US gallon")
        query = {"start": "2025-10-01", "stop": "2025-10-12", "kind": "propane"}
        asked = {**query, "price": 1.8, "kwh": gallon["kwh"], "efficiency": 0.94}
        found = self.get("/fuels", **asked).json()
        self.assertAlmostEqual(found["fuel"]["per_mmbtu"], 20.97, 2)  # handbook, check value
        money = self.get("/money", start="2025-10-01", stop="2025-10-12").json()["total"]
        paid = money["cost"]["average_price"]
        self.assertAlmostEqual(found["electricity_price"], paid, 9)
        self.assertAlmostEqual(found["needed_cop"], paid / found["fuel"]["per_kwh"], 9)
        heat, used = (money["reckoning"][name]["value"] for name in ("heat", "electricity"))
        saved = heat * found["fuel"]["per_kwh"] - used * paid
        self.assertAlmostEqual(found["saved"]["value"], saved, 6)
        self.assertIsNone(found["break_even"])
        self.assertEqual(found["break_even_reason"]["code"], "too_few_days")
        refused = self.get("/fuels", **{**asked, "price": 0})
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(refused.json()["where"], "price")

    def test_rating_bands_and_table(self) -> None:
        found = self.get("/rating", start="2025-10-01", stop="2025-10-12").json()
        self.assertTrue(found["has_table"])
        hours = sum(one["hours"] for one in found["bins"])
        self.assertAlmostEqual(hours, found["comparison"]["hours"], 6)

    def test_swapped_sensors_state_no_cop_anywhere(self) -> None:
        other = system("swapped", name="swapped")
        store(other, log("swapped"))
        cache_results(other)
        found = self.client.get(
            f"/api/v1/systems/{other.pk}/span", {"start": "2025-10-04", "stop": "2025-10-06"}
        ).json()
        for level in found["levels"]:
            if level["reckoning"]:
                self.assertIsNone(level["reckoning"]["cop"])
                self.assertIsNone(level["reckoning"]["heat"])
        self.assertEqual(found["verdict"]["kind"], "no verdict")
        self.assertTrue(any(check["soundness"] == "broken" for check in found["doubts"]))

    def test_the_assessment_is_the_documented_json(self) -> None:
        found = self.get("/assessment.json").json()
        self.assertEqual(found["assessment"]["format"], "honest-ember/assessment")


class Out(WithRecord):
    """Readings out and in again are the same readings."""

    def fetched(self, form: str) -> Path:
        answer = self.get("/readings", start="2025-10-01", stop="2025-10-12", form=form)
        self.assertEqual(answer.status_code, 200)
        self.assertIn(f".{form}", answer["Content-Disposition"])
        path = Path(mkdtemp()) / f"out.{form}"
        path.write_bytes(b"".join(answer.streaming_content))
        return path

    def test_each_form_comes_in_again_equal(self) -> None:
        mine = trace_of(self.system)
        for form in ("csv", "parquet", "xlsx"):
            other = system(name=f"from {form}")
            store(other, self.fetched(form))
            found = trace_of(other)
            self.assertEqual((found.start, found.step), (mine.start, mine.step))
            for channel in mine.channels:
                np.testing.assert_allclose(
                    found[channel], mine[channel], rtol=1e-6, err_msg=f"{form}: {channel}"
                )

    def test_a_part(self) -> None:
        answer = self.get(
            "/readings", start="2025-10-05T10:00", stop="2025-10-05T10:05", form="csv"
        )
        lines = b"".join(answer.streaming_content).decode().splitlines()
        self.assertEqual(len(lines), 6)
        self.assertTrue(lines[0].startswith("time,"), lines[0])
        self.assertIn("flow_temp [°C]", lines[0])

    def test_nothing_to_give(self) -> None:
        answer = self.get("/readings", start="2031-10-05", stop="2031-10-05", form="parquet")
        self.assertEqual(answer.status_code, 404)
        answer = self.get("/readings", start="2025-10-05", stop="2025-10-05", form="doc")
        self.assertEqual(answer.status_code, 422)


class Names(TestCase):
    def test_files_have_plain_names(self) -> None:
        self.assertEqual(
            attachment("School house", "csv"), 'attachment; filename="school-house.csv"'
        )
        self.assertNotIn("\n", attachment('a"b\nc', "csv"))
        self.assertIn("utf-8", attachment("Schulhaus Süd", "csv"))

    def test_no_text_becomes_a_formula(self) -> None:
        for text in ("=1+1", "+1", "-1", "@sum", "\t=1"):
            self.assertTrue(harmless(text).startswith("'"))
        self.assertEqual(harmless("night [kWh]"), "night [kWh]")


class Refusals(WithRecord):
    def test_times_that_are_none(self) -> None:
        for start, stop, said in (
            ("2025-13-01", "2025-10-04", "no day or time"),
            ("yesterday", "2025-10-04", "no day or time"),
            ("2031-01-01", "2031-01-02", "No readings lie between"),
            ("2025-10-05", "2025-10-04", "No readings lie between"),
        ):
            for room in ("/span", "/window", "/rating", "/money", "/span.txt"):
                answer = self.get(room, start=start, stop=stop)
                self.assertEqual(answer.status_code, 422, (room, start))
                self.assertIn(said, answer.json()["detail"])

    def test_a_field_that_is_missing_is_named(self) -> None:
        answer = self.get("/span", start="2025-10-04")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("stop", answer.json()["detail"])

    def test_nothing_of_that_number(self) -> None:
        for path in (
            "/api/v1/systems/999",
            "/api/v1/systems/999/span?start=2025-10-04&stop=2025-10-04",
        ):
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 404)
            self.assertIn("no system 999", answer.json()["detail"])
        self.assertEqual(self.client.get("/api/v1/jobs/999").status_code, 422)

    def test_no_figures_yet(self) -> None:
        empty = system(name="empty")
        answer = self.client.get(
            f"/api/v1/systems/{empty.pk}/span", {"start": "2025-10-04", "stop": "2025-10-04"}
        )
        self.assertEqual(answer.status_code, 404)
        self.assertIn("Import a log", answer.json()["detail"])
        self.assertIsNone(self.client.get(f"/api/v1/systems/{empty.pk}").json()["days"])


class Files(TestCase):
    """Broken files through the API: a sentence each, nothing stored."""

    def setUp(self) -> None:
        self.system = system()
        self.client = signed_in()
        self.good = log().read_bytes()

    def send(self, name: str, content: bytes):
        file = SimpleUploadedFile(name, content)
        return self.client.post(f"/api/v1/systems/{self.system.pk}/uploads", {"file": file})

    def broken(self) -> dict[str, tuple[bytes, str]]:
        lines = self.good.splitlines(keepends=True)
        head = lines[0]
        return {
            "empty.csv": (b" ", "empty"),
            "picture.csv": (b"\x89PNG\r\n\x1a\n" + bytes(64), "picture"),
            "wide.csv": (b",".join(b"c%d" % k for k in range(1200)) + b"\n1\n", "columns"),
            "no-time.csv": (b"flow_temp_c,power_unit_w\n" + b"30,2000\n" * 50, "time"),
            "truncated.csv.gz": (gzip.compress(self.good)[:4000], "gzip"),
            "words.csv": (head + b"a,b,c\n" * 40, "time"),
            "no-power.csv": (
                b"time,room_temp_c\n"
                + b"".join(b"2025-10-01T00:0%d:00Z,20\n" % k for k in range(9)),
                "recognised as anything",
            ),
        }

    def test_each_gets_its_sentence_and_nothing_is_stored(self) -> None:
        for name, (content, word) in self.broken().items():
            answer = self.send(name, content)
            said = answer.json().get("problem") or answer.json().get("detail")
            if said is None:  # it is packed: a job opens it first
                job = answer.json()["opening"]["id"]
                perform(job)
                said = self.client.get(f"/api/v1/jobs/{job}").json()["message"]
            self.assertIn(name, said)
            self.assertIn(word, said.lower(), name)
        self.assertFalse(Import.objects.exists())
        self.assertFalse(Block.objects.exists())
        self.assertFalse(Job.objects.exclude(kind="open").exists())

    def test_a_packed_file_is_opened_by_a_job_and_then_read_like_any_other(self) -> None:
        plain = self.send("log.csv", self.good).json()
        sent = self.send("log.csv.gz", gzip.compress(self.good)).json()
        path = f"/api/v1/uploads/{sent['upload']}"
        choice = json.dumps({"columns": None, "guess": False})
        early = self.client.post(f"{path}/preview", choice, "application/json")
        self.assertIn("not opened yet", early.json()["detail"])
        perform(sent["opening"]["id"])
        seen = self.client.post(f"{path}/preview", choice, "application/json").json()
        self.assertEqual(seen["report"]["columns"], plain["report"]["columns"])
        body = json.dumps({"columns": None, "guess": False, "rule": "fill", "remember": None})
        job = self.client.post(f"{path}/store", body, "application/json").json()["id"]
        perform(job)
        self.assertEqual(Job.objects.get(pk=job).state, Job.State.DONE)
        folder = Upload.objects.get(pk=sent["upload"]).path.parent
        self.assertFalse(folder.exists(), "neither the file nor its text stays")

    def test_names_of_any_length_and_kind(self) -> None:
        for name in (
            "x" * 300 + ".csv",
            "ü" * 120 + ".csv",
            "a\u202eb\x07.csv",
            "a\\c.csv",
        ):
            answer = self.send(name, self.good[:20_000])
            self.assertEqual(answer.status_code, 200, name)
            self.assertTrue(answer.json()["name"].isprintable())
            self.assertLessEqual(len(answer.json()["name"].encode()), 200)

    def test_a_broken_file_stored_all_the_same_fails_as_a_job(self) -> None:
        upload = self.send("picture.csv", b"\x89PNG\r\n\x1a\n" + bytes(64)).json()["upload"]
        body = json.dumps({"columns": None, "guess": False, "rule": "fill", "remember": None})
        job = self.client.post(f"/api/v1/uploads/{upload}/store", body, "application/json").json()
        perform(job["id"])
        found = self.client.get(f"/api/v1/jobs/{job['id']}").json()
        self.assertEqual(found["state"], "failed")
        self.assertIn("PNG", found["message"])
        self.assertFalse(Block.objects.exists())

    def test_preview_mapping_store_undo(self) -> None:
        seen = self.send("log.csv", self.good).json()
        self.assertEqual(seen["report"]["rows"], 12 * 1440)
        self.assertIn("flow_temp_c", seen["headers"])
        self.assertFalse(Import.objects.exists())
        columns = [
            {"header": c["header"], "channel": c["channel"], "unit": None}
            for c in seen["report"]["columns"]
            if c["channel"] != "room_temp"
        ]
        body = json.dumps(
            {"columns": columns, "guess": False, "rule": "fill", "remember": "without the room"}
        )
        path = f"/api/v1/uploads/{seen['upload']}"
        again = self.client.post(f"{path}/preview", body, "application/json").json()
        self.assertIn("room_temp_c", again["report"]["ignored"])
        job = self.client.post(f"{path}/store", body, "application/json").json()
        perform(job["id"])
        self.assertNotIn("room_temp", trace_of(self.system))
        # The next file with these headers is read in the same way, unless it is to be guessed.
        next_one = self.send("next.csv", self.good.replace(b"T00:03:00Z", b"T00:03:01Z")).json()
        self.assertEqual(next_one["recipe"], "without the room")
        self.assertIn("room_temp_c", next_one["report"]["ignored"])
        anew = self.client.post(
            f"/api/v1/uploads/{next_one['upload']}/preview",
            json.dumps({"columns": None, "guess": True}),
            "application/json",
        ).json()
        self.assertIsNone(anew["recipe"])
        self.assertNotIn("room_temp_c", anew["report"]["ignored"])
        same = self.send("again.csv", self.good).json()
        self.assertEqual(same["already"], Import.objects.get().pk)
        undo = self.client.post(f"/api/v1/imports/{same['already']}/undo").json()
        perform(undo["id"])
        self.assertFalse(Block.objects.exists())
        answer = self.client.post(f"/api/v1/imports/{same['already']}/undo")
        self.assertIn("undone already", answer.json()["detail"])

    def test_a_unit_that_cannot_be_is_said_before_storing(self) -> None:
        seen = self.send("log.csv", self.good).json()
        columns = [
            {"header": "time", "channel": "power:unit", "unit": None},
        ]
        answer = self.client.post(
            f"/api/v1/uploads/{seen['upload']}/preview",
            json.dumps({"columns": columns, "guess": False}),
            "application/json",
        )
        said = answer.json().get("problem") or answer.json().get("detail")
        self.assertIn("time", said)

    def test_a_file_name_stays_in_its_folder(self) -> None:
        self.send("../../../evil.csv", self.good)
        upload = Upload.objects.get()
        self.assertEqual(upload.path.parent.parent, settings.UPLOADS)

    def test_removing_a_system_only_while_nothing_is_stored(self) -> None:
        path = f"/api/v1/systems/{self.system.pk}"
        batch = store(self.system, log()).batch
        refused = self.client.delete(path)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("Undo its imports first", refused.json()["detail"])
        undo(batch)
        self.assertEqual(self.client.delete(path).json()["name"], "Nursery")
        self.assertFalse(System.objects.exists())

    def test_describing_a_system(self) -> None:
        text = installation_to_json(described(name="Boathouse")).encode()
        file = SimpleUploadedFile("boathouse.json", text)
        made = self.client.post("/api/v1/systems", {"installation": file})
        self.assertEqual(made.json()["name"], "Boathouse")
        again = self.client.post(
            "/api/v1/systems", {"installation": SimpleUploadedFile("boathouse.json", text)}
        )
        self.assertIn("already", again.json()["detail"])
        bad = self.client.post(
            "/api/v1/systems", {"installation": SimpleUploadedFile("x.json", b'{"name": "x"}')}
        )
        self.assertEqual(bad.status_code, 422)
        self.assertIn("zone", bad.json()["detail"])


class People(TestCase):
    def test_nobody_sees_nothing(self) -> None:
        for path in ("/api/v1/systems", "/api/v1/jobs/1", "/api/v1/systems/1/span?start=1&stop=2"):
            answer = Client().get(path)
            self.assertEqual(answer.status_code, 401)
            self.assertIn("Sign in", answer.json()["detail"])

    def test_signing_in_and_out(self) -> None:
        User.objects.create_user("ada", password="a long secret")
        client = Client()
        self.assertIsNone(client.get("/api/v1/me").json()["user"])
        with self.assertLogs("axes", "WARNING"):
            wrong = self.enter(client, "ada", "another secret")
        self.assertEqual(wrong.status_code, 401)
        self.assertEqual(self.enter(client, "ada", "a long secret").json()["user"], "ada")
        self.assertEqual(client.get("/api/v1/systems").status_code, 200)
        client.post("/api/v1/sign-out")
        self.assertEqual(client.get("/api/v1/systems").status_code, 401)

    def enter(self, client: Client, name: str, password: str):
        body = json.dumps({"name": name, "password": password})
        return client.post("/api/v1/sign-in", body, "application/json")

    def test_guessing_is_stopped(self) -> None:
        User.objects.create_user("ada", password="a long secret")
        client = Client()
        with self.assertLogs("axes", "WARNING"):
            for k in range(12):
                self.enter(client, "ada", f"guess {k}")
            self.assertNotEqual(self.enter(client, "ada", "a long secret").status_code, 200)

    def test_a_request_without_the_token_is_refused(self) -> None:
        user = User.objects.create_user("ada", password="a long secret")
        client = Client(enforce_csrf_checks=True)
        client.force_login(user)
        self.assertEqual(client.post("/api/v1/sign-out").status_code, 403)

    def test_numbers_and_dates_are_kept_with_a_person(self) -> None:
        ada, bee = Client(), Client()
        for client, name in ((ada, "ada"), (bee, "bee")):
            client.force_login(User.objects.create_user(name))
        chosen = {"numbers": "1 234,5", "dates": "2026-01-22"}
        for body in ({**chosen, "numbers": ""}, chosen):
            answer = send(ada, "put", "/api/v1/me/written", body)
            self.assertEqual(answer.json()["written"], body)
        self.assertEqual(ada.get("/api/v1/me").json()["written"], chosen)
        self.assertEqual(bee.get("/api/v1/me").json()["written"], {"numbers": "", "dates": ""})
        wrong = send(ada, "put", "/api/v1/me/written", {**chosen, "numbers": "12'34"})
        self.assertEqual((wrong.status_code, wrong.json()["where"]), (422, "numbers"))
        nobody = send(Client(), "put", "/api/v1/me/written", chosen)
        self.assertEqual(nobody.status_code, 401)

    def test_units_come_from_the_core(self) -> None:
        pairs = {pair["unit"]: pair for pair in Client().get("/api/v1/me").json()["units"]}
        us = pairs["degC"]["us"]
        self.assertAlmostEqual(us["factor"] * 100 + us["offset"], 212, 9)  # boiling, by definition
        # NIST SP 811, table B.8: 1 gal/min (US) = 6.309 020 E-05 m3/s (from memory)
        self.assertAlmostEqual(1 / pairs["m3_per_s"]["us"]["factor"], 6.309020e-5, 10)
        # NIST SP 811: 1 Btu_IT/h = 0.293 071 1 W (from memory)
        self.assertAlmostEqual(1 / pairs["watt"]["us"]["factor"], 293.0711, 3)


class Types(TestCase):
    """The screens' types are those of the API."""

    def test_the_schema_has_not_drifted(self) -> None:
        out = io.StringIO()
        call_command("openapi", stdout=out)
        kept = (WEB / "src" / "api" / "openapi.json").read_text()
        self.assertEqual(
            json.loads(out.getvalue()), json.loads(kept), "run `make types` and commit the result"
        )

    @skipUnless((WEB / "node_modules").exists(), "the screens' packages are not installed")
    def test_the_types_are_those_of_the_schema(self) -> None:
        script = WEB / "node_modules" / "openapi-typescript" / "bin" / "cli.js"
        made = subprocess.run(
            ["node", str(script), "src/api/openapi.json"],
            cwd=WEB,
            capture_output=True,
            text=True,
            check=True,
        )
        kept = (WEB / "src" / "api" / "schema.d.ts").read_text()
        self.assertEqual(made.stdout.strip(), kept.strip(), "run `make types`")

    def test_no_request_leaves_the_machine(self) -> None:
        for path in Path(WEB / "src").rglob("*.ts*"):
            if path.name != "schema.d.ts":
                self.assertNotRegex(path.read_text(), r"https?://(?!www\.w3\.org)", path.name)
