"""Waiting batches laid into the weeks of the logger's own imports, and those into the blocks, by
the same way as a file.
"""

import hashlib
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta

import orjson
from django.db import transaction
from django.utils import timezone

from ember.assessment.export import to_json
from ember.basis.series import Trace
from ember.description.logged import Column
from ember.intake import ColumnReport, IntakeReport, laid_over
from ember.intake.live import Sample, known_as, on_grid, usual_step
from server.readings.codec import WEEK, decode, encode, week_of, week_start
from server.readings.models import Import, Journal, Logger
from server.readings.store import Conflict, compacted

LIVE_AROUND = 3600  # read on either side of what is new, so that slow levels hold over [s]
LIVE_QUARTER = 900
RAW = timedelta(days=30)  # for which batches are kept as they came
FOLDED_AT_ONCE = 5000  # batches
FOLDED_READINGS = 400_000  # of them
LIVE_ATTEMPTS = 5


def fold(logger: Logger) -> int:
    """Lays a logger's waiting batches into the blocks; how many those were."""
    total = 0
    newest = logger.batches.order_by("-pk").values_list("pk", flat=True).first() or 0
    while keys := _next(logger, newest):  # what comes meanwhile is the next fold's
        _folded(logger, keys)
        total += len(keys)
    old = timezone.now() - RAW
    logger.batches.filter(folded=True, received__lt=old.timestamp()).delete()
    return total


def _next(logger: Logger, newest: int) -> list[int]:
    """Keys of the oldest waiting batches up to one, as many as fit into memory at once."""
    waiting = logger.batches.filter(folded=False, pk__lte=newest).order_by("pk")
    keys: list[int] = []
    readings = 0
    for pk, count in waiting.values_list("pk", "count")[:FOLDED_AT_ONCE]:
        if keys and readings + count > FOLDED_READINGS:
            break
        keys.append(pk)
        readings += count
    return keys


def _folded(logger: Logger, keys: list[int]) -> None:
    logger.refresh_from_db()
    columns = [Column(**column) for column in logger.columns]
    weeks = _touched(logger, keys)
    for week, (begin, end) in weeks.items():
        readings = _readings(logger, begin - LIVE_AROUND, end + LIVE_AROUND)
        if not any(begin <= when < end for when, _, _ in readings):
            continue
        if logger.step is None:
            logger.step = usual_step([when for when, _, _ in readings])
            logger.save(update_fields=["step"])
        step = logger.step
        start, stop = (
            _wide(max(begin - LIVE_AROUND, week_start(week)), step),
            _wide(min(end + LIVE_AROUND, week_start(week) + WEEK) + step - 1, step),
        )
        part = on_grid(readings, columns, start, stop, step).between(
            begin // LIVE_QUARTER * LIVE_QUARTER, -(-end // LIVE_QUARTER) * LIVE_QUARTER
        )
        if any(len(values) for values in part.channels.values()):
            _laid_in(logger, week, part, columns, readings)
    with transaction.atomic():
        now = standing(logger, keys)
        Logger.objects.filter(pk=logger.pk).update(**asdict(now))
        logger.batches.filter(pk__in=keys).update(folded=True)


@dataclass(frozen=True)
class LoggerStanding:
    """What is known of a logger: as in its row, with the batches that wait."""

    seen: float | None
    latest: float | None
    drift: float | None
    readings: int
    problem: str


def standing(logger: Logger, keys: list[int] | None = None) -> LoggerStanding:
    """What is known of a logger with its waiting batches; with some of them, by their keys."""
    logger.refresh_from_db()
    waiting = logger.batches.filter(folded=False)
    if keys is not None:
        waiting = waiting.filter(pk__in=keys)
    columns = ("received", "last", "count", "sent", "problem")
    fresh = list(waiting.order_by("pk").values_list(*columns))
    if not fresh:
        return LoggerStanding(
            logger.seen, logger.latest, logger.drift, logger.readings, logger.problem
        )
    received, _, _, sent, problem = fresh[-1]
    return LoggerStanding(
        received,
        max(logger.latest or 0.0, *(float(last) for _, last, _, _, _ in fresh)),
        logger.drift if sent is None else sent - received,
        logger.readings + sum(count for _, _, count, _, _ in fresh),
        problem,
    )


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
    for _ in range(LIVE_ATTEMPTS):
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
            "start": merged.start,
            "stop": merged.stop,
            "step": merged.step,
            "rows": len(merged),
            "digest": hashlib.blake2b(payload, digest_size=32).hexdigest(),
            "report": to_json(intake=_report(logger, merged, columns, readings)).decode(),
        }
        with transaction.atomic():
            if not ready.unchanged():
                continue
            if batch is None:
                day = datetime.fromtimestamp(week_start(week), UTC)
                batch = Import.objects.create(
                    system=system,
                    logger=logger,
                    file=f"{logger.name}, week of {day:%d %B %Y}",
                    **values,
                )
                Journal.objects.create(batch=batch, week=week, payload=payload)
            else:
                Import.objects.filter(pk=batch.pk).update(**values)
                batch.journal.filter(week=week).update(payload=payload)
            ready.write()
        return
    raise Conflict(f"{logger.name}: other imports keep changing the same week.")


def _report(
    logger: Logger, trace: Trace, columns: list[Column], readings: list[Sample]
) -> IntakeReport:
    names = {name for _, name, _ in readings}
    known = known_as(names, columns)
    rows = tuple(
        ColumnReport(name, c.channel, c.unit or "", "sent by the logger", 0, ())
        for name, c in sorted(known.items())
    )
    return IntakeReport(
        file=logger.name,
        dialect="sent live",
        clock="instants with offset",
        rows=len(trace),
        start=trace.start,
        stop=trace.stop,
        step=trace.step,
        columns=rows,
        ignored_columns=tuple(sorted(names - set(known))),
        notes=(),
        questions=(),
    )
