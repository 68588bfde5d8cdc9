"""What a server must bear: full disks, failures of its own, strangers, guessed passwords."""

import csv
import io
import json
import logging
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection
from django.test import Client, TestCase, TransactionTestCase, override_settings

from server.accounts.demo import entrance
from server.api.request import WithRequest
from server.jobs.models import Job
from server.jobs.queueing import start
from server.jobs.running import perform
from server.readings.codec import decode, encode
from server.readings.folding import fold
from server.readings.live import register
from server.readings.models import Batch, Entry, Import, Upload
from server.readings.store import store
from tests.server.helpers import NO_CHANGE, log, quiet, send, signed_in, system
from tests.server.test_jobs import upload_of

NO_ROOM = OSError(28, "No space left on device")


@contextmanager
def full_database() -> Iterator[None]:
    """The database can't grow, as on a full disk (SQLITE_FULL)."""
    with connection.cursor() as cursor:
        cursor.execute("VACUUM")  # no page is free
        pages = cursor.execute("PRAGMA page_count").fetchone()[0]
        cursor.execute(f"PRAGMA max_page_count = {pages}")
        try:
            yield
        finally:
            cursor.execute("PRAGMA max_page_count = 1073741823")


class FullDisk(TransactionTestCase):
    """One sentence, 507; what was stored before stays, what was begun leaves nothing."""

    def setUp(self) -> None:
        self.system = system()
        self.client = signed_in()
        self.client.raise_request_exception = False
        quiet(self, "django.request")

    def is_said(self, answer: Any) -> None:
        self.assertEqual(answer.status_code, 507)
        self.assertIn("disk is full", answer.json()["detail"])

    def test_an_upload_leaves_no_part_of_a_file(self) -> None:
        path = f"/api/v1/systems/{self.system.pk}/uploads"
        file = SimpleUploadedFile("log.csv", log().read_bytes())
        opened = Path.open

        def no_room(path: Path, *mode: Any, **more: Any) -> Any:
            made = opened(path, *mode, **more)
            if path.name == "log.csv" and "wb" in mode:
                made.write(b"a part of it")
                made.close()
                raise NO_ROOM
            return made

        before = set(settings.UPLOADS.rglob("log.csv")) if settings.UPLOADS.exists() else set()
        with patch.object(Path, "open", no_room):
            self.is_said(self.client.post(path, {"file": file}))
        self.assertFalse(Upload.objects.exists())
        self.assertEqual(set(settings.UPLOADS.rglob("log.csv")), before)

    def test_a_note_is_refused_and_comes_in_once_there_is_room(self) -> None:
        def note() -> Any:
            typed = {
                "id": None,
                "time": "2025-10-03T10:00",
                "kind": "noise",
                "note": "x" * 2000,
                **NO_CHANGE,
            }
            path = f"/api/v1/systems/{self.system.pk}/observations"
            return self.client.post(path, typed, "application/json")

        with full_database():
            answers = [note() for _ in range(10)]
            self.is_said(answers[-1])
            stored = sum(answer.status_code == 200 for answer in answers)
            self.assertEqual(Entry.objects.count(), stored)
        self.assertEqual(note().status_code, 200)
        self.assertEqual(Entry.objects.count(), stored + 1)

    def test_a_batch_is_not_acknowledged_and_comes_in_once_there_is_room(self) -> None:
        _, token = register(self.system, "logger")
        head = {"HTTP_AUTHORIZATION": f"Bearer {token}"}
        body = json.dumps(
            {"readings": [{"time": 1_760_000_000 + k, "flow_temp": 35.0} for k in range(4000)]}
        )
        with full_database():
            answer = self.client.post("/api/v1/ingest", body, "application/json", **head)
            self.is_said(answer)
        self.assertIn("Retry-After", answer)
        self.assertFalse(Batch.objects.exists())
        answer = self.client.post("/api/v1/ingest", body, "application/json", **head)
        self.assertEqual((answer.status_code, answer.json()["accepted"]), (200, 4000))

    def test_a_batch_that_is_stored_is_acknowledged_even_if_the_queue_fails(self) -> None:
        logger, token = register(self.system, "logger")
        head = {"HTTP_AUTHORIZATION": f"Bearer {token}"}
        body = '{"readings": [{"time": 1760000000, "flow_temp": 35.0}]}'
        with (
            patch("server.readings.tasks.fold_soon", side_effect=NO_ROOM),
            patch("server.readings.live._asked", -1e9),
            self.assertLogs("server.readings.live", "ERROR"),
        ):
            answer = self.client.post("/api/v1/ingest", body, "application/json", **head)
        self.assertEqual((answer.status_code, answer.json()["accepted"]), (200, 1))
        fold(logger)
        self.assertTrue(Import.objects.filter(logger=logger).exists())

    def test_a_new_visitor(self) -> None:
        with patch.object(
            Session, "save_base", side_effect=OperationalError("database or disk is full")
        ):
            User.objects.create_user("ada", password="a long secret")
            self.client.logout()
            body = {"name": "ada", "password": "a long secret"}
            self.is_said(self.client.post("/api/v1/sign-in", body, "application/json"))

    def test_a_job_says_it_and_can_go_on(self) -> None:
        upload = upload_of(self.system, log())
        job = start("import", "Importing", self.system, None, upload=upload.pk)
        with (
            patch(
                "server.readings.store.Journal.objects.bulk_create",
                side_effect=OperationalError("database or disk is full"),
            ),
            self.assertLogs("server.jobs.running", "ERROR"),
        ):
            perform(job.pk)
        job.refresh_from_db()
        self.assertEqual(job.state, Job.State.FAILED)
        self.assertIn("disk is full", job.message)
        self.assertIn("Nothing was stored", job.message)
        self.client.post(f"/api/v1/jobs/{job.pk}/go-on")
        perform(job.pk)
        job.refresh_from_db()
        self.assertEqual(job.state, Job.State.DONE)

    def test_a_busy_store_is_another_thing(self) -> None:
        busy = OperationalError("database is locked")
        with patch("server.api.fleet.System.objects.all", side_effect=busy):
            answer = self.client.get("/api/v1/systems")
        self.assertEqual((answer.status_code, answer["Retry-After"]), (503, "5"))
        self.assertIn("busy", answer.json()["detail"])


