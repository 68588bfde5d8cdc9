"""Reading a file, and keeping what was read until it is stored.

A file that takes long to read is staged week by week; if the worker dies, the next attempt goes on
from what was read instead of reading again.
"""

import hashlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path

from django.db import transaction
from django.utils import timezone
from pydantic import TypeAdapter

from ember import VERSION
from ember.basis.series import Trace
from ember.description.as_json import installation_to_json
from ember.description.installation import Installation
from ember.intake import IntakeReport, joined, laid_over, read_log, read_pieces
from server.jobs.running import Tell
from server.readings.codec import decode, encode, weeks_of
from server.readings.models import Staged, StagedWeek
from server.systems.models import System

# of a file that is staged; a smaller one is read again in a second [bytes]
STAGING_SMALLEST = 64 << 20
STAGING_AT_ONCE = 8  # weeks
STAGING_KEPT_FOR = timedelta(days=2)
_REPORT = TypeAdapter(IntakeReport)


@dataclass(frozen=True)
class Read:
    """A file that was read. parts, entries : by week, as traces and as bytes; of a large file the
    bytes alone."""

    report: IntakeReport
    start: int
    stop: int
    step: int
    parts: dict[int, Trace | None]
    entries: dict[int, bytes]


def read(
    system: System,
    path: Path,
    installation: Installation,
    digest: Callable[[], str],
    mapped: Callable[[Callable[[Trace], bytes], Iterable[Trace]], Iterable[bytes]],
    tell: Tell,
) -> Read:
    """What a file holds: as staged, else read now. Raises IntakeError.

    Parameters
    ----------
    digest : of the file; asked for once, and only when it is needed.
    mapped : maps a function over traces, perhaps in several threads, in order.
    """
    Staged.objects.filter(created__lt=timezone.now() - STAGING_KEPT_FOR).delete()
    large = path.exists() and path.stat().st_size >= STAGING_SMALLEST
    how = _how(installation) if large else ""
    if large and system.staged.exists():
        found = system.staged.filter(digest=digest(), how=how).exclude(report="").first()
        if found is not None:
            tell(0.4, "going on from what was read before")
            entries = {w.week: bytes(w.payload) for w in found.weeks.order_by("week")}
            report = _REPORT.validate_json(found.report)
            return Read(
                report, found.start, found.stop, found.step, dict.fromkeys(entries), entries
            )
    if not large:
        trace, report = read_log(path, installation)
        parts = weeks_of(trace)
        entries = dict(zip(parts, mapped(encode, parts.values()), strict=True))
        tell(0.6, f"{len(parts)} weeks packed")
        return Read(report, trace.start, trace.stop, trace.step, {**parts}, entries)
    return _staged(system, path, installation, digest(), how, mapped, tell)


def _staged(
    system: System,
    path: Path,
    installation: Installation,
    digest: str,
    how: str,
    mapped: Callable[[Callable[[Trace], bytes], Iterable[Trace]], Iterable[bytes]],
    tell: Tell,
) -> Read:
    """Reads a large file piece by piece, and stages each as it is read."""
    system.staged.filter(digest=digest).delete()
    staged: Staged | None = None
    reports = []
    for trace, report in read_pieces(path, installation):
        reports.append(report)
        if staged is None:
            staged = Staged.objects.create(
                system=system,
                digest=digest,
                how=how,
                start=trace.start,
                stop=trace.stop,
                step=trace.step,
            )
        parts = weeks_of(trace)
        for week in staged.weeks.filter(week__in=list(parts)):  # begun by the piece before
            parts[week.week] = laid_over([decode(bytes(week.payload)), parts[week.week]])
            week.delete()
        fresh = zip(parts, mapped(encode, parts.values()), strict=True)
        StagedWeek.objects.bulk_create(
            (StagedWeek(staged=staged, week=week, payload=payload) for week, payload in fresh),
            batch_size=STAGING_AT_ONCE,
        )
        tell(
            min(0.59, 0.02 + 0.05 * len(reports)),
            f"read up to row {sum(r.rows for r in reports):,}",
        )
    assert staged is not None
    whole = joined(reports)
    Staged.objects.filter(pk=staged.pk).update(
        start=whole.start, stop=whole.stop, report=_REPORT.dump_json(whole).decode()
    )
    entries = {w.week: bytes(w.payload) for w in staged.weeks.order_by("week")}
    return Read(whole, whole.start, whole.stop, staged.step, dict.fromkeys(entries), entries)


def forget(system: System, digest: str) -> None:
    """Forgets what was staged of a file."""
    with transaction.atomic():
        system.staged.filter(digest=digest).delete()


def _how(installation: Installation) -> str:
    text = f"{VERSION}\n{installation_to_json(installation)}"
    return hashlib.sha256(text.encode()).hexdigest()
