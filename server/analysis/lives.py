"""The life of findings: new, accepted, dismissed, fixed; they come back if the evidence does."""

from collections.abc import Sequence
from dataclasses import asdict
from datetime import date
from typing import Any

import orjson
from django.db import transaction

from ember.assessment.survey import Survey
from ember.basis.clock import instant_of
from ember.basis.periods import Period
from ember.diagnosis import Finding, Found, Ground, find, foremost
from ember.diagnosis.kept import from_json
from ember.operation import Operation
from ember.sums import figures
from server.analysis.models import Kept, Life, LifeEvent
from server.analysis.rows import foremost_shown
from server.installations.models import System
from server.logbook.store import StoreError

LEAST_DAYS = 14  # after a repair, before its evidence is looked for again
OPEN = (Life.State.NEW, Life.State.ACCEPTED)


def open_findings(system: System, findings: Sequence[Finding]) -> list[Finding]:
    """Those that are neither dismissed nor fixed."""
    closed = set(system.lives.exclude(state__in=OPEN).values_list("code", flat=True))
    return [f for f in findings if f.code not in closed]


def follow(system: System, now: Found, surveyed: Survey, ran: Operation) -> None:
    """Brings the lives of a system's findings up to what is found now. What is not judged, since
    the metering is in doubt, stays as it was: nobody knows whether it is gone."""
    found = {f.code.value: f for f in now.findings}
    not_judged = {s.code.value for s in now.not_judged}
    with transaction.atomic():
        known = {life.code: life for life in system.lives.select_for_update()}
        for code, finding in found.items():
            life = known.get(code)
            if life is None:
                life = Life(system=system, code=code)
                _set(life, Life.State.NEW, finding, "first seen")
            elif life.state == Life.State.GONE:
                _set(life, Life.State.NEW, finding, "came back: it is found again")
            elif life.state == Life.State.DISMISSED and _stronger(life, finding):
                _set(life, Life.State.NEW, finding, "came back: the evidence is stronger")
            elif life.state == Life.State.FIXED and life.fixed_on is not None:
                again = _since(surveyed, ran, life.fixed_on, code)
                if again is not None:
                    words = f"came back: it shows again since {life.fixed_on}"
                    _set(life, Life.State.NEW, again, words)
        for code, life in known.items():
            if code not in found and code not in not_judged and life.state in OPEN:
                life.state = Life.State.GONE
                life.save()
                LifeEvent.objects.create(life=life, state=life.state, words="no longer found")


def _set(life: Life, state: str, finding: Finding, words: str, user: Any = None) -> None:
    evidence = finding.evidence[0]
    life.state, life.sentence = state, finding.sentence
    life.measured, life.U, life.above = evidence.measured.value, evidence.measured.U, evidence.above
    life.save()
    LifeEvent.objects.create(life=life, state=state, words=words, user=user)


def _stronger(life: Life, finding: Finding) -> bool:
    """Whether the evidence has moved further to the wrong side by more than its U then, and by a
    tenth of it."""
    moved = finding.evidence[0].measured.value - life.measured
    moved = moved if life.above else -moved
    return bool(moved > max(life.U, 0.1 * abs(life.measured)))


def _since(surveyed: Survey, ran: Operation, since: date, code: str) -> Finding | None:
    """The same finding from the time after a date alone, None where it does not show there or too
    little time has passed."""
    start = float(instant_of(since, surveyed.zone))
    start = max(start, float(surveyed.start))
    if surveyed.stop - start < LEAST_DAYS * 86_400:
        return None
    period = Period(f"since {since}", start, float(surveyed.stop))
    ground = Ground(surveyed, ran, figures(surveyed, [period])[0])
    return next((f for f in find(ground).findings if f.code == code), None)


def put(
    system: System, code: str, state: str, reason: str, fixed_on: date | None, user: Any
) -> Life:
    """Sets where a finding stands. Raises StoreError."""
    life = system.lives.filter(code=code).first()
    if life is None:
        raise StoreError(f"{system.name}: nothing called '{code}' was found here.")
    if state not in (*OPEN, Life.State.DISMISSED, Life.State.FIXED):
        raise StoreError("state: one of new, accepted, dismissed, fixed.")
    reason = reason.strip()
    if state == Life.State.DISMISSED and not reason:
        raise StoreError("reason: say why, so that the next one who looks understands.")
    if state == Life.State.FIXED and fixed_on is None:
        raise StoreError("fixed_on: say on which day it was fixed; it is watched from then on.")
    current = next((f for f in findings_of(system) if f.code == code), None)
    life.state, life.reason = state, reason
    life.fixed_on = fixed_on if state == Life.State.FIXED else None
    if current is not None:
        evidence = current.evidence[0]
        life.sentence, life.above = current.sentence, evidence.above
        life.measured, life.U = evidence.measured.value, evidence.measured.U
    words = {"new": "open again", "fixed": f"fixed on {fixed_on}"}.get(state, state)
    if reason:
        words += f": {reason}"
    with transaction.atomic():
        life.save()
        LifeEvent.objects.create(life=life, state=state, words=words, user=user)
        row(system)
    return life


def findings_of(system: System) -> tuple[Finding, ...]:
    """The kept findings of a system; none where nothing is worked out yet."""
    text = Kept.objects.filter(system=system).values_list("findings", flat=True).first()
    return from_json(text).findings if text else ()


def row(system: System) -> None:
    """The fleet's row again, with the findings that are open now."""
    kept = Kept.objects.filter(system=system).only("row", "lost").first()
    if kept is None:
        return
    shown = foremost_shown(foremost(open_findings(system, findings_of(system))))
    value = orjson.loads(kept.row)
    value["foremost"] = asdict(shown)
    Kept.objects.filter(system=system).update(row=orjson.dumps(value).decode(), lost=shown.sort)
