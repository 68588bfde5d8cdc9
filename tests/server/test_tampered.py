"""Archives that were changed on the way: refused with a sentence before anything is stored."""

import copy
import hashlib
import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
import pyarrow as pa
from django.test import TestCase
from pyarrow import parquet

from ember.basis.errors import EmberError, IntakeError
from server.archives import archive
from server.archives.contents import opened
from server.assessments.cache import cache_results, find, state_of
from server.assessments.models import Proof
from server.readings.models import Import
from server.readings.store import store
from server.systems.models import LibraryTable, System
from tests.server.helpers import log, part, signed_in, system

Files = dict[str, bytes]
Change = Callable[[Files], None]


def at(path: str, change: Callable[[Any], Any]) -> Change:
    """Changes a JSON file; what the change gives back takes its place, where that is something."""

    def changed(files: Files) -> None:
        name = next(n for n in files if n.endswith(path))
        content = json.loads(files[name])
        files[name] = json.dumps(change(content) or content).encode()

    return changed


def put(*keys: Any) -> Callable[[Any], None]:
    """Puts the last of some keys in the place that the others name."""

    def setting(content: Any) -> None:
        *way, last, value = keys
        for key in way:
            content = content[key]
        content[last] = value

    return setting


def weeks(change: Callable[[list[dict[str, Any]]], Any]) -> Change:
    """Changes what a Parquet file says of its weeks."""

    def changed(files: Files) -> None:
        name = next(n for n in files if n.endswith("1.parquet"))
        table = parquet.read_table(io.BytesIO(files[name]))
        said = json.loads(table.schema.metadata[b"weeks"])
        said = change(said) or said
        sink = io.BytesIO()
        parquet.write_table(table.replace_schema_metadata({"weeks": json.dumps(said)}), sink)
        files[name] = sink.getvalue()

    return changed


def readings(change: Callable[[pa.Table], pa.Table]) -> Change:
    """Changes the readings of a Parquet file."""

    def changed(files: Files) -> None:
        name = next(n for n in files if n.endswith("1.parquet"))
        table = parquet.read_table(io.BytesIO(files[name]))
        made = change(table).replace_schema_metadata(table.schema.metadata)
        sink = io.BytesIO()
        parquet.write_table(made, sink)
        files[name] = sink.getvalue()

    return changed


def column(name: str, value: Any) -> Callable[[pa.Table], pa.Table]:
    """A table with another column in the place of one."""

    def changed(table: pa.Table) -> pa.Table:
        k = table.column_names.index(name)
        return table.set_column(k, name, pa.array([value] * table.num_rows))

    return changed


def without(ending: str) -> Change:
    """Takes a file out."""

    def changed(files: Files) -> None:
        del files[next(n for n in files if n.endswith(ending))]

    return changed


def bytes_at(ending: str, content: bytes) -> Change:
    """Puts other bytes in the place of a file's."""

    def changed(files: Files) -> None:
        files[next(n for n in files if n.endswith(ending))] = content

    return changed


