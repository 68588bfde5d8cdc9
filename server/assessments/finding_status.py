"""Where findings stand: new, accepted, dismissed, fixed; they come back if the evidence does."""

from collections.abc import Sequence
from dataclasses import asdict
from datetime import date
from typing import Any

import orjson
from django.db import transaction

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.sums import figures
from ember.basis.clock import instant_of
from ember.basis.periods import Period
from ember.diagnosis import Finding, FindingContext, Findings, find, foremost
from ember.diagnosis.cached import from_json
from ember.operation import Operation
from server.assessments.models import CachedResults, FindingEvent, FindingStatus
from server.assessments.rows import foremost_shown
from server.readings.store import NotThere, StoreError
from server.systems.models import System

FINDING_STATUS_LEAST_DAYS = 14  # after a repair, before its evidence is looked for again
OPEN = (FindingStatus.State.NEW, FindingStatus.State.ACCEPTED)


def open_findings(system: System, findings: Sequence[Finding]) -> list[Finding]:
    """Those that are neither dismissed nor fixed."""
    closed = set(system.statuses.exclude(state__in=OPEN).values_list("code", flat=True))
    return [f for f in findings if f.code not in closed]


def follow(system: System, now: Findings, analysis: RecordAnalysis, ran: Operation) -> None:
    """Brings where a system's findings stand up to what is found now. What is not judged, since
    the metering is in doubt, stays as it was: nobody knows whether it is gone."""
    found = {f.code.value: f for f in now.findings}
    not_judged = {s.code.value for s in now.not_judged}
    with transaction.atomic():
        known = {status.code: status for status in system.statuses.select_for_update()}
        for code, finding in found.items():
            status = known.get(code)
            if status is None:
                status = FindingStatus(system=system, code=code)
                _set(status, FindingStatus.State.NEW, finding, "first seen")
            elif status.state == FindingStatus.State.GONE:
                _set(status, FindingStatus.State.NEW, finding, "came back: it is found again")
            elif status.state == FindingStatus.State.DISMISSED and _stronger(status, finding):
                _set(
                    status, FindingStatus.State.NEW, finding, "came back: the evidence is stronger"
                )
            elif status.state == FindingStatus.State.FIXED and status.fixed_on is not None:
                again = _since(analysis, ran, status.fixed_on, code)
                if again is not None:
                    words = f"came back: it shows again since {status.fixed_on}"
                    _set(status, FindingStatus.State.NEW, again, words)
        for code, status in known.items():
            if code not in found and code not in not_judged and status.state in OPEN:
                status.state = FindingStatus.State.GONE
                status.save()
                FindingEvent.objects.create(
                    status=status, state=status.state, words="no longer found"
                )


def _set(status: FindingStatus, state: str, finding: Finding, words: str, user: Any = None) -> None:
    evidence = finding.evidence[0]
    status.state, status.sentence = state, finding.sentence
    status.measured, status.U, status.above = (
        evidence.measured.value,
        evidence.measured.U,
        evidence.above,
    )
    status.save()
    FindingEvent.objects.create(status=status, state=state, words=words, user=user)


def _stronger(status: FindingStatus, finding: Finding) -> bool:
    """Whether the evidence has moved further to the wrong side by more than its U then, and by a
    tenth of it."""
    moved = finding.evidence[0].measured.value - status.measured
    moved = moved if status.above else -moved
    return bool(moved > max(status.U, 0.1 * abs(status.measured)))


def _since(analysis: RecordAnalysis, ran: Operation, since: date, code: str) -> Finding | None:
    """The same finding from the time after a date alone, None where it does not show there or too
    little time has passed."""
    start = float(instant_of(since, analysis.zone))
    start = max(start, float(analysis.start))
    if analysis.stop - start < FINDING_STATUS_LEAST_DAYS * 86_400:
        return None
    period = Period(f"since {since}", start, float(analysis.stop))
    context = FindingContext(analysis, ran, figures(analysis, [period])[0])
    return next((f for f in find(context).findings if f.code == code), None)


def put(
    system: System, code: str, state: str, reason: str, fixed_on: date | None, user: Any
) -> FindingStatus:
    """Sets where a finding stands. Raises StoreError."""
    status = system.statuses.filter(code=code).first()
    if status is None:
        raise NotThere(f"{system.name}: nothing called '{code}' was found here.")
    if state not in (*OPEN, FindingStatus.State.DISMISSED, FindingStatus.State.FIXED):
        raise StoreError("state: one of new, accepted, dismissed, fixed.")
    reason = reason.strip()
    if state == FindingStatus.State.DISMISSED and not reason:
        raise StoreError("reason: say why, so that the next one who looks understands.")
    if state == FindingStatus.State.FIXED and fixed_on is None:
        raise StoreError("fixed_on: say on which day it was fixed; it is watched from then on.")
    current = next((f for f in findings_of(system) if f.code == code), None)
    status.state, status.reason = state, reason
    status.fixed_on = fixed_on if state == FindingStatus.State.FIXED else None
    if current is not None:
        evidence = current.evidence[0]
        status.sentence, status.above = current.sentence, evidence.above
        status.measured, status.U = evidence.measured.value, evidence.measured.U
    words = {"new": "open again", "fixed": f"fixed on {fixed_on}"}.get(state, state)
    if reason:
        words += f": {reason}"
    with transaction.atomic():
        status.save()
        FindingEvent.objects.create(status=status, state=state, words=words, user=user)
        row(system)
    return status


def findings_of(system: System) -> tuple[Finding, ...]:
    """The kept findings of a system; none where nothing is worked out yet."""
    text = CachedResults.objects.filter(system=system).values_list("findings", flat=True).first()
    return from_json(text).findings if text else ()


def row(system: System) -> None:
    """The fleet's row again, with the findings that are open now."""
    cached = CachedResults.objects.filter(system=system).only("row", "lost").first()
    if cached is None:
        return
    shown = foremost_shown(foremost(open_findings(system, findings_of(system))))
    value = orjson.loads(cached.row)
    value["foremost"] = asdict(shown)
    CachedResults.objects.filter(system=system).update(
        row=orjson.dumps(value).decode(), lost=shown.sort
    )
