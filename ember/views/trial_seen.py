"""A trial by the days that it has had: its schedule, and what it has shown so far."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated

from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass as checked

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.clock import DAY, instant_of, wall_clock
from ember.basis.periods import Period
from ember.events.hours import Hours
from ember.messages import NotAvailable, Reason, reason_of
from ember.season import (
    TrialDay,
    TrialPlan,
    TrialResult,
    schedule,
    season_seen,
    trial_result,
)
from ember.season.same_rooms import daily_means
from ember.season.trial import said

Setting = Annotated[str, Field(min_length=1, max_length=120)]


@checked(frozen=True, config=ConfigDict(extra="forbid"))
class TrialAsked:
    """A trial as it was planned: what the settings A and B are, and the fields of `TrialPlan`."""

    a: Setting
    b: Setting
    first: date
    days: int
    block: int
    carry: int
    seed: int

    @property
    def plan(self) -> TrialPlan:
        """How they are alternated. Raises DescriptionError for what is no plan."""
        return TrialPlan(self.first, self.days, self.block, self.carry, self.seed)


@dataclass(frozen=True)
class TrialSeen:
    """A trial.

    Attributes
    ----------
    schedule : tuple[TrialDay, ...]
        its days.
    result : TrialResult | None
        what it has shown; None with a `reason`, or before its first day.
    sentence : str | None
        that in one.
    """

    a: str
    b: str
    schedule: tuple[TrialDay, ...]
    result: TrialResult | None
    reason: Reason | None
    sentence: str | None


def trial_days(analysis: RecordAnalysis, plan: TrialPlan) -> Period | None:
    """The days of a trial that the record holds; None where it holds none. At its ends the record
    analysis must be cut."""
    ends = (plan.first, plan.first + timedelta(days=plan.days))
    first, last = (instant_of(one, analysis.zone) for one in ends)
    start, stop = max(first, analysis.start), min(last, analysis.stop)
    return Period("trial", start, stop) if stop - start >= DAY else None


def trial_seen(
    analysis: RecordAnalysis, hours: Hours | None, asked: TrialAsked, period: Period | None
) -> TrialSeen:
    """What a trial has shown so far.

    Parameters
    ----------
    hours : Hours | None
        of the operation of the whole record, for the rooms.
    period : Period | None
        from `trial_days`.
    """
    found: TrialResult | NotAvailable | None = None
    days = schedule(asked.plan)
    if period is not None:
        seen = season_seen(analysis, period)
        counted = {one.day: one.setting for one in days if one.counts}
        daily = seen.daily
        starts = [] if daily is None else daily.start.tolist()
        setting = [counted.get(wall_clock(t, analysis.zone).date()) for t in starts]
        rooms = None
        if daily is not None and hours is not None:
            rooms = daily_means(hours, "room", daily.start)
        found = trial_result(seen, setting, rooms)
    result = found if isinstance(found, TrialResult) else None
    return TrialSeen(
        a=asked.a,
        b=asked.b,
        schedule=tuple(days),
        result=result,
        reason=reason_of(found),
        sentence=None if result is None else said(result, asked.a, asked.b),
    )
