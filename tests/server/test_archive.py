"""A whole installation out and in again: equal, all or nothing; and results as files."""

import io
import json
import zipfile
from pathlib import Path
from tempfile import mkdtemp
from typing import Any
from unittest import mock

import pyarrow.csv as arrow_csv
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TransactionTestCase
from pyarrow import parquet
from python_calamine import CalamineWorkbook

from ember.basis.errors import IntakeError
from ember.intake.live import read_batch
from server.archives import archive
from server.assessments.cache import cache_results, find
from server.assessments.models import FindingEvent, FindingStatus
from server.jobs.models import Job
from server.jobs.running import perform
from server.readings.entries import turn
from server.readings.live import known_now, register, take
from server.readings.models import Batch, Block, Change, Entry, Import, Journal, Logger, Recipe
from server.readings.store import StoreError, redo, store, trace_of, undo
from server.systems.models import System
from tests.server.helpers import NO_CHANGE, log, part, signed_in, system

BEGIN = 1_760_000_000


def state(of: System) -> dict[str, Any]:
    """All that is stored of a system but keys, users and secrets."""
    entries = {e.pk: k for k, e in enumerate(of.entries.order_by("pk"))}

    def plain(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
        return [{**row, "id": entries.get(row["id"], "gone")} for row in rows]

    return {
        "description": of.description,
        "history": [h.text for h in of.history.order_by("pk")],
        "imports": list(
            of.imports.order_by("pk").values(*archive.IMPORT, "created", "logger__name")
        ),
        "journal": [
            (bytes(j.payload), j.week)
            for j in Journal.objects.filter(batch__system=of).order_by("batch_id", "week")
        ],
        "blocks": [
            (b.week, bytes(b.payload), bytes(b.overview)) for b in of.blocks.order_by("week")
        ],
        "entries": list(of.entries.order_by("pk").values("kind", "time", "stop", "content")),
        "changes": [
            (c.words, plain(c.before), plain(c.after), c.undone, c.created)
            for c in of.changes.order_by("pk")
        ],
        "statuses": [
            (x.code, x.state, x.reason, x.measured, [(e.words, e.at) for e in x.events.all()])
            for x in of.statuses.order_by("code")
        ],
        "recipes": list(of.recipes.order_by("pk").values("name", "headers", "columns")),
        "loggers": list(of.loggers.order_by("pk").values("name", "columns", "step", "readings")),
    }


class Archive(TransactionTestCase):
    def setUp(self) -> None:
        self.client = signed_in()
        self.system = system(days=12)
        path = log("as-rated", 12)
        store(self.system, part(path, 0, 9000, "first.csv"))
        status = FindingStatus.objects.create(
            system=self.system,
            code="below_rated",
            state="dismissed",
            sentence="20 % below",
            measured=0.8,
            U=0.06,
            above=False,
            reason="known",
        )
        for words in ("first seen", "dismissed: known"):
            FindingEvent.objects.create(status=status, state=status.state, words=words)
        second = store(self.system, part(path, 8000, 12000, "second.csv"), rule="replace").batch
        store(self.system, part(path, 12000, 17280, "third.csv"))
        undo(second)
        address = f"/api/v1/systems/{self.system.pk}/observations"
        for kind in ("defrost begins", "ice left", "noise"):
            body = {"id": None, "time": "2025-10-05 08:00", "kind": kind, "note": "ü"} | NO_CHANGE
            self.client.post(address, body, "application/json")
        done = {"kind": "work done", "cost": 120.0, "done_by": "fitter"}
        self.client.post(address, {**body, **done}, "application/json")
        trial = {"a": "as it is", "b": "cooler", "first": "2025-10-06", "days": 8, "block": 2}
        planned = address.replace("observations", "trials")
        self.client.post(planned, {**trial, "carry": 1}, "application/json")
        key = self.system.entries.order_by("pk")[1].pk
        self.client.delete(f"/api/v1/systems/{self.system.pk}/entries/{key}")
        Recipe.objects.create(system=self.system, name="mine", headers=["a"], columns=[])
        logger, _ = register(self.system, "cellar")
        rows = [{"time": BEGIN + 60 * k, "flow_temp": 31.0 + k % 3} for k in range(90)]
        body = json.dumps({"readings": rows}).encode()
        with mock.patch("server.readings.tasks.fold_soon"):
            take(known_now(logger), read_batch(body, True, BEGIN + 1e6), BEGIN + 1e6)
        self.folder = Path(mkdtemp(prefix="ember-archive-"))

    def out(self) -> Path:
        path = self.folder / "all.zip"
        archive.whole(path)
        return path

    def forget(self) -> None:
        for model in (Change, Entry, Recipe, Journal, Block, Batch, Import, Logger, System):
            model.objects.all().delete()

    def test_out_and_in_again_is_equal(self) -> None:
        path = self.out()
        before = state(self.system)
        self.assertEqual(Batch.objects.filter(folded=False).count(), 0, "what waited is in it")
        self.forget()
        (again,) = archive.restore(path)
        after = state(again)
        for what, content in before.items():
            self.assertEqual(after[what], content, what)
        second = self.folder / "again.zip"
        archive.whole(second)
        with zipfile.ZipFile(path) as one, zipfile.ZipFile(second) as other:
            for name in one.namelist():
                if name.endswith(".parquet"):
                    self.assertEqual(one.read(name), other.read(name), name)

    def test_undo_works_on_as_if_nothing_had_happened(self) -> None:
        path = self.out()
        self.forget()
        (again,) = archive.restore(path)
        taken_out = again.changes.first()
        assert taken_out is not None
        turn(taken_out)
        kinds = [one.content.get("kind", one.kind) for one in again.entries.all()]
        self.assertEqual(
            sorted(kinds), ["defrost begins", "ice left", "noise", "trial", "work done"]
        )
        both = trace_of(again)
        redo(again.imports.get(file="second.csv"))
        self.assertEqual(len(trace_of(again)), len(both))
        self.assertIsNotNone(again.loggers.get().revoked, "tokens are in no archive")

    def test_readings_are_plain_parquet(self) -> None:
        with zipfile.ZipFile(self.out()) as packed:
            name = next(n for n in packed.namelist() if n.endswith("1.parquet"))
            table = parquet.read_table(io.BytesIO(packed.read(name)))
            head = json.loads(packed.read("archive.json"))
        self.assertEqual(table.num_rows, 9000)
        self.assertIn("flow_temp", table.column_names)
        self.assertEqual(head["systems"][0]["name"], self.system.name)

    def test_all_or_nothing(self) -> None:
        path = self.out()
        with self.assertRaisesRegex(StoreError, "already; nothing was stored"):
            archive.restore(path)
        self.forget()
        cut = self.folder / "cut.zip"
        with zipfile.ZipFile(path) as one, zipfile.ZipFile(cut, "w") as other:
            for name in one.namelist():
                if not name.endswith("2.parquet"):
                    other.writestr(name, one.read(name))
        with self.assertRaisesRegex(IntakeError, "is missing in the archive"):
            archive.restore(cut)
        self.assertEqual((System.objects.count(), Import.objects.count()), (0, 0))
        cut.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
        with self.assertRaisesRegex(Exception, "damaged"):
            archive.restore(cut)
        with zipfile.ZipFile(cut, "w") as other:
            other.writestr("archive.json", '{"format": "something else"}')
        with self.assertRaisesRegex(IntakeError, "no archive of a kind"):
            archive.restore(cut)

    def test_over_the_api(self) -> None:
        answer = self.client.get(f"/api/v1/systems/{self.system.pk}/archive")
        content = b"".join(answer.streaming_content)
        self.assertIn(".zip", answer["Content-Disposition"])
        self.assertTrue(b"".join(self.client.get("/api/v1/archive").streaming_content))
        sent = SimpleUploadedFile("a.zip", content)
        refused = self.client.post("/api/v1/archive", {"archive": sent}).json()
        perform(refused["id"])
        said = self.client.get(f"/api/v1/jobs/{refused['id']}").json()
        self.assertEqual(said["state"], "failed")
        self.assertIn("a.zip: there is a system called", said["message"])
        self.assertEqual(self.client.get(f"/api/v1/jobs/{refused['id']}/systems").status_code, 422)
        self.forget()
        sent = SimpleUploadedFile("a.zip", content)
        job = self.client.post("/api/v1/archive", {"archive": sent}).json()["id"]
        perform(job)
        brought = self.client.get(f"/api/v1/jobs/{job}/systems").json()
        # Killed after they were stored, and gone on with: they are those that were brought in.
        Job.objects.filter(pk=job).update(state=Job.State.WAITING)
        perform(job)
        self.assertEqual(self.client.get(f"/api/v1/jobs/{job}/systems").json(), brought)
        self.assertEqual([one["name"] for one in brought], [self.system.name])

    # --- results --------------------------------------------------------------------------

    def test_results_in_three_forms_are_the_same_and_those_of_the_core(self) -> None:
        cache_results(self.system)
        analysis = find(self.system).analysis
        found = {}
        for form in ("csv", "xlsx", "parquet"):
            answer = self.client.get(f"/api/v1/systems/{self.system.pk}/results", {"form": form})
            found[form] = io.BytesIO(b"".join(answer.streaming_content))
        table = parquet.read_table(found["parquet"])
        as_text = arrow_csv.ConvertOptions(
            column_types=table.schema, null_values=[""], strings_can_be_null=True
        )
        read = arrow_csv.read_csv(found["csv"], convert_options=as_text)
        self.assertEqual(read.to_pylist(), table.to_pylist())
        sheet = CalamineWorkbook.from_filelike(found["xlsx"]).get_sheet_by_index(0).to_python()
        self.assertEqual(sheet[0], table.column_names)
        self.assertEqual(len(sheet) - 1, table.num_rows)
        days = [row for row in table.to_pylist() if row["kind of day"]]
        self.assertGreaterEqual(len(days), 12)
        from ember.balance.days import days as of_core

        for row, day in zip(days, of_core(analysis), strict=True):
            self.assertEqual(row["period"], day.day)
            self.assertEqual(row["cop"], day.cop.value if day.cop else None)
            self.assertEqual(row["U of cop"], day.cop.U if day.cop else None)
        at = table.column_names.index("cop")
        for row, of_table in zip(sheet[1:], table.to_pylist(), strict=True):
            if of_table["cop"] is None:
                self.assertEqual(row[at], "")
            else:  # a sheet keeps 16 digits
                self.assertAlmostEqual(row[at], of_table["cop"], places=12)
