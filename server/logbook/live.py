"""Readings as they come: taken at once, laid into the blocks a few seconds later.

Taking a batch is one short transaction. Folding lays waiting batches into the weeks of the logger's
own imports, and those into the blocks, by the same way as a file.
"""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import orjson
from django.db import IntegrityError, transaction
from django.db.models import F
from django.utils import timezone

from ember.errors import EmberError
from ember.export import to_json
from ember.installation import Column
from ember.intake import ColumnReport, IntakeReport
from ember.intake.live import Sample, Sent, known_as, on_grid, usual_step
from ember.trace import Trace
from server.installations.models import System
from server.logbook.codec import WEEK, decode, encode, laid_over, week_of, week_start
from server.logbook.models import Batch, Import, Journal, Logger
from server.logbook.store import StoreError, compacted

WAITING = 20_000  # batches of a logger that may wait, before it is asked to wait
RETRY = 30  # what it is told to wait [s]
AROUND = 3600  # read on either side of what is new, so that slow levels hold over [s]
QUARTER = 900
RAW = timedelta(days=30)  # for which batches are kept as they came
FOLDED_AT_ONCE = 5000  # batches
ATTEMPTS = 5
GAP = 600.0  # a silence longer than this, and than three usual ones, is a gap [s]


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
    name = name.strip()[:80]
    if not name:
        raise StoreError("name: give the logger one.")
    if system.loggers.filter(name=name).exists():
        raise StoreError(f"name: {system.name} has a logger '{name}' already.")
    token = secrets.token_urlsafe(24)
    return Logger.objects.create(system=system, name=name, token=hashed(token)), token


def renew_token(logger: Logger) -> str:
    """A new token; the old one is worth nothing from now on."""
    token = secrets.token_urlsafe(24)
    logger.token, logger.revoked = hashed(token), None
    logger.save(update_fields=["token", "revoked"])
    return token


def revoke(logger: Logger) -> None:
    """Its token is worth nothing from now on; what it sent stays."""
    logger.revoked = timezone.now()
    logger.save(update_fields=["revoked"])


def logger_of(token: str) -> Logger:
    """The logger with a token. Raises Stranger."""
    found = Logger.objects.filter(token=hashed(token)).first()
    if found is None:
        raise Stranger("no logger has this token.")
    if found.revoked is not None:
        raise Stranger(f"the token of '{found.name}' was revoked on {found.revoked:%Y-%m-%d}.")
    return found


def take(logger: Logger, sent: Sent, body: bytes, now: float) -> Taken:
    """Keeps a batch; the same one again changes nothing. Raises Busy, StoreError."""
    if logger.waiting >= WAITING:
        raise Busy(f"{logger.waiting:,} batches wait to be stored; try again in {RETRY} s.")
    digest = hashlib.blake2b(body, digest_size=32).hexdigest()
    key = sent.key or digest
    said = f"row {sent.refused[0].place}: {sent.refused[0].why}" if sent.refused else ""
    changed: dict[str, object] = {"seen": now, "problem": said[:300]}
    if sent.readings:
        newest = max(when for when, _, _ in sent.readings)
        changed["latest"] = max(logger.latest or 0.0, newest)
    if sent.sent is not None:
        changed["drift"] = sent.sent - now
    ask = not logger.fold_asked and bool(sent.readings)
    try:
        with transaction.atomic():
            if sent.readings:
                times = [int(when) for when, _, _ in sent.readings]
                Batch.objects.create(
                    logger=logger, key=key, digest=digest, received=now, first=min(times),
                    last=max(times), payload=orjson.dumps(sent.readings),
                )  # fmt: skip
                changed["readings"] = F("readings") + len(sent.readings)
                changed["waiting"] = F("waiting") + 1
                changed["fold_asked"] = True
            Logger.objects.filter(pk=logger.pk).update(**changed)
    except IntegrityError:
        before = logger.batches.filter(key=key).first()
        if before is None:
            raise
        if before.digest != digest:
            raise StoreError(
                f"batch '{key}' was sent before with other readings; give each batch its own key."
            ) from None
        return Taken(0, True)
    if ask:
        from server.logbook.tasks import fold_soon

        fold_soon(logger.pk)
    return Taken(len(sent.readings), False)


def fold(logger: Logger) -> int:
    """Lays a logger's waiting batches into the blocks; how many those were."""
    Logger.objects.filter(pk=logger.pk).update(fold_asked=False)
    total = 0
    while True:
        fresh = list(
            logger.batches.filter(folded=False)
            .order_by("pk")
            .values_list("pk", "first", "last")[:FOLDED_AT_ONCE]
        )
        if not fresh:
            break
        keys = [pk for pk, _, _ in fresh]
        _folded(logger, keys, min(f for _, f, _ in fresh), max(v for _, _, v in fresh))
        total += len(keys)
    old = timezone.now() - RAW
    logger.batches.filter(folded=True, received__lt=old.timestamp()).delete()
    return total


