"""Readings as they come: taken at once, laid into the blocks a few seconds later.

Taking a batch is one short transaction. Folding lays waiting batches into the weeks of the logger's
own imports, and those into the blocks, by the same way as a file.
"""

import hashlib
import logging
import secrets
import sqlite3
import threading
import time
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

import numpy as np
import orjson
from django.db import IntegrityError, transaction
from django.utils import timezone

from ember.basis.errors import EmberError
from ember.intake import laid_over
from ember.intake.live import Sample, SentBatch
from server.readings import tasks
from server.readings.codec import decode, week_of
from server.readings.models import Batch, Import, Journal, Logger
from server.readings.store import Conflict, StoreError
from server.systems.models import System
from server.systems.names import alike, clean

log = logging.getLogger(__name__)
WAITING = 20_000  # batches of a logger that may wait, before it is asked to wait
LIVE_REMEMBERED = 1.0  # for which a logger's row is taken as it was [s]
RETRY = 30  # what it is told to wait [s]
RAW = timedelta(days=30)  # for which batches are kept as they came
GAP = 600.0  # a silence longer than this, and than three steps, is a gap [s]


class Busy(EmberError):
    """Too much waits; try again later."""


class Stranger(EmberError):
    """No logger has this token, or it was revoked."""


@dataclass(frozen=True)
class Taken:
    """What became of a batch. already : it was taken before."""

    accepted: int
    already: bool


def hashed(token: str) -> str:
    """A token as it is kept."""
    return hashlib.sha256(token.encode()).hexdigest()


def register(system: System, name: str) -> tuple[Logger, str]:
    """A new logger and its token, which is shown once. Raises StoreError."""
    if not name.strip():
        raise StoreError("name: give the logger one.")
    name = clean(name)
    for other in system.loggers.values_list("name", flat=True):
        if alike(name, other):
            raise Conflict(f"name: {system.name} has a logger '{other}' already.")
    token = secrets.token_hex(24)
    return Logger.objects.create(system=system, name=name, token=hashed(token)), token


def renew_token(logger: Logger) -> str:
    """A new token; the old one is worth nothing from now on."""
    token = secrets.token_hex(24)
    logger.token, logger.revoked = hashed(token), None
    logger.save(update_fields=["token", "revoked"])
    _known.clear()
    return token


def revoke(logger: Logger) -> None:
    """Its token is worth nothing from now on; what it sent stays."""
    logger.revoked = timezone.now()
    logger.save(update_fields=["revoked"])
    _known.clear()


@dataclass(frozen=True)
class KnownLogger:
    """A logger as it was a moment ago; waiting : batches that are not folded."""

    at: float
    logger: Logger
    waiting: int


def logger_of(token: str) -> KnownLogger:
    """The logger with a token, as it was at most a second ago. Raises Stranger."""
    mark = hashed(token)
    known = _known.get(mark)
    if known is None or time.monotonic() - known.at > LIVE_REMEMBERED:
        found = Logger.objects.filter(token=mark).first()
        if found is None:
            raise Stranger("no logger has this token.")
        known = _known[mark] = known_now(found)
    logger = known.logger
    if logger.revoked is not None:
        raise Stranger(f"the token of '{logger.name}' was revoked on {logger.revoked:%Y-%m-%d}.")
    return known


def known_now(logger: Logger) -> KnownLogger:
    """A logger with what waits of it now."""
    return KnownLogger(time.monotonic(), logger, logger.batches.filter(folded=False).count())


def digest_of(readings: Sequence[Sample]) -> str:
    """Of what a batch says, however it is written: of readings of one name at one time the order
    counts, since the later one holds; of others it does not."""
    ordered = sorted(readings, key=lambda sample: sample[:2])
    return hashlib.blake2b(orjson.dumps(ordered), digest_size=32).hexdigest()


