"""A change by the days before and after it: what it was worth, and the days that are alike."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import TypeVar

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.sums import costs_of
from ember.basis.calendar import latest_year
from ember.basis.clock import DAY, instant_of, iso_local
from ember.basis.errors import EmberError
from ember.basis.periods import WHOLE_RECORD, Period
from ember.basis.quantity import Estimate
from ember.cost import Payback, payback
from ember.events.hours import Hours
from ember.messages import NotAvailable, Reason, reason_of, words_of
from ember.season import (
    Avoided,
    BeforeAfter,
    Changed,
    Pair,
    SameRooms,
    SeasonSeen,
    Worth,
    avoided,
    before_after,
    days_alike,
    same_rooms,
    season_seen,
)

say = words_of(__name__)
Told = TypeVar("Told")

CHANGE_DAYS, CHANGE_LONGEST = 180, 365  # on either side
LEAST_SIDE = 1.0  # day of a stretch
MOSTLY_APART = 0.5  # of the days in other seasons, for another advice, common practice, chosen


@dataclass(frozen=True)
class Stretches:
    """The days before a change, those after it, and those whose weather is laid under both: the
    latest year, or the record where it is shorter."""

    before: Period
    after: Period
    year: Period

    @property
    def ends(self) -> tuple[float, ...]:
        """Instants at which a record analysis must be cut [s]."""
        every = (self.before, self.after, self.year)
        return tuple(sorted({end for one in every for end in (one.start, one.stop)}))


def stretches(
    analysis: RecordAnalysis, at: date, days: int = CHANGE_DAYS, skip: int = 0
) -> Stretches:
    """The stretches about a change.

    Parameters
    ----------
    at : date
        local day of the change.
    days : int
        on either side at most.
    skip : int
        left out after it, until the change was done.

    Raises
    ------
    EmberError
        where the record has no whole day on one side.
    """
    zone = analysis.zone
    days, skip = min(max(days, 1), CHANGE_LONGEST), min(max(skip, 0), CHANGE_LONGEST)

    def day(count: int) -> float:
        return instant_of(at + timedelta(days=count), zone)

    def none(side: str) -> EmberError:
        begin, end = (iso_local(t, zone) for t in (analysis.start, analysis.stop))
        return EmberError(
            f"at: there is no whole day {side} {at}; the record runs {begin} to {end}.", "at"
        )

    if not analysis.start <= day(0) <= analysis.stop:
        raise none("before" if day(0) < analysis.start else "after")
    before = Period("before", max(analysis.start, day(-days)), day(0))
    after = Period("after", day(skip), min(analysis.stop, day(skip + days)))
    for period in (before, after):
        if period.stop - period.start < LEAST_SIDE * DAY:
            raise none(period.name)
    whole = latest_year(analysis.start, analysis.stop, zone)
    return Stretches(before, after, whole or Period(WHOLE_RECORD, analysis.start, analysis.stop))


@dataclass(frozen=True)
class ChangeSeen:
    """What a change was worth.

    Attributes
    ----------
    before, after : Period
        the days that are compared.
    sides : tuple[SeasonSeen, SeasonSeen]
        these two as seasons.
    compared : BeforeAfter
        both in the same weather.
    same_rooms : SameRooms | None
        where rooms or sun are logged, what is the change's alone.
    money : Estimate | None
        saved a year at the average price paid after it.
    cost : float
        of the change, in the tariff's currency, 0 where it is not said; `payback` of it.
    avoided_electricity, avoided_heat : Avoided | NotAvailable
        over the actual days after.
    alike : list[Pair]
        days of the same weather side by side.
    advice : str
        how to learn more; "" where it is told.
    """

    before: Period
    after: Period
    sides: tuple[SeasonSeen, SeasonSeen]
    compared: BeforeAfter
    same_rooms: SameRooms | None
    money: Estimate | None
    currency: str | None
    cost: float
    payback: Payback | None
    avoided_electricity: Avoided | NotAvailable
    avoided_heat: Avoided | NotAvailable
    alike: list[Pair]
    advice: str


def change_seen(
    analysis: RecordAnalysis, hours: Hours, about: Stretches, cost: float = 0.0
) -> ChangeSeen:
    """What a change was worth.

    Parameters
    ----------
    analysis : RecordAnalysis
        cut at the ends of the stretches.
    hours : Hours
        of its operation.
    cost : float
        of the change, in the tariff's currency; 0: not said.
    """
    first, second, year = (
        season_seen(analysis, one) for one in (about.before, about.after, about.year)
    )
    weather = np.zeros(0) if year.daily is None else year.daily.outdoor
    compared = before_after(first, second, weather[np.isfinite(weather)])
    electricity, money = compared.electricity, None
    paid = next(iter(costs_of(analysis, [about.after]) or ()), None)
    if paid is not None and paid.average_price is not None and isinstance(electricity, Changed):
        money = electricity.saved.scaled(paid.average_price, paid.currency)
    return ChangeSeen(
        before=about.before,
        after=about.after,
        sides=(first, second),
        compared=compared,
        same_rooms=same_rooms(first, second, year, hours),
        money=money,
        currency=paid.currency if paid is not None else None,
        cost=cost,
        payback=payback(cost, money) if cost and money is not None else None,
        avoided_electricity=avoided(first, second, "electricity"),
        avoided_heat=avoided(first, second, "heat"),
        alike=days_alike(first, second),
        advice=_advice(compared),
    )


def _advice(found: BeforeAfter) -> str:
    """How more could be learned of a change that cannot be told yet."""
    told = found.electricity
    if isinstance(told, NotAvailable) or told.worth != Worth.NOT_TOLD:
        return ""
    return say("same_season") if found.apart > MOSTLY_APART else say("more_days")


@dataclass(frozen=True)
class ChangeSummary:
    """A change as it goes out: as in `ChangeSeen`, but for the days one by one; `at` the local day
    of the change, `seen` the share of a year's days within the weather of both stretches. What is
    None says why in its reason."""

    at: str
    before: Period
    after: Period
    seen: float
    electricity: Changed | None
    electricity_reason: Reason | None
    heat: Changed | None
    heat_reason: Reason | None
    cop_before: Estimate | None
    cop_after: Estimate | None
    cop_change: Estimate | None
    same_rooms: SameRooms | None
    money: Estimate | None
    cost: float
    payback: Payback | None
    avoided_electricity: Avoided | None
    avoided_electricity_reason: Reason | None
    avoided_heat: Avoided | None
    avoided_heat_reason: Reason | None
    alike: tuple[Pair, ...]
    advice: str


def change_summary(found: ChangeSeen, at: date) -> ChangeSummary:
    """A change of a local day as it goes out."""
    compared = found.compared
    return ChangeSummary(
        at=at.isoformat(),
        before=found.before,
        after=found.after,
        seen=compared.seen,
        electricity=_told(compared.electricity),
        electricity_reason=reason_of(compared.electricity),
        heat=_told(compared.heat),
        heat_reason=reason_of(compared.heat),
        cop_before=compared.cop_before,
        cop_after=compared.cop_after,
        cop_change=compared.cop_change,
        same_rooms=found.same_rooms,
        money=found.money,
        cost=found.cost,
        payback=found.payback,
        avoided_electricity=_told(found.avoided_electricity),
        avoided_electricity_reason=reason_of(found.avoided_electricity),
        avoided_heat=_told(found.avoided_heat),
        avoided_heat_reason=reason_of(found.avoided_heat),
        alike=tuple(found.alike),
        advice=found.advice,
    )


def _told(found: Told | NotAvailable) -> Told | None:
    return None if isinstance(found, NotAvailable) else found
