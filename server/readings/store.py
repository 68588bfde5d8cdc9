"""Imports into the store, their undo, and the trace back out.

Parsing, merging and encoding happen outside any transaction; what is ready is then written in one
short one. A crash before it leaves nothing, after it everything.
"""

import hashlib
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from django.db import transaction

from ember.assessment.export import to_json
from ember.basis.channels import ELECTRICITY_PRICE
from ember.basis.errors import EmberError, IntakeError
from ember.basis.series import Trace
from ember.description.installation import Installation
from ember.intake import IntakeReport, laid_over
from server.jobs.running import Tell
from server.readings.codec import (
    WEEK,
    decode,
    encode,
    summarise,
    week_start,
    without_known,
)
from server.readings.models import Block, Import, Journal
from server.readings.staging import Read, forget, read
from server.systems.models import System

STORE_ATTEMPTS = 5  # times a merge is made anew because another import came between


def silent(progress: float, doing: str) -> None:
    """Tells nobody."""


class StoreError(EmberError):
    """Something the store cannot do; a sentence for the user."""


class NotThere(StoreError):
    """What was asked for is not there, or not any more."""


class Conflict(StoreError):
    """What is there already, or changes meanwhile, stands against it."""


@dataclass(frozen=True)
class Stored:
    """What came of an import. already : the same file was stored before; nothing was added."""

    batch: Import
    report: IntakeReport | None
    already: bool


@dataclass(frozen=True)
class _Week:
    """A week ready to be written. before : key of the block it was merged with, None for none."""

    week: int
    before: int | None
    journal: bytes
    payload: bytes
    overview: bytes


def store(
    system: System,
    path: Path,
    tell: Tell = silent,
    within: Callable[[Import], None] | None = None,
    installation: Installation | None = None,
    rule: str = Import.Rule.FILL,
) -> Stored:
    """Imports a file. The same file again adds nothing. Raises IntakeError, StoreError.

    Parameters
    ----------
    tell : told how far it is, 0 … 1, and what it does; may raise to stop, and nothing is stored.
    within : called in the transaction that stores.
    installation : the description to read with, if its columns differ from the stored one's.
    rule : what happens where readings are stored already.
    """
    tell(0.02, f"reading {path.name}")
    described = installation or system.installation
    with ThreadPoolExecutor(2) as pool:
        hashing = pool.submit(digest_of, path)  # beside the reading
        try:
            found = read(system, path, described, hashing.result, pool.map, tell)
            stored = _stored(system, path.name, found, hashing.result(), rule, tell, within, pool)
        except Exception:  # refused or cancelled: nothing is to be gone on with
            forget(system, hashing.result())
            raise
    forget(system, hashing.result())
    return stored


def _stored(
    system: System,
    name: str,
    found: Read,
    digest: str,
    rule: str,
    tell: Tell,
    within: Callable[[Import], None] | None,
    pool: ThreadPoolExecutor,
) -> Stored:
    """Lays what was read over the blocks, and writes it in one short transaction."""
    alike = system.imports.filter(digest=digest, state=Import.State.STORED)
    if (same := alike.first()) is not None:
        return Stored(same, None, True)
    parts, entries = found.parts, list(found.entries.values())
    for _ in range(STORE_ATTEMPTS):
        tell(0.6, "laying the readings over those that are stored")
        stored = {b.week: b for b in system.blocks.filter(week__in=list(parts))}
        blocks = [stored.get(week) for week in parts]
        rules = [rule] * len(parts)
        weeks = list(pool.map(_merged, parts, parts.values(), entries, blocks, rules))
        tell(0.8, "storing")
        with transaction.atomic():
            if (same := alike.first()) is not None:  # sent twice at the same time
                return Stored(same, None, True)
            if not _unchanged(system, weeks):
                continue
            batch = Import.objects.create(
                system=system,
                file=name,
                digest=digest,
                rows=found.report.rows,
                start=found.start,
                stop=found.stop,
                step=found.step,
                report=to_json(intake=found.report).decode(),
                rule=rule,
            )
            Journal.objects.bulk_create(
                Journal(batch=batch, week=w.week, payload=w.journal) for w in weeks
            )
            _write(system, weeks)
            if within is not None:
                within(batch)
        return Stored(batch, found.report, False)
    raise Conflict(f"{name}: other imports keep changing the same weeks; try again.")


def undo(batch: Import) -> None:
    """Takes an import out again; its journal is kept. Raises StoreError if it is not stored."""
    _turn(batch, Import.State.STORED, Import.State.UNDONE, "undone already")


def redo(batch: Import) -> None:
    """Puts an import back from its journal. Raises StoreError if it is stored."""
    _turn(batch, Import.State.UNDONE, Import.State.STORED, "stored already")


def _turn(batch: Import, before: str, after: str, otherwise: str) -> None:
    """Changes an import's state: its weeks are compacted anew from the journals that then hold."""
    system = batch.system
    for _ in range(STORE_ATTEMPTS):
        batch.refresh_from_db()
        if batch.state != before:
            raise Conflict(f"{batch.file}: this import is {otherwise}.")
        touched = list(batch.journal.values_list("week", flat=True))
        back = after == Import.State.STORED
        ready = compacted(system, touched, also=batch if back else None, less=batch)
        with transaction.atomic():
            if not ready.unchanged():
                continue
            ready.write()
            batch.state = after
            batch.save(update_fields=["state"])
        return
    raise Conflict(f"{batch.file}: other imports keep changing the same weeks; try again.")


@dataclass(frozen=True)
class Ready:
    """Weeks that were compacted anew, to be written within a transaction."""

    system: System
    weeks: list[_Week]

    def unchanged(self) -> bool:
        """Whether nobody wrote these weeks meanwhile."""
        return _unchanged(self.system, self.weeks)

    def write(self) -> None:
        """Takes the place of the blocks."""
        _write(self.system, self.weeks)


