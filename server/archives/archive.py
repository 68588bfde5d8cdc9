"""A whole installation, or all of them, as one file that comes in again equal (docs/formats.md).

A zip archive: descriptions and everything written down as JSON, the readings of each import as
Parquet. Not in it: tokens of loggers (each gets a new one), figures (they are worked out anew),
users (names stay beside what they did only as long as they are known).
"""

import json
import secrets
import zipfile
from collections.abc import Callable, Iterable
from dataclasses import asdict
from datetime import UTC, datetime
from hashlib import sha256
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
import orjson
import pyarrow as pa
from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify
from pyarrow import parquet

from ember import VERSION
from ember.description.as_json import table_from_json, table_to_json
from ember.unpacked.apart import said_apart
from server.archives.contents import (
    FORMAT,
    FORMAT_VERSION,
    ChangePart,
    EntryPart,
    FindingStatusPart,
    SystemArchived,
    TablePart,
    opened,
)
from server.assessments.models import FindingEvent, FindingStatus, Proof
from server.readings.codec import decode, encode
from server.readings.entries import Written
from server.readings.folding import fold
from server.readings.live import hashed
from server.readings.models import Change, Entry, Import, Journal, Logger, Recipe
from server.readings.store import Conflict, compacted
from server.systems.models import Description, LibraryTable, System
from server.systems.names import twin_of

FINDING_STATUS = ("code", "state", "sentence", "measured", "U", "above", "reason")
IMPORT = ("file", "digest", "rule", "state", "rows", "start", "stop", "step", "report")


