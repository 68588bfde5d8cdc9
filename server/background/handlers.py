"""Importing and undoing as jobs."""

import shutil
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from ember.description.installation import Installation
from ember.description.logged import Column
from ember.unpacked import unpacked
from ember.unpacked.apart import keep as unpack
from server.archives.archive import restore
from server.assessments.cache import cache_results, renew
from server.jobs.models import Job
from server.jobs.running import Tell, handles
from server.readings.models import Import, Upload
from server.readings.store import StoreError, redo, store, undo
from server.readings.uploads import forget
from server.readings.weather import fetch
from server.systems.models import System

GONE = "The file that was sent is no longer there; send it again."
LARGEST_TABLE = 1 << 20  # of a rated table as text; more is none [bytes]


def read_with(system: System, columns: list[dict[str, Any]] | None) -> Installation:
    """The description to read a file with: its own, or with columns set by hand."""
    described = system.installation
    if columns is None:
        return described
    chosen = tuple(
        Column(
            c["header"],
            c["channel"],
            c.get("unit") or None,
            c.get("counts"),
            bool(c.get("each_row")),
            tuple((m["word"], m["state"]) for m in c.get("modes") or ()),
        )
        for c in columns
    )
    return replace(described, columns=chosen)


def _there(path: Path) -> Path:
    """A file that was sent. Raises StoreError where it is gone."""
    if not path.exists():
        raise StoreError(GONE)
    return path


@handles("import")
def _import(job: Job, tell: Tell) -> dict[str, Any]:
    assert job.system is not None
    if job.result.get("import"):  # stored before the worker stopped; the figures remain
        cache_results(job.system, tell)
        return {}
    upload = Upload.objects.filter(pk=job.asked["upload"]).first()
    if upload is None:
        raise StoreError(GONE)
    _there(upload.path)

    def note(batch: Import) -> None:
        Job.objects.filter(pk=job.pk).update(result={"import": batch.pk, "rows": batch.rows})

    described = read_with(job.system, job.asked.get("columns"))
    rule = job.asked.get("rule", Import.Rule.FILL)
    found = store(job.system, upload.path, tell, note, described, rule)
    if found.already:
        return {"already": found.batch.pk, "file": found.batch.file}
    shutil.rmtree(upload.path.parent, ignore_errors=True)
    cache_results(job.system, tell)
    return {}


@handles("open")
def _open(job: Job, tell: Tell) -> dict[str, Any]:
    """Makes a packed file into text, which is kept beside it until it is stored."""
    upload = Upload.objects.filter(pk=job.asked["upload"]).first()
    if upload is None:
        raise StoreError(GONE)
    _there(upload.path)
    tell(0.1, f"unpacking {upload.name}"[:200])
    unpack(upload.path)
    return {}


@handles("table")
def _table(job: Job, tell: Tell) -> dict[str, Any]:
    """Makes a spreadsheet with a rated table into text."""
    path = _there(Path(job.asked["file"]))
    tell(0.1, f"unpacking {path.name}"[:200])
    text = (
        unpacked(path, "spreadsheet").buffer.to_pybytes()[:LARGEST_TABLE].decode("utf-8", "ignore")
    )
    forget(path.parent)
    return {"text": text}


@handles("archive")
def _archive(job: Job, tell: Tell) -> dict[str, Any]:
    """Brings the installations of an archive in, and queues their figures."""
    path = Path(job.asked["file"])
    brought = job.result.get("systems")
    if brought is None:  # else they were stored before the worker stopped
        tell(0.1, f"looking at {_there(path).name}"[:200])

        def note(systems: list[System]) -> None:
            nonlocal brought
            brought = [{"id": one.pk, "name": one.name} for one in systems]
            Job.objects.filter(pk=job.pk).update(result={"systems": brought})

        restore(path, path.name, note)
    forget(path.parent)
    for one in System.objects.filter(pk__in=[given["id"] for given in brought or ()]):
        renew(one, job.user)
    return {"systems": brought}


@handles("weather")
def _weather(job: Job, tell: Tell) -> dict[str, Any]:
    """Fetches what is known outdoors; readings that are stored already stay."""
    system = job.system
    assert system is not None
    name = f"weather of {system.name}.csv"
    upload = Upload.objects.create(system=system, user=job.user, name=name, size=0)
    upload.path.parent.mkdir(parents=True, exist_ok=True)
    try:
        columns = fetch(system, upload.path, tell)

        def note(batch: Import) -> None:
            Job.objects.filter(pk=job.pk).update(result={"import": batch.pk, "rows": batch.rows})

        found = store(system, upload.path, tell, note, read_with(system, columns))
    finally:
        upload.forget()
    if found.already:
        return {"already": found.batch.pk, "file": found.batch.file}
    cache_results(system, tell)
    return {}


@handles("undo")
def _undo(job: Job, tell: Tell) -> dict[str, Any]:
    tell(0.1, "taking the readings out")
    return _turned(job, tell, Import.State.STORED, undo)


@handles("redo")
def _redo(job: Job, tell: Tell) -> dict[str, Any]:
    tell(0.1, "putting the readings back")
    return _turned(job, tell, Import.State.UNDONE, redo)


def _turned(job: Job, tell: Tell, before: str, turn: Callable[[Import], None]) -> dict[str, Any]:
    """Turns an import, unless that was done before the worker stopped; then the figures."""
    assert job.system is not None
    batch = Import.objects.get(pk=job.asked["import"])
    if batch.state == before:
        turn(batch)
    Job.objects.filter(pk=job.pk).update(result={"turned": batch.pk})
    cache_results(job.system, tell)
    return {}