NOTE = {"id": 1, "kind": "observation", "time": 0, "stop": None, "created": "2026-01-01T00:00:00Z"}
CHANGES: dict[str, Change] = {
    "no systems": at("archive.json", put("systems", [])),
    "another format": at("archive.json", put("format", "x")),
    "another version": at("archive.json", put("version", 3)),
    "a folder outside": at("archive.json", put("systems", 0, "folder", "../x")),
    "a list for an object": at("archive.json", lambda _: [1]),
    "no object": bytes_at("archive.json", b"null"),
    "no JSON": bytes_at("imports.json", b"{"),
    "no UTF-8": bytes_at("entries.json", b'["\xff"]'),
    "an empty file": bytes_at("loggers.json", b""),
    "nested without end": bytes_at("changes.json", b"[" * 100_000),
    "no description": without("description.json"),
    "no readings": without("1.parquet"),
    "a description that is none": at("description.json", put("zone", "nowhere")),
    "a description of another name": at("description.json", put("name", "another")),
    "a history that is none": at("history.json", put(0, "text", "[]")),
    "negative rows": at("imports.json", put(0, "rows", -5)),
    "rows without end": at("imports.json", put(0, "rows", 10**30)),
    "an import that ends first": at("imports.json", put(0, "stop", 0)),
    "a step of nothing": at("imports.json", put(0, "step", 0)),
    "an unknown state": at("imports.json", put(0, "state", "lost")),
    "an unknown rule": at("imports.json", put(0, "rule", "burn")),
    "a logger that is not there": at("imports.json", put(0, "logger", "nobody")),
    "a report that is none": at("imports.json", put(0, "report", "{}")),
    "a report with another channel": at(
        "imports.json", lambda x: put(0, "report", x[0]["report"].replace("flow_temp", "fl"))(x)
    ),
    "a field too many": at("imports.json", put(0, "extra", 1)),
    "a date that is none": at("imports.json", put(0, "created", "yesterday")),
    "a date without its zone": at("imports.json", put(0, "created", "2026-01-01T00:00:00")),
    "a name of 300": at("imports.json", put(0, "file", "x" * 300)),
    "a name with NUL": at("imports.json", put(0, "file", "a\x00b")),
    "an entry of another kind": at(
        "entries.json", lambda _: [{**NOTE, "kind": "dream", "content": {}}]
    ),
    "an entry without content": at("entries.json", lambda _: [{**NOTE, "content": {}}]),
    "a reading that is infinite": bytes_at(
        "entries.json",
        json.dumps([{**NOTE, "kind": "reading", "content": {
            "values": {"a": float("inf")}, "since": None, "note": "", "turns": {},
        }}]).encode(),
    ),
    "an entry twice": at(
        "entries.json", lambda _: [
            {**NOTE, "content": {"kind": "noise", "note": "", "photo": ""}},
        ] * 2,
    ),
    "a finding of no state": at("findings.json", lambda _: [{
        "kind": "x", "state": "odd", "sentence": "", "measured": 1.0, "U": 0.1, "above": True,
        "reason": "", "fixed_on": None, "events": [],
    }]),
    "a proof that is none": at("proofs.json", lambda _: [{
        "key": "x", "made_from": "0" * 64, "made": "2026-01-01T00:00:00Z", "asked": "[]",
        "shown": "{}",
    }]),
    "a table that is none": at("library.json", lambda _: [{
        "name": "x", "table": {"points": []}, "created": "2026-01-01T00:00:00Z",
    }]),
    "no weeks": weeks(lambda w: w.clear()),
    "weeks of fewer rows": weeks(put(0, "rows", 5)),
    "weeks of negative rows": weeks(put(0, "rows", -5)),
    "a week elsewhere": weeks(put(0, "week", 1)),
    "a week at another time": weeks(lambda w: put(0, "start", w[0]["start"] + 60)(w)),
    "a step that is none": weeks(put(0, "step", 0)),
    "a channel that is not there": weeks(put(0, "native", {"power:other": 60.0})),
    "an interval of nothing": weeks(put(0, "native", {"flow_temp": 0.0})),
    "a Parquet file that is none": bytes_at("1.parquet", b"PAR1"),
    "infinite readings": readings(column("flow_temp", float("inf"))),
    "words for readings": readings(column("flow_temp", "warm")),
    "times that are none": readings(column("time", 0)),
    "a column that is no channel": readings(
        lambda t: t.append_column("mood", pa.array(np.ones(t.num_rows)))
    ),
    "a column less": readings(lambda t: t.drop_columns(["flow_temp"])),
}  # fmt: skip


