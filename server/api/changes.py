"""Changes: what was changed when, and what it was worth in the same weather."""

from dataclasses import dataclass

import numpy as np
from django.http import HttpRequest
from ninja import Router

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.sums import costs_of
from ember.basis.calendar import latest_year
from ember.basis.clock import DAY, iso_local, zone_named
from ember.basis.periods import Period
from ember.messages import NotAvailable, Reason
from ember.season import BeforeAfter, Changed, SeasonSeen, Worth, before_after, season_seen
from server.api.fleet import get_system
from server.api.season import SignatureShown, signature_shown
from server.assessments.cache import CachedAnalysis, cut_at, steady
from server.assessments.shown import FigureShown, figure, known
from server.assessments.times import TimeError, instant
from server.readings.models import Entry
from server.systems.models import System

router = Router(tags=["rooms"])

INTERVENTIONS = ("setting changed", "work done")
CHANGE_LONGEST = 365  # days on either side
LEAST_SIDE = 1.0  # day of a stretch


@dataclass(frozen=True)
class Intervention:
    """A setting changed or work done, as it was noted."""

    id: int
    time: float
    local: str
    words: str
    note: str
    user: str | None


@dataclass(frozen=True)
class Interventions:
    """The latest first."""

    rows: list[Intervention]


@dataclass(frozen=True)
class ChangedShown:
    """One energy before and after in the same weather [kWh a year]. share : saved ÷ before;
    fractional : savings uncertainty at 90 % (ASHRAE Guideline 14)."""

    before: FigureShown
    after: FigureShown
    saved: FigureShown
    share: float
    fractional: float | None
    cv_before: float
    cv_after: float
    worth: Worth


@dataclass(frozen=True)
class ChangeFound:
    """A change by the days before and after it. seen : share of a year's days within the weather
    of both; what is said is of those. money : saved a year at the average price paid; beside : what
    else was changed in either stretch, which cannot be told apart."""

    at: float
    before: str
    after: str
    stale: bool
    seen: float
    electricity: ChangedShown | None
    electricity_reason: Reason | None
    heat: ChangedShown | None
    heat_reason: Reason | None
    cop_before: FigureShown | None
    cop_after: FigureShown | None
    cop_change: FigureShown | None
    money: FigureShown | None
    currency: str | None
    signature_before: SignatureShown | None
    signature_after: SignatureShown | None
    beside: list[Intervention]


@router.get("/systems/{pk}/changes", response=Interventions)
def changes(request: HttpRequest, pk: int) -> Interventions:
    """What was changed at a system, by its notes."""
    return Interventions(_noted(get_system(pk)))


@router.get("/systems/{pk}/change", response=ChangeFound)
def change(request: HttpRequest, pk: int, at: str, days: int = 180, skip: int = 0) -> ChangeFound:
    """The days before and after a local day. days : on either side at most; skip : left out after
    it, until the change was done."""
    system = get_system(pk)

    def look(found: CachedAnalysis) -> ChangeFound:
        return _change(system, found, at, min(max(days, 1), CHANGE_LONGEST), max(skip, 0))

    return steady(system, look)


def _change(system: System, found: CachedAnalysis, at: str, days: int, skip: int) -> ChangeFound:
    analysis = found.analysis

    def day(count: int) -> float:
        """The beginning of a local day, so many after that of the change."""
        return instant(at[:10], analysis.zone, "at", count)

    moment, resumed = day(0), day(skip)
    before = Period("before", max(analysis.start, day(-days)), moment)
    after = Period("after", resumed, min(analysis.stop, day(skip + days)))
    for period, side in ((before, "before"), (after, "after")):
        if period.stop - period.start < LEAST_SIDE * DAY:
            begin, end = (iso_local(t, analysis.zone) for t in (analysis.start, analysis.stop))
            raise TimeError(
                f"at: there is no whole day {side} {at}; the record runs {begin} to {end}.", "at"
            )
    whole = latest_year(analysis.start, analysis.stop, analysis.zone)
    year = whole or Period("record", analysis.start, analysis.stop)
    ends = tuple(
        sorted({end for period in (before, after, year) for end in (period.start, period.stop)})
    )
    cut = cut_at(system, found, ends)
    first, second = (season_seen(cut.analysis, period) for period in (before, after))
    compared = before_after(first, second, _weather(season_seen(cut.analysis, year)))
    others = [
        one
        for one in _noted(system)
        if before.start <= one.time < after.stop and abs(one.time - moment) >= DAY
    ]
    return _shown(cut, (first, second), compared, (before, after), others)


def _shown(
    cut: CachedAnalysis,
    seen: tuple[SeasonSeen, SeasonSeen],
    compared: BeforeAfter,
    periods: tuple[Period, Period],
    others: list[Intervention],
) -> ChangeFound:
    zone = cut.analysis.zone
    words = [f"{iso_local(p.start, zone)} to {iso_local(p.stop, zone)}" for p in periods]
    price, currency = _price(cut.analysis, periods[1])
    electricity = compared.electricity
    money = (
        electricity.saved.scaled(price, currency)
        if price is not None and isinstance(electricity, Changed)
        else None
    )
    return ChangeFound(
        at=periods[0].stop,
        before=words[0],
        after=words[1],
        stale=cut.stale,
        seen=compared.seen,
        electricity=_changed(electricity),
        electricity_reason=_reason(electricity),
        heat=_changed(compared.heat),
        heat_reason=_reason(compared.heat),
        cop_before=figure(compared.cop_before),
        cop_after=figure(compared.cop_after),
        cop_change=figure(compared.cop_change),
        money=figure(money),
        currency=currency,
        signature_before=signature_shown(seen[0], seen[0].electricity, "electricity"),
        signature_after=signature_shown(seen[1], seen[1].electricity, "electricity"),
        beside=others,
    )


def _noted(system: System) -> list[Intervention]:
    zone = zone_named(system.installation.zone)
    return [
        Intervention(
            e.pk,
            e.time,
            iso_local(e.time, zone),
            e.content["kind"].capitalize(),
            e.content["note"],
            e.user.get_username() if e.user else None,
        )
        for e in system.entries.filter(kind=Entry.Kind.OBSERVATION)
        .select_related("user")
        .order_by("-time", "-pk")
        if e.content["kind"] in INTERVENTIONS
    ]


def _weather(year: SeasonSeen) -> np.ndarray:
    """Mean outdoor temperature of the days of a year that are known [degC]."""
    if year.daily is None:
        return np.zeros(0)
    outdoor = year.daily.outdoor
    return outdoor[np.isfinite(outdoor)]


def _price(analysis: RecordAnalysis, period: Period) -> tuple[float | None, str]:
    """Average price paid after the change, and its currency."""
    costs = costs_of(analysis, [period])
    if not costs:
        return None, ""
    return costs[0].average_price, costs[0].currency


def _changed(found: Changed | NotAvailable) -> ChangedShown | None:
    if isinstance(found, NotAvailable):
        return None
    return ChangedShown(
        known(found.before),
        known(found.after),
        known(found.saved),
        found.share,
        found.fractional,
        found.cv_before,
        found.cv_after,
        found.worth,
    )


def _reason(found: Changed | NotAvailable) -> Reason | None:
    return found.reason if isinstance(found, NotAvailable) else None