class Failures(TestCase):
    """A failure of the program is in the log once, and its answer says where."""

    def test_the_traceback_is_logged_once_with_the_id_that_the_answer_names(self) -> None:
        client = signed_in()
        client.raise_request_exception = False
        with (
            patch("server.api.fleet.fleet_rows", side_effect=ZeroDivisionError("by zero")),
            self.assertLogs(level="ERROR") as logged,
        ):
            answer = client.get("/api/v1/systems")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (500, "application/json"))
        said = answer.json()
        self.assertEqual(said["id"], answer["X-Request-ID"])
        self.assertIn("a fault of the program", said["detail"])
        self.assertIn(said["id"], said["detail"])
        self.assertEqual(len(logged.records), 1)
        record = logged.records[0]
        self.assertIn("/api/v1/systems", record.getMessage())
        assert record.exc_info is not None and record.exc_info[0] is ZeroDivisionError

    def test_a_line_of_the_log_says_the_request(self) -> None:
        record = logging.makeLogRecord({"msg": "x"})
        self.assertTrue(WithRequest().filter(record))
        self.assertEqual(record.request_id, "-")  # type: ignore[attr-defined]
        handler = settings.LOGGING["handlers"][settings.LOGGING["root"]["handlers"][0]]
        line = settings.LOGGING["formatters"][handler["formatter"]]["format"]
        self.assertIn("%(request_id)s", line)

    def test_bodies_that_are_none(self) -> None:
        client = signed_in()
        for body in (
            '{"name": "\ud800"}'.encode("utf-8", "surrogatepass"),
            b'{"name": "\\ud800"}',
            b'{"name": "a\\u0000b"}',
            b"[" * 5000,
            b"1" * 5000,
            b"{",
            b"\xff",
        ):
            answer = client.post("/api/v1/systems/begun", body, "application/json")
            self.assertEqual(answer.status_code, 400, body[:20])
            self.assertTrue(answer.json()["detail"])

    def test_addresses_that_are_none(self) -> None:
        client = signed_in()
        for path in (
            "/api/v1/none",
            "/api/v1/systems/x/span",
            "/api/v1/%00",
            "/api/v1/systems/1/none",
        ):
            answer = client.get(path)
            self.assertIn(answer.status_code, (404, 422), path)
            self.assertTrue(answer.json()["detail"])