def compacted(
    system: System,
    touched: list[int],
    instead: Mapping[tuple[int | None, int], Trace] | None = None,
    also: Import | None = None,
    less: Import | None = None,
) -> Ready:
    """Weeks laid anew from the journals of the stored imports, in their order.

    Parameters
    ----------
    instead : of an import and a week, what its journal will hold; of None, a new import's.
    also, less : an import that counts, or does not, whatever its state.
    """
    instead = instead or {}
    blocks = dict(system.blocks.filter(week__in=touched).values_list("week", "pk"))
    holding = set(system.imports.filter(state=Import.State.STORED).values_list("pk", flat=True))
    if less is not None:
        holding.discard(less.pk)
    if also is not None:
        holding.add(also.pk)
    laid: dict[int, Trace] = {}

    def lay(week: int, part: Trace, rule: str) -> None:
        stored = laid.get(week)
        laid[week] = part if stored is None else _laid(stored, part, rule)

    entries = Journal.objects.filter(batch__in=holding, week__in=touched)
    for entry in entries.order_by("batch_id").select_related("batch").iterator():
        part = instead.get((entry.batch_id, entry.week))
        lay(entry.week, part or decode(bytes(entry.payload)), entry.batch.rule)
    for (key, week), part in instead.items():
        if key is None:
            lay(week, part, Import.Rule.FILL)
    weeks = []
    for week in touched:
        merged = laid.get(week)
        payload = encode(merged) if merged else b""
        overview = summarise(merged, week) if merged else b""
        weeks.append(_Week(week, blocks.get(week), b"", payload, overview))
    return Ready(system, weeks)


def trace_of(
    system: System,
    start: float | None = None,
    stop: float | None = None,
    channels: tuple[str, ...] | None = None,
    step: int | None = None,
) -> Trace:
    """The stored readings as one trace, all or between two instants, all channels or some.

    Parameters
    ----------
    step : of the grid [s], if it is to be finer than that of these readings.

    Raises StoreError if there are none.
    """
    blocks = system.blocks.order_by("week")
    if start is not None:
        blocks = blocks.filter(week__gte=(start - week_start(0)) // WEEK)
    if stop is not None:
        blocks = blocks.filter(week__lt=-(-(stop - week_start(0)) // WEEK))
    payloads = [bytes(p) for p in blocks.values_list("payload", flat=True)]
    if not payloads:
        raise NotThere(f"{system.name}: no readings are stored for this time.")
    if len(payloads) > 4:
        with ThreadPoolExecutor(2) as pool:
            parts = list(pool.map(lambda p: decode(p, channels), payloads))
    else:
        parts = [decode(p, channels) for p in payloads]
    whole = _joined(parts, step)
    if start is None and stop is None and ELECTRICITY_PRICE in whole:
        # Prices are sold for years: they make a record no longer than its meters do.
        return whole.known_but_for(ELECTRICITY_PRICE)
    return whole.between(
        whole.start if start is None else start, whole.stop if stop is None else stop
    )


def _joined(parts: list[Trace], step: int | None) -> Trace:
    """Weeks one after the other; one grid if all have the same step, else the finest."""
    finest = min(part.step for part in parts)
    step = min(step or finest, finest)
    if any(part.step != step for part in parts):
        return laid_over(parts, step)
    start, stop = parts[0].start, parts[-1].stop
    names = dict.fromkeys(name for part in parts for name in part.channels)
    channels = {name: np.full((stop - start) // step, np.nan) for name in names}
    native: dict[str, float] = {}
    for part in parts:
        first = (part.start - start) // step
        for name, values in part.channels.items():
            channels[name][first : first + len(values)] = values
            native[name] = max(native.get(name, 0.0), part.native_of(name))
    return Trace(start, step, channels, native)


def _blake() -> Any:
    return hashlib.blake2b(digest_size=32)


def digest_of(path: Path) -> str:
    """BLAKE2b of a file's bytes, 32 long. Raises IntakeError."""
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, _blake).hexdigest()
    except OSError as error:
        raise IntakeError(f"{path.name}: the file cannot be read ({error.strerror}).") from error


def _merged(week: int, part: Trace | None, journal: bytes, block: Block | None, rule: str) -> _Week:
    part = decode(journal) if part is None else part
    if block is None:
        return _Week(week, None, journal, journal, summarise(part, week))
    merged = _laid(decode(bytes(block.payload)), part, rule)
    return _Week(week, block.pk, journal, encode(merged), summarise(merged, week))


def _laid(stored: Trace, part: Trace, rule: str) -> Trace:
    """A part laid over what is stored of its week, by its rule."""
    if rule == Import.Rule.REPLACE:
        return laid_over([part, stored])
    if rule == Import.Rule.KEEP:
        part = without_known(part, stored)
    return laid_over([stored, part])


def _unchanged(system: System, weeks: list[_Week]) -> bool:
    """Whether the blocks are still those that the weeks were merged with."""
    numbers = [w.week for w in weeks]
    now = dict(system.blocks.filter(week__in=numbers).values_list("week", "pk"))
    return all(now.get(w.week) == w.before for w in weeks)


def _write(system: System, weeks: list[_Week]) -> None:
    """Replaces the blocks of some weeks; a week without readings goes."""
    system.readings_changed()
    system.blocks.filter(week__in=[w.week for w in weeks]).delete()
    Block.objects.bulk_create(
        Block(
            system=system,
            week=w.week,
            payload=w.payload,
            overview=w.overview,
        )
        for w in weeks
        if w.payload
    )