def write(systems: Iterable[System], path: Path) -> None:
    """Writes systems to an archive."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        listed = []
        sealed = _Sealed(archive)
        for k, system in enumerate(systems, 1):
            folder = f"systems/{k}-{slugify(system.name)[:60] or 'system'}"
            _write_system(sealed, folder, system)
            system.refresh_from_db()  # what waited of its loggers was folded in
            listed.append({"folder": folder, "name": system.name, "revision": system.revision})
        library = [
            {"name": t.name, "table": json.loads(t.table), "created": t.created.isoformat()}
            for t in LibraryTable.objects.all()
        ]
        sealed.writestr("library.json", _json(library))
        head = {
            "format": FORMAT,
            "version": FORMAT_VERSION,
            "core": VERSION,
            "made": timezone.now().isoformat(),
            "systems": listed,
            "files": sealed.sums,
        }
        archive.writestr("archive.json", _json(head))


class _Sealed:
    """An archive that is written, with the SHA-256 of each file."""

    def __init__(self, archive: zipfile.ZipFile) -> None:
        self.archive, self.sums = archive, dict[str, str]()

    def writestr(self, name: str | zipfile.ZipInfo, content: str | bytes, *how: int) -> None:
        """Writes a file."""
        data = content.encode() if isinstance(content, str) else content
        self.sums[name if isinstance(name, str) else name.filename] = sha256(data).hexdigest()
        self.archive.writestr(name, data, *how)


def _json(content: Any) -> str:
    return json.dumps(content, indent=1, ensure_ascii=False)


def _write_system(archive: _Sealed, folder: str, system: System) -> None:
    for logger in system.loggers.all():
        fold(logger)
    archive.writestr(f"{folder}/description.json", system.description)
    history = system.history.order_by("pk").values("text", "created")
    archive.writestr(
        f"{folder}/history.json",
        _json([{"text": h["text"], "created": h["created"].isoformat()} for h in history]),
    )
    imports = []
    for k, batch in enumerate(system.imports.select_related("logger").order_by("pk"), 1):
        name = f"{folder}/readings/{k}.parquet"
        imports.append(
            {
                **{field: getattr(batch, field) for field in IMPORT},
                "created": batch.created.isoformat(),
                "logger": batch.logger.name if batch.logger else None,
                "readings": name,
            }
        )
        archive.writestr(
            zipfile.ZipInfo(name), _readings(batch), zipfile.ZIP_STORED
        )  # packed by itself
    archive.writestr(f"{folder}/imports.json", _json(imports))
    entries = [
        {**_plain(entry), "created": entry.created.isoformat()} for entry in system.entries.all()
    ]
    archive.writestr(f"{folder}/entries.json", _json(entries))
    changes = [
        {
            "words": c.words,
            "before": c.before,
            "after": c.after,
            "undone": c.undone,
            "created": c.created.isoformat(),
        }
        for c in system.changes.order_by("pk")
    ]
    archive.writestr(f"{folder}/changes.json", _json(changes))
    recipes = list(system.recipes.order_by("pk").values("name", "headers", "columns"))
    archive.writestr(f"{folder}/recipes.json", _json(recipes))
    archive.writestr(f"{folder}/findings.json", _json([_status(x) for x in system.statuses.all()]))
    proofs = system.proofs.order_by("pk").values("key", "made_from", "made", "asked", "shown")
    archive.writestr(
        f"{folder}/proofs.json", _json([{**p, "made": p["made"].isoformat()} for p in proofs])
    )
    fields = ("name", "columns", "step", "seen", "latest", "drift", "readings", "problem")
    archive.writestr(
        f"{folder}/loggers.json", _json(list(system.loggers.order_by("pk").values(*fields)))
    )


def _status(status: FindingStatus) -> dict[str, Any]:
    """Where a finding stands, with its history, the first event first."""
    events = [
        {"state": e.state, "words": e.words, "at": e.at.isoformat()}
        for e in status.events.order_by("pk")
    ]
    fixed_on = status.fixed_on.isoformat() if status.fixed_on else None
    return {
        **{field: getattr(status, field) for field in FINDING_STATUS},
        "fixed_on": fixed_on,
        "events": events,
    }


def _plain(entry: Entry) -> dict[str, Any]:
    return asdict(Written(entry.pk, entry.kind, entry.time, entry.stop, entry.content))


def _readings(batch: Import) -> bytes:
    """An import's weeks as one Parquet table: time [s since 1970, UTC] and a column a channel, in
    the core's units; the metadata say which week holds what."""
    weeks, traces = [], []
    for entry in batch.journal.order_by("week"):
        trace = decode(bytes(entry.payload))
        traces.append(trace)
        weeks.append(
            {
                "week": entry.week,
                "start": trace.start,
                "step": trace.step,
                "rows": len(trace),
                "native": {name: trace.native_of(name) for name in sorted(trace.channels)},
            }
        )
    names = sorted({name for trace in traces for name in trace.channels})
    columns = {"time": np.concatenate([t.start + t.step * np.arange(len(t)) for t in traces])}
    for name in names:
        parts = [t.channels.get(name, np.full(len(t), np.nan)) for t in traces]
        columns[name] = np.concatenate(parts)
    table = pa.table({name: pa.array(values) for name, values in columns.items()})
    sink = BytesIO()
    named = table.replace_schema_metadata({"weeks": json.dumps(weeks)})
    parquet.write_table(named, sink, compression="zstd")
    return sink.getvalue()


def restore(
    path: Path, name: str = "", within: Callable[[list[System]], None] | None = None
) -> list[System]:
    """Brings the systems of an archive in, all or none. Raises StoreError, IntakeError.

    It is looked at as a whole first, in a process of its own: what it holds was written by whoever
    sent it.

    Parameters
    ----------
    name : of the file, for what is said. within : called in the transaction that stores.
    """
    name = name or path.name
    said_apart("server.archives.contents", [str(path), name], name)
    found = opened(path, name)
    for one in found.systems:
        if twin_of(one.described.name) is not None:
            raise Conflict(
                f"{name}: there is a system called '{one.described.name}' already; nothing was "
                "stored. Rename or remove it first."
            )
    with transaction.atomic():
        for table in found.library:
            _shelve(table)
        systems = [_restored(one) for one in found.systems]
        if within is not None:
            within(systems)
    return systems