class Odd(TestCase):
    """What can be typed, and is odd: a sentence, or kept and given out as it is."""

    def setUp(self) -> None:
        self.system = system(days=3)
        self.client = signed_in()

    def post(self, path: str, body: object) -> Any:
        return self.client.post(f"/api/v1{path}", json.dumps(body), "application/json")

    def test_a_request_that_is_too_large(self) -> None:
        quiet(self, "django.security.RequestDataTooBig")
        answer = self.post("/systems/begun", {"name": "x" * (9 << 20), "zone": "UTC"})
        self.assertEqual(answer.status_code, 413)
        self.assertIn("larger than 8 MB", answer.json()["detail"])

    def test_names_that_look_alike_or_hold_what_nobody_sees(self) -> None:
        for name in ("NURSERY", " nursery ", "\uff2eursery"):
            answer = self.post("/systems/begun", {"name": name, "zone": "UTC"})
            self.assertIn("a system called 'Nursery' already", answer.json()["detail"])
        answer = self.post("/systems/begun", {"name": "Nur\u200bsery", "zone": "UTC"})
        self.assertIn("invisible", answer.json()["detail"])
        loggers = f"/systems/{self.system.pk}/loggers"
        self.assertEqual(self.post(loggers, {"name": " cellar "}).status_code, 200)
        self.assertIn("'cellar' already", self.post(loggers, {"name": "CELLAR"}).json()["detail"])
        self.assertIn("invisible", self.post(loggers, {"name": "a\u00adb"}).json()["detail"])

    def test_zones_numbers_and_years(self) -> None:
        answer = self.post("/systems/begun", {"name": "x", "zone": "z" * 10_000})
        self.assertEqual(answer.status_code, 422)
        figure = {
            "value": 1e308,
            "unit": "kWh",
            "budget": [
                {"source": "a", "u": 1e308, "random": False},
            ],
        }
        self.assertEqual(self.post("/budget", figure).status_code, 422)
        sheet = f"/systems/{self.system.pk}/sheet"
        self.post(f"{sheet}/begin", {})
        series = [one["name"] for one in self.client.get(f"/api/v1{sheet}").json()["series"]]
        for when in ("0001-01-01 00:00", "9999-12-31", "9999", "0001-01", "1" * 400):
            row = {"id": None, "time": when, "cells": {}, "turns": {}, "note": ""}
            answer = self.post(f"{sheet}/check", {"rows": [row], "gone": []})
            problems = answer.json()["rows"][0]["problems"]
            self.assertEqual([p["column"] for p in problems], ["time"], when)
        for cell in ("1" * 400, "9" * 30, "1e400", "nan"):
            row = {
                "id": None,
                "time": "2025-10-03 10:00",
                "cells": {series[0]: cell},
                "turns": {},
                "note": "",
            }
            answer = send(self.client, "put", f"/api/v1{sheet}", {"rows": [row], "gone": []})
            self.assertEqual(answer.status_code, 422, cell)
            self.assertIn("Nothing was stored", answer.json()["detail"])

    def test_a_rated_sheet_with_signs_for_about_and_less_than(self) -> None:
        text = "outdoor\tflow\tCOP\tkW\n<5\t35\t~4\t±8\n2\tT35\t3\t7\n-7\t35\t2.5\t6"
        reading = {"units": {}, "swapped": False, "cop_over": 1.0}
        sheet = {"text": text, "kind": "water", "reading": reading, "nominal_kw": None}
        answer = self.post("/rated/read", sheet)
        self.assertEqual(answer.status_code, 200)
        self.assertFalse(answer.json()["usable"])
        for odd in (0, -1, 1e308, 1e-300):
            wrong = {**sheet, "reading": {**reading, "cop_over": odd}}
            self.assertIn("divided by a number", self.post("/rated/read", wrong).json()["detail"])
        unit = {**sheet, "reading": {**reading, "units": {"capacity": "°C"}}}
        self.assertIn("cannot be read in", self.post("/rated/read", unit).json()["detail"])
        many = {**sheet, "text": "5\t" * 1_000_000}
        self.assertIn("far more than a table", self.post("/rated/read", many).json()["detail"])

    def test_a_channel_labelled_with_quotes_goes_out(self) -> None:
        store(self.system, log(days=3))
        for block in self.system.blocks.all():
            trace = decode(bytes(block.payload))
            label = 'power:"new", 2'
            block.payload = encode(
                trace.with_channels({**trace.channels, label: trace["power:unit"]})
            )
            block.save()
        span = "start=2025-10-01&stop=2025-10-04"
        for form in ("csv", "xlsx", "parquet"):
            path = f"/api/v1/systems/{self.system.pk}/readings?{span}&form={form}"
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 200, form)
            content = b"".join(answer.streaming_content)  # type: ignore[attr-defined]
            if form == "csv":
                header = next(csv.reader(io.StringIO(content.decode())))
                self.assertIn('power:"new", 2 [W]', header)


class Strangers(TestCase):
    def test_every_page_has_its_policy_and_is_framed_by_nobody(self) -> None:
        client = Client()
        for path in ("/", "/api/v1/me", "/api/v1/none", "/static/none.js"):
            answer = client.get(path)
            policy = answer["Content-Security-Policy"]
            self.assertEqual(answer["X-Frame-Options"], "DENY", path)
            self.assertIn("default-src 'none'", policy)
            self.assertNotIn("unsafe-eval", policy)
            scripts = next(p for p in policy.split("; ") if p.startswith("script-src"))
            self.assertEqual(scripts, "script-src 'self'")

    def test_the_page_names_its_nonce_anew_each_time(self) -> None:
        one, two = (Client().get("/") for _ in range(2))
        policy = one["Content-Security-Policy"]
        nonce = policy.partition("'nonce-")[2].partition("'")[0]
        self.assertIn(f'nonce="{nonce}"', one.content.decode())
        self.assertNotIn(nonce, two["Content-Security-Policy"])

    def test_the_api_is_described_to_who_is_signed_in(self) -> None:
        for path in ("/api/v1/docs", "/api/v1/openapi.json"):
            self.assertEqual(Client().get(path).status_code, 401, path)
            self.assertEqual(signed_in().get(path).status_code, 200, path)


