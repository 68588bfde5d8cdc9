"""A whole installation, or all of them, as one file that comes in again equal (docs/formats.md).

A zip archive: descriptions and everything written down as JSON, the readings of each import as
Parquet. Not in it: tokens of loggers (each gets a new one), figures (they are worked out anew),
users (names stay beside what they did only as long as they are known).
"""

import json
import secrets
import zipfile
from collections.abc import Iterable, Iterator
from dataclasses import asdict
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify
from pyarrow import parquet

from ember import VERSION
from ember.description import installation_from_json
from ember.trace import Trace
from ember.unpacked import check_zip
from server.analysis.models import Life, LifeEvent
from server.installations.models import Description, System
from server.logbook.codec import decode, encode
from server.logbook.entries import Written
from server.logbook.live import fold, hashed
from server.logbook.models import Change, Entry, Import, Journal, Logger, Recipe
from server.logbook.store import StoreError, compacted

FORMAT, FORMAT_VERSION = "honest-ember/archive", 1
LIFE = ("kind", "state", "sentence", "measured", "U", "above", "reason")
IMPORT = ("file", "digest", "rule", "state", "rows", "start", "stop", "step", "report")


def write(systems: Iterable[System], path: Path) -> None:
    """Writes systems to an archive."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        listed = []
        for k, system in enumerate(systems, 1):
            folder = f"systems/{k}-{slugify(system.name) or 'system'}"
            listed.append({"folder": folder, "name": system.name})
            _write_system(archive, folder, system)
        head = {
            "format": FORMAT, "version": FORMAT_VERSION, "core": VERSION,
            "made": timezone.now().isoformat(), "systems": listed,
        }  # fmt: skip
        archive.writestr("archive.json", _json(head))


def _json(content: Any) -> str:
    return json.dumps(content, indent=1, ensure_ascii=False)


def _write_system(archive: zipfile.ZipFile, folder: str, system: System) -> None:
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
            "words": c.words, "before": c.before, "after": c.after, "undone": c.undone,
            "created": c.created.isoformat(),
        }
        for c in system.changes.order_by("pk")
    ]  # fmt: skip
    archive.writestr(f"{folder}/changes.json", _json(changes))
    recipes = list(system.recipes.order_by("pk").values("name", "headers", "columns"))
    archive.writestr(f"{folder}/recipes.json", _json(recipes))
    archive.writestr(f"{folder}/findings.json", _json([_life(x) for x in system.lives.all()]))
    fields = ("name", "columns", "step", "seen", "latest", "drift", "readings", "problem")
    archive.writestr(
        f"{folder}/loggers.json", _json(list(system.loggers.order_by("pk").values(*fields)))
    )


def _life(life: Life) -> dict[str, Any]:
    """Where a finding stands, with its history, the first event first."""
    events = [
        {"state": e.state, "words": e.words, "at": e.at.isoformat()}
        for e in life.events.order_by("pk")
    ]
    fixed_on = life.fixed_on.isoformat() if life.fixed_on else None
    return {**{field: getattr(life, field) for field in LIFE}, "fixed_on": fixed_on,
            "events": events}  # fmt: skip


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
                "week": entry.week, "start": trace.start, "step": trace.step, "rows": len(trace),
                "native": {name: trace.native_of(name) for name in sorted(trace.channels)},
            }
        )  # fmt: skip
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


def restore(path: Path, name: str = "") -> list[System]:
    """Brings the systems of an archive in, all or none. Raises StoreError, IntakeError.

    Parameters
    ----------
    name : of the file, for what is said.
    """
    name = name or path.name
    check_zip(path)
    try:
        with zipfile.ZipFile(path) as archive:
            head = json.loads(archive.read("archive.json"))
            if head.get("format") != FORMAT or head.get("version") != FORMAT_VERSION:
                raise StoreError(
                    f"{name}: this is no archive of a kind that is read here ({FORMAT}, version "
                    f"{FORMAT_VERSION})."
                )
            with transaction.atomic():
                return [_restored(archive, one["folder"], name) for one in head["systems"]]
    except KeyError as error:
        raise StoreError(
            f"{name}: {error.args[0]} is missing in the archive; nothing was stored. Is this a "
            "whole archive of Honest Ember?"
        ) from error
    except (zipfile.BadZipFile, json.JSONDecodeError, pa.ArrowInvalid, TypeError) as error:
        raise StoreError(
            f"{name}: the archive is damaged ({error}); nothing was stored."
        ) from error


def _restored(archive: zipfile.ZipFile, folder: str, name: str) -> System:
    def read(what: str) -> Any:
        return json.loads(archive.read(f"{folder}/{what}.json"))

    described = installation_from_json(archive.read(f"{folder}/description.json"), name)
    if System.objects.filter(name=described.name).exists():
        raise StoreError(
            f"{name}: there is a system called '{described.name}' already; nothing was stored. "
            "Rename or remove it first."
        )
    text = archive.read(f"{folder}/description.json").decode()
    system = System.objects.create(name=described.name, description=text)
    for one in read("history"):
        made = Description.objects.create(system=system, text=one["text"])
        _dated(made, one["created"])
    loggers = {}
    for one in read("loggers"):
        unknown = hashed(secrets.token_urlsafe(24))
        loggers[one["name"]] = Logger.objects.create(
            system=system, token=unknown, revoked=timezone.now(), **one
        )
    weeks = set[int]()
    for one in read("imports"):
        logger = loggers.get(one["logger"]) if one["logger"] else None
        fields = {field: one[field] for field in IMPORT}
        batch = Import.objects.create(system=system, logger=logger, **fields)
        _dated(batch, one["created"])
        content = archive.read(one["readings"])
        for week, trace in _weeks(content):
            Journal.objects.create(batch=batch, week=week, payload=encode(trace))
            weeks.add(week)
    if weeks:
        compacted(system, sorted(weeks)).write()
    _restore_entries(system, read("entries"), read("changes"))
    Recipe.objects.bulk_create(Recipe(system=system, **one) for one in read("recipes"))
    if f"{folder}/findings.json" in archive.namelist():  # archives of before have none
        _restore_lives(system, read("findings"))
    return system


def _dated(row: Any, created: str) -> None:
    """Gives a row the time at which it was first made."""
    type(row).objects.filter(pk=row.pk).update(created=datetime.fromisoformat(created))


def _weeks(content: bytes) -> Iterator[tuple[int, Trace]]:
    table = parquet.read_table(BytesIO(content))
    first = 0
    for one in json.loads(table.schema.metadata[b"weeks"]):
        part = table.slice(first, one["rows"])
        first += one["rows"]
        channels = {name: part.column(name).to_numpy() for name in one["native"]}
        yield one["week"], Trace(one["start"], one["step"], channels, one["native"])


def _restore_lives(system: System, lives: list[dict[str, Any]]) -> None:
    """Where findings stand, and what happened to them."""
    for one in lives:
        events = one.pop("events")
        life = Life.objects.create(system=system, **one)
        for event in events:
            made = LifeEvent.objects.create(life=life, state=event["state"], words=event["words"])
            LifeEvent.objects.filter(pk=made.pk).update(at=datetime.fromisoformat(event["at"]))


def _restore_entries(
    system: System, entries: list[dict[str, Any]], changes: list[dict[str, Any]]
) -> None:
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
            system=system, kind=one["kind"], time=one["time"], stop=one["stop"],
            content=one["content"],
        )  # fmt: skip
        keys[one["id"]] = made.pk
        _dated(made, one["created"])
    for one in changes:
        moved = {
            side: [{**entry, "id": key(entry["id"])} for entry in one[side]]
            for side in ("before", "after")
        }
        made_change = Change.objects.create(
            system=system, words=one["words"], undone=one["undone"], **moved
        )
        _dated(made_change, one["created"])


def whole(path: Path) -> None:
    """Writes all systems to an archive."""
    write(System.objects.order_by("name"), path)


def stamp() -> str:
    """The day, for a file's name."""
    return f"{datetime.now(UTC):%Y-%m-%d}"