def _shelve(table: TablePart) -> None:
    """A table of the library; one of that name stays as it is."""
    text = orjson.dumps(table_to_json(table_from_json(table.table))).decode()
    made, fresh = LibraryTable.objects.get_or_create(name=table.name, defaults={"table": text})
    if fresh:
        _dated(made, table.created)


def _restored(one: SystemArchived) -> System:
    system = System.objects.create(name=one.described.name, description=one.text)
    for edition in one.history:
        _dated(Description.objects.create(system=system, text=edition.text), edition.created)
    loggers = {}
    for part in one.loggers:
        unknown = hashed(secrets.token_urlsafe(24))
        loggers[part.name] = Logger.objects.create(
            system=system, token=unknown, revoked=timezone.now(), **part.model_dump()
        )
    weeks = set[int]()
    for given in one.imports:
        logger = loggers[given.logger] if given.logger is not None else None
        fields = {field: getattr(given, field) for field in IMPORT}
        batch = Import.objects.create(system=system, logger=logger, **fields)
        _dated(batch, given.created)
        for week, trace in one.readings(given):
            Journal.objects.create(batch=batch, week=week, payload=encode(trace))
            weeks.add(week)
    if weeks:
        compacted(system, sorted(weeks)).write()
    _restore_entries(system, one.entries, one.changes)
    Recipe.objects.bulk_create(Recipe(system=system, **r.model_dump()) for r in one.recipes)
    _restore_statuses(system, one.statuses)
    for proof in one.proofs:
        fields = proof.model_dump(exclude={"made"})
        if Proof.objects.filter(key=proof.key).exists():  # of a system that was renamed since
            fields["key"] = secrets.token_urlsafe(9)
        pinned = Proof.objects.create(system=system, **fields)
        Proof.objects.filter(pk=pinned.pk).update(made=proof.made)
    if one.listed.revision is not None:  # so that what was pinned is known to be of these readings
        System.objects.filter(pk=system.pk).update(revision=one.listed.revision)
    system.refresh_from_db()
    return system


def _dated(row: Any, created: datetime) -> None:
    """Gives a row the time at which it was first made."""
    type(row).objects.filter(pk=row.pk).update(created=created)


def _restore_statuses(system: System, statuses: list[FindingStatusPart]) -> None:
    """Where findings stand, and what happened to them."""
    for one in statuses:
        status = FindingStatus.objects.create(
            system=system, **one.model_dump(mode="json", exclude={"events"})
        )
        for event in one.events:
            made = FindingEvent.objects.create(status=status, state=event.state, words=event.words)
            FindingEvent.objects.filter(pk=made.pk).update(at=event.at)


def _restore_entries(system: System, entries: list[EntryPart], changes: list[ChangePart]) -> None:
    """Entries and their history under new keys."""
    keys: dict[int, int] = {}

    def key(old: int) -> int:
        if old not in keys:  # one that is gone: its key is taken, so that it can come back
            gone = Entry.objects.create(system=system, kind="note", time=0, content={})
            keys[old] = gone.pk
            gone.delete()
        return keys[old]

    for one in entries:
        made = Entry.objects.create(
            system=system, kind=one.kind, time=one.time, stop=one.stop, content=one.content
        )
        keys[one.id] = made.pk
        _dated(made, one.created)
    for change in changes:
        before, after = (
            [{**entry.model_dump(), "id": key(entry.id)} for entry in side]
            for side in (change.before, change.after)
        )
        made_change = Change.objects.create(
            system=system, words=change.words, undone=change.undone, before=before, after=after
        )
        _dated(made_change, change.created)


def whole(path: Path) -> None:
    """Writes all systems to an archive."""
    write(System.objects.order_by("name"), path)


def stamp() -> str:
    """The day, for a file's name."""
    return f"{datetime.now(UTC):%Y-%m-%d}"