class SigningIn(TestCase):
    def setUp(self) -> None:
        self.user = User.objects.create_user("ada", password="a long secret")
        quiet(self, "axes")

    def enter(
        self, client: Client, password: str = "a long secret", name: str = "ada", **more: Any
    ) -> Any:
        body = json.dumps({"name": name, "password": password})
        return client.post("/api/v1/sign-in", body, "application/json", **more)

    def test_only_as_json_and_with_the_token(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        self.assertEqual(self.enter(strict).status_code, 403)
        strict.get("/api/v1/me")
        token = strict.cookies["csrftoken"].value
        self.assertEqual(self.enter(strict, HTTP_X_CSRFTOKEN=token).status_code, 200)
        body = json.dumps({"name": "ada", "password": "a long secret"})
        plain = Client().post("/api/v1/sign-in", body, "text/plain")
        self.assertEqual(plain.status_code, 415)

    def test_names_are_trimmed_and_odd_ones_refused_as_wrong(self) -> None:
        self.assertEqual(self.enter(Client(), name="  ada ").status_code, 200)
        for name in ("a\x00da", "x" * 151):
            self.assertIn(self.enter(Client(), name=name).status_code, (400, 422))

    def test_guessing_is_answered_as_json_and_locks_out_no_browser_that_is_known(self) -> None:
        known, stranger = Client(), Client()
        self.enter(known)
        known.post("/api/v1/sign-out")
        for k in range(12):
            answer = self.enter(stranger, f"guess {k}")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (429, "application/json"))
        self.assertIn("quarter of an hour", answer.json()["detail"])
        self.assertEqual(self.enter(stranger).status_code, 429)
        self.assertEqual(self.enter(known).status_code, 200)
        known.post("/api/v1/sign-out")
        self.assertEqual(self.enter(known, name="other").status_code, 401)

    @override_settings(PROXIES=1)
    def test_behind_a_proxy_each_address_counts_by_itself(self) -> None:
        for k in range(12):
            answer = self.enter(Client(), f"guess {k}", HTTP_X_FORWARDED_FOR="192.0.2.7")
        self.assertEqual(answer.status_code, 429)
        # What the client itself wrote into the header stands left of what the proxy saw.
        self.assertEqual(
            self.enter(Client(), HTTP_X_FORWARDED_FOR="192.0.2.9, 192.0.2.7").status_code, 429
        )
        other = self.enter(Client(), HTTP_X_FORWARDED_FOR="192.0.2.8")
        self.assertEqual(other.status_code, 200)


@override_settings(DEMO=True)
class Demo(TestCase):
    """The demo's own sign-in: from this machine, and with the address that was printed, once."""

    def setUp(self) -> None:
        User.objects.create_user("analyst", password="x")

    def who(self, client: Client) -> str | None:
        user: str | None = client.get("/api/v1/me").json()["user"]
        return user

    def test_nobody_by_the_address_of_the_machine_alone(self) -> None:
        self.assertIsNone(self.who(Client()))

    def test_who_opens_the_printed_address_once(self) -> None:
        address = entrance("")
        for far in (Client(REMOTE_ADDR="192.0.2.7"), Client(REMOTE_ADDR="nowhere")):
            far.get(address)
            self.assertIsNone(self.who(far))
        near, again = Client(), Client()
        answer = near.get(address)
        self.assertEqual((answer.status_code, answer["Location"]), (302, "/"))
        self.assertEqual(self.who(near), "analyst")
        again.get(address)
        self.assertIsNone(self.who(again))

    def test_no_other_token(self) -> None:
        entrance("")
        for token in ("", "x", "\ud800".encode("utf-8", "surrogatepass").decode("latin-1")):
            client = Client()
            client.get("/", {"demo": token})
            self.assertIsNone(self.who(client))

    def test_the_password_is_told_to_nobody(self) -> None:
        self.assertNotIn("password", Client().get("/api/v1/me").content.decode())

    @override_settings(DEMO=False)
    def test_no_demo_no_such_address(self) -> None:
        client = Client()
        client.get(entrance(""))
        self.assertIsNone(self.who(client))