def take(known: KnownLogger, sent: SentBatch, now: float) -> Taken:
    """Keeps a batch; the same one again changes nothing. Raises Busy, StoreError.

    Batches that come while another is written are written together, in the next transaction.
    """
    logger = known.logger
    if known.waiting >= WAITING:
        raise Busy(f"{known.waiting:,} batches wait to be stored; try again in {RETRY} s.")
    said = f"row {sent.refused[0].place}: {sent.refused[0].why}"[:300] if sent.refused else ""
    if not sent.readings:
        Logger.objects.filter(pk=logger.pk).update(seen=now, problem=said)
        return Taken(0, False)
    digest = digest_of(sent.readings)
    times = [int(when) for when, _, _ in sent.readings]
    row = Batch(
        logger=logger,
        key=sent.key or digest,
        digest=digest,
        received=now,
        first=min(times),
        last=max(times),
        count=len(sent.readings),
        sent=sent.sent,
        problem=said,
        payload=orjson.dumps(sent.readings),
    )
    post = _Post(row)
    _queue.append(post)
    with _writing:
        if not post.over:  # else another thread wrote it while this one waited
            group = [_queue.popleft() for _ in range(len(_queue))]
            try:
                _written(group)
            except Exception as error:
                for one in group:
                    one.failed = error
            for one in group:
                one.over = True
    if post.failed is not None:
        raise post.failed
    if not post.already:
        _ask()
    return Taken(0 if post.already else row.count, post.already)


@dataclass
class _Post:
    """A batch on its way into the database."""

    row: Batch
    over: bool = False
    already: bool = False
    failed: Exception | None = None


_queue: deque[_Post] = deque()
_writing = threading.Lock()
_known: dict[str, KnownLogger] = {}
_asked = -1e9


def _written(group: list[_Post]) -> None:
    """Writes batches in one transaction, each key once."""
    try:
        with transaction.atomic():
            Batch.objects.bulk_create([post.row for post in group])
    except IntegrityError:  # a key came before
        with transaction.atomic():
            _written_once(group)


def _written_once(group: list[_Post]) -> None:
    places = {(post.row.logger_id, post.row.key) for post in group}
    before = Batch.objects.filter(
        logger__in={logger for logger, _ in places}, key__in={key for _, key in places}
    )
    known = {(b.logger_id, b.key): digest_of(orjson.loads(bytes(b.payload))) for b in before}
    rows = []
    for post in group:
        place = post.row.logger_id, post.row.key
        if place not in known:
            known[place] = post.row.digest
            rows.append(post.row)
            continue
        post.already = True
        if known[place] != post.row.digest:
            post.failed = Conflict(
                f"batch '{post.row.key}' was sent before with other readings; give each batch its "
                "own key."
            )
    Batch.objects.bulk_create(rows)


def _ask() -> None:
    """Has the worker fold what waits, unless it was asked to just now."""
    global _asked
    now = time.monotonic()
    if now - _asked >= tasks.TASKS_SOON:
        _asked = now
        try:
            tasks.fold_soon()
        except (sqlite3.Error, OSError):  # the batch is stored; within a minute it is folded too
            log.exception("the worker could not be asked to fold; it will by itself")


@dataclass(frozen=True)
class Silence:
    """A stretch without readings [s]."""

    start: float
    stop: float


def gaps(logger: Logger, since: float) -> list[Silence]:
    """Stretches since an instant of which a logger sent nothing, in order, as far as folded."""
    weeks = Journal.objects.filter(
        batch__logger=logger, batch__state=Import.State.STORED, week__gte=week_of(since)
    )
    parts = [decode(bytes(p)) for p in weeks.order_by("week").values_list("payload", flat=True)]
    if not parts:
        return []
    whole = laid_over(parts)
    known = np.logical_or.reduce([np.isfinite(values) for values in whole.channels.values()])
    at = whole.start + whole.step * np.flatnonzero(known)
    apart = np.flatnonzero(np.diff(at) > max(GAP, 3 * whole.step))
    found = [Silence(float(at[k] + whole.step), float(at[k + 1])) for k in apart]
    return [silence for silence in found if silence.stop > since]