def _folded(logger: Logger, keys: list[int], first: int, last: int) -> None:
    logger.refresh_from_db()
    columns = [Column(**column) for column in logger.columns]
    weeks = _touched(logger, keys)
    for week, (begin, end) in weeks.items():
        readings = _readings(logger, begin - AROUND, end + AROUND)
        if not any(begin <= when < end for when, _, _ in readings):
            continue
        if logger.step is None:
            logger.step = usual_step([when for when, _, _ in readings])
            logger.save(update_fields=["step"])
        step = logger.step
        start, stop = (
            _wide(max(begin - AROUND, week_start(week)), step),
            _wide(min(end + AROUND, week_start(week) + WEEK) + step - 1, step),
        )
        part = on_grid(readings, columns, start, stop, step).between(
            begin // QUARTER * QUARTER, -(-end // QUARTER) * QUARTER
        )
        if any(len(values) for values in part.channels.values()):
            _laid_in(logger, week, part, columns, readings)
    with transaction.atomic():
        done = logger.batches.filter(pk__in=keys, folded=False).update(folded=True)
        Logger.objects.filter(pk=logger.pk).update(waiting=F("waiting") - done)


def _wide(instant: float, step: int) -> int:
    return int(instant) // step * step


def _touched(logger: Logger, keys: list[int]) -> dict[int, tuple[int, int]]:
    """Weeks with new readings, and from when to when in each."""
    found: dict[int, tuple[int, int]] = {}
    for begin, end in logger.batches.filter(pk__in=keys).values_list("first", "last"):
        for week in range(week_of(begin), week_of(end) + 1):
            since = max(begin, week_start(week))
            until = min(end + 1, week_start(week) + WEEK)
            before = found.get(week, (since, until))
            found[week] = min(before[0], since), max(before[1], until)
    return found


def _readings(logger: Logger, start: float, stop: float) -> list[Sample]:
    """All kept readings between two instants, in the order in which they came."""
    payloads = (
        logger.batches.filter(last__gte=start, first__lt=stop)
        .order_by("pk")
        .values_list("payload", flat=True)
    )
    return [
        (when, name, value)
        for payload in payloads.iterator()
        for when, name, value in orjson.loads(bytes(payload))
        if start <= when < stop
    ]


def _laid_in(
    logger: Logger, week: int, part: Trace, columns: list[Column], readings: list[Sample]
) -> None:
    """Puts a part of a week into the logger's import of that week, and that into the blocks."""
    system = logger.system
    for _ in range(ATTEMPTS):
        batch = (
            logger.imports.filter(journal__week=week, state=Import.State.STORED)
            .order_by("-pk")
            .first()
        )
        merged = part
        if batch is not None:
            before = batch.journal.get(week=week)
            merged = laid_over([part, decode(bytes(before.payload))])
        payload = encode(merged)
        ready = compacted(system, [week], {(batch.pk if batch else None, week): merged})
        values = {
            "start": merged.start, "stop": merged.stop, "step": merged.step, "rows": len(merged),
            "digest": hashlib.blake2b(payload, digest_size=32).hexdigest(),
            "report": to_json(intake=_report(logger, merged, columns, readings)).decode(),
        }  # fmt: skip
        with transaction.atomic():
            if not ready.unchanged():
                continue
            if batch is None:
                day = datetime.fromtimestamp(week_start(week), UTC)
                batch = Import.objects.create(
                    system=system, logger=logger, file=f"{logger.name}, week of {day:%d %B %Y}",
                    **values,
                )  # fmt: skip
                Journal.objects.create(batch=batch, week=week, payload=payload)
            else:
                Import.objects.filter(pk=batch.pk).update(**values)
                batch.journal.filter(week=week).update(payload=payload)
            ready.write()
        return
    raise StoreError(f"{logger.name}: other imports keep changing the same week.")


def _report(
    logger: Logger, trace: Trace, columns: list[Column], readings: list[Sample]
) -> IntakeReport:
    names = {name for _, name, _ in readings}
    known = known_as(names, columns)
    rows = tuple(
        ColumnReport(name, c.channel, c.unit or "", "sent by the logger", 0)
        for name, c in sorted(known.items())
    )
    return IntakeReport(
        logger.name, "sent live", "instants with offset", len(trace), trace.start, trace.stop,
        trace.step, rows, tuple(sorted(names - set(known))), (),
    )  # fmt: skip


@dataclass(frozen=True)
class Silence:
    """A stretch without readings [s]."""

    start: float
    stop: float


def gaps(logger: Logger, since: float, now: float) -> list[Silence]:
    """Stretches since an instant in which a logger sent nothing, the latest last."""
    spans = sorted(logger.batches.filter(last__gte=since).values_list("first", "last").iterator())
    if not spans:
        return []
    apart = [b[0] - a[1] for a, b in pairwise(spans)]
    usual = sorted(apart)[len(apart) // 2] if apart else 0.0
    limit = max(GAP, 3 * usual)
    found, reached = [], spans[0][1]
    for first, last in [*spans[1:], (int(now), int(now))]:
        if first - reached > limit:
            found.append(Silence(reached, first))
        reached = max(reached, last)
    return found