class Tampered(TestCase):
    files: Files

    @classmethod
    def setUpTestData(cls) -> None:
        mine = system(days=12)
        store(mine, part(log(), 0, 9000, "first.csv"))
        cache_results(mine)
        with TemporaryDirectory() as folder:
            path = Path(folder) / "all.zip"
            archive.whole(path)
            with zipfile.ZipFile(path) as packed:
                cls.files = {name: packed.read(name) for name in packed.namelist()}
        System.objects.all().delete()

    def packed(self, files: Files, sealed: bool) -> Path:
        """An archive of files. sealed : with the sums that fit them, as who tampers would."""
        path = Path(self.enterContext(TemporaryDirectory())) / "a.zip"
        if sealed and "archive.json" in files:
            try:
                head = json.loads(files["archive.json"])
                head["files"] = {
                    name: hashlib.sha256(content).hexdigest()
                    for name, content in files.items()
                    if name != "archive.json"
                }
                files["archive.json"] = json.dumps(head).encode()
            except (TypeError, ValueError):
                pass  # the head itself was tampered with
        with zipfile.ZipFile(path, "w") as archive_:
            for name, content in files.items():
                archive_.writestr(name, content)
        return path

    def test_untouched_it_comes_in(self) -> None:
        found = opened(self.packed(copy.deepcopy(self.files), True), "a.zip")
        self.assertEqual(len(found.systems), 1)

    def test_each_is_refused_with_a_sentence(self) -> None:
        for what, change in CHANGES.items():
            with self.subTest(what):
                files = copy.deepcopy(self.files)
                change(files)
                with self.assertRaises(EmberError) as refused:
                    opened(self.packed(files, True), "a.zip")
                self.assertTrue(str(refused.exception).startswith("a.zip"), refused.exception)

    def test_a_byte_that_fell_over(self) -> None:
        files = copy.deepcopy(self.files)
        name = next(n for n in files if n.endswith("description.json"))
        files[name] = files[name].replace(b"Nursery", b"Nursary")
        with self.assertRaisesRegex(EmberError, "not what was written"):
            opened(self.packed(files, False), "a.zip")

    def test_one_with_a_password_or_cut_off(self) -> None:
        path = self.packed(copy.deepcopy(self.files), True)
        content = bytearray(path.read_bytes())
        locked = bytearray(content)
        for k in range(len(locked) - 4):  # each entry says that it is encrypted (APPNOTE 4.4.4)
            if locked[k : k + 4] in (b"PK\x03\x04", b"PK\x01\x02"):
                locked[k + (6 if locked[k + 2] == 3 else 8)] |= 1
        for odd, word in ((locked, "password"), (content[: len(content) // 2], "damaged")):
            path.write_bytes(odd)
            with self.assertRaisesRegex(EmberError, word):
                opened(path, "a.zip")

    def test_nothing_is_stored_of_one_that_is_refused(self) -> None:
        files = copy.deepcopy(self.files)
        CHANGES["infinite readings"](files)
        with self.assertRaisesRegex(IntakeError, "infinite"):
            archive.restore(self.packed(files, True), "a.zip")
        self.assertFalse(System.objects.exists() or Import.objects.exists())


class LibraryAndProofs(TestCase):
    def test_they_come_in_again_and_a_proof_is_known_to_be_of_the_same_readings(self) -> None:
        mine = system(days=12)
        store(mine, part(log(), 0, 9000, "first.csv"))
        cache_results(mine)
        mine.refresh_from_db()
        client = signed_in()
        table = json.loads(mine.description)["rated"]
        client.post("/api/v1/library", {"name": "Type 8", "table": table}, "application/json")
        asked = {"start": "2025-10-02", "stop": "2025-10-05", "level": "H2", "what": "cop"}
        key = client.post(f"/api/v1/systems/{mine.pk}/proofs", asked, "application/json").json()[
            "key"
        ]
        before = client.get(f"/api/v1/proofs/{key}").json()
        self.assertFalse(before["changed"])
        path = Path(self.enterContext(TemporaryDirectory())) / "all.zip"
        archive.whole(path)
        System.objects.all().delete()
        LibraryTable.objects.all().delete()
        (again,) = archive.restore(path)
        self.assertEqual(LibraryTable.objects.get().name, "Type 8")
        self.assertEqual(Proof.objects.get().key, key)
        cache_results(again)
        again.refresh_from_db()
        self.assertFalse(find(again).stale)
        self.assertEqual(state_of(again), Proof.objects.get().made_from)
        after = client.get(f"/api/v1/proofs/{key}").json()
        self.assertEqual((after["changed"], after["then"]), (False, before["then"]))
