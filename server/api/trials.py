"""Trials: two settings alternated by days, planned, put into a calendar, and told apart."""

from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from secrets import randbelow
from typing import Annotated

import numpy as np
from django.http import HttpRequest, HttpResponse
from icalendar import Alarm, Calendar, Event
from ninja import Body, Router
from pydantic import Field

from ember.basis.clock import HOUR, instant_of, wall_clock, zone_named
from ember.basis.errors import DescriptionError
from ember.basis.periods import Period
from ember.basis.series import Floats
from ember.messages import NotAvailable, Reason
from ember.operation import Operation
from ember.season import (
    SeasonSeen,
    TrialPlan,
    TrialResult,
    days_needed,
    schedule,
    season_seen,
    trial_result,
)
from ember.season.trial import said
from server.api.files import attachment
from server.api.fleet import get_system
from server.api.typed import Short
from server.assessments.cache import CachedAnalysis, cut_at, operation_of, steady
from server.assessments.shown import FigureShown, figure, known
from server.readings.entries import Written, write
from server.readings.models import Entry
from server.readings.store import NotThere
from server.systems.models import System

router = Router(tags=["rooms"])

SO_FAR = 120  # latest days whose scatter says how long a trial must be, common practice, chosen
SEEDS = 2**31
Name = Annotated[str, Field(min_length=1, max_length=120)]


@dataclass(frozen=True)
class TrialDayShown:
    """A day of a schedule: local date, setting A or B, whether it begins that day and counts."""

    day: str
    setting: str
    begins: bool
    counts: bool


@dataclass(frozen=True)
class TrialResultShown:
    """What a trial has shown so far. sentence : it in one; days : counted of each; less :
    electricity that B takes less than A [kWh/d]; share : of A's; heat_less : the same of the heat;
    room : B's less A's [K]."""

    sentence: str
    days: list[int]
    less: FigureShown
    share: float
    heat_less: FigureShown | None
    room: float | None
    worth: str


@dataclass(frozen=True)
class TrialShown:
    """A trial. today : the setting of today, null before and after it; next_change : local day of
    the next change of setting. result : null with the reason."""

    id: int
    a: str
    b: str
    first: str
    last: str
    days: int
    block: int
    carry: int
    today: str | None
    next_change: str | None
    schedule: list[TrialDayShown]
    result: TrialResultShown | None
    reason: Reason | None


@dataclass(frozen=True)
class Trials:
    """The latest first."""

    rows: list[TrialShown]


@dataclass(frozen=True)
class TrialTyped:
    """A trial as planned. a, b : what the two settings are; first : local day; days : in all; block
    : days for which one holds; carry : first days of a block that are not counted."""

    a: Name
    b: Name
    first: Short
    days: Annotated[int, Field(ge=2, le=730)]
    block: Annotated[int, Field(ge=1, le=60)]
    carry: Annotated[int, Field(ge=0, le=59)]


@dataclass(frozen=True)
class Needed:
    """Days that a trial must have to show a difference, by the latest days; null with the
    reason."""

    days: int | None
    reason: Reason | None


@router.get("/systems/{pk}/trials", response=Trials)
def trials(request: HttpRequest, pk: int) -> Trials:
    """The trials of a system, each with what it has shown so far."""
    system = get_system(pk)
    found = list(system.entries.filter(kind=Entry.Kind.TRIAL).order_by("-time", "-pk"))
    return Trials([_shown(system, entry) for entry in found])


@router.post("/systems/{pk}/trials", response=Trials)
def plan(request: HttpRequest, pk: int, typed: Body[TrialTyped]) -> Trials:
    """Plans a trial; the order of its settings is drawn now."""
    system = get_system(pk)
    zone = zone_named(system.installation.zone)
    try:
        first = date.fromisoformat(typed.first)
    except ValueError as error:
        raise DescriptionError(
            f"first: '{typed.first}' is no day; write it as 2026-11-30.", "first"
        ) from error
    planned = TrialPlan(first, typed.days, typed.block, typed.carry, randbelow(SEEDS))
    content = {
        "a": typed.a,
        "b": typed.b,
        "days": planned.days,
        "block": planned.block,
        "carry": planned.carry,
        "seed": planned.seed,
    }
    begin = instant_of(first, zone)
    end = instant_of(first + timedelta(days=planned.days), zone)
    one = Written(None, Entry.Kind.TRIAL, begin, end, content)
    write(system, request.user, f"trial of {typed.a} and {typed.b}, from {first}", [one])
    return trials(request, pk)


@router.get("/systems/{pk}/trials/needed", response=Needed)
def needed(request: HttpRequest, pk: int, share: float, block: int, carry: int) -> Needed:
    """Days that a trial must have to show a share of the electricity."""
    system = get_system(pk)
    TrialPlan(date(2000, 1, 1), max(2 * block, 2), block, carry, 0)  # refuses what is none

    def look(found: CachedAnalysis) -> int | NotAvailable:
        stop = found.analysis.stop
        period = Period("latest", max(found.analysis.start, stop - SO_FAR * 86_400), stop)
        cut = cut_at(system, found, (period.start, period.stop))
        return days_needed(season_seen(cut.analysis, period), share, block, carry)

    result = steady(system, look)
    if isinstance(result, NotAvailable):
        return Needed(None, result.reason)
    return Needed(result, None)


@router.get("/systems/{pk}/trials/{trial}.ics")
def calendar(request: HttpRequest, pk: int, trial: int) -> HttpResponse:
    """The changes of setting as a calendar file (RFC 5545), each with a reminder the evening
    before."""
    system = get_system(pk)
    entry = system.entries.filter(kind=Entry.Kind.TRIAL, pk=trial).first()
    if entry is None:
        raise NotThere("This trial is no longer there; somebody took it out.")
    made = Calendar()
    made.add("prodid", "-//Honest Ember//trials//EN")
    made.add("version", "2.0")
    days = schedule(_plan(system, entry))
    begins = [one.day for one in days if one.begins]
    ends = [*begins[1:], days[-1].day + timedelta(days=1)]
    names = {"A": entry.content["a"], "B": entry.content["b"]}
    for one, end in zip((one for one in days if one.begins), ends, strict=True):
        event = Event()
        event.add("uid", f"trial-{entry.pk}-{one.day:%Y%m%d}@honest-ember")
        event.add("dtstamp", datetime.now(UTC))
        event.add("dtstart", one.day)
        event.add("dtend", end)
        event.add("summary", f"{system.name}: set {one.setting}, {names[one.setting]}")
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", f"Change the setting to {names[one.setting]}")
        alarm.add("trigger", timedelta(hours=-4))
        event.add_component(alarm)
        made.add_component(event)
    response = HttpResponse(made.to_ical(), content_type="text/calendar; charset=utf-8")
    response["Content-Disposition"] = attachment(f"{system.name} trial", "ics")
    return response


def _plan(system: System, entry: Entry) -> TrialPlan:
    first = wall_clock(entry.time, zone_named(system.installation.zone)).date()
    of = entry.content
    return TrialPlan(first, of["days"], of["block"], of["carry"], of["seed"])


def _shown(system: System, entry: Entry) -> TrialShown:
    planned = _plan(system, entry)
    days = schedule(planned)
    today = wall_clock(datetime.now(UTC).timestamp(), zone_named(system.installation.zone)).date()
    result = _result(system, entry, planned)
    a, b = entry.content["a"], entry.content["b"]
    return TrialShown(
        id=entry.pk,
        a=a,
        b=b,
        first=planned.first.isoformat(),
        last=days[-1].day.isoformat(),
        days=planned.days,
        block=planned.block,
        carry=planned.carry,
        today=next((one.setting for one in days if one.day == today), None),
        next_change=next(
            (one.day.isoformat() for one in days if one.begins and one.day > today), None
        ),
        schedule=[TrialDayShown(d.day.isoformat(), d.setting, d.begins, d.counts) for d in days],
        result=None if not isinstance(result, TrialResult) else _result_shown(result, a, b),
        reason=None if isinstance(result, TrialResult) else result,
    )


def _result_shown(found: TrialResult, a: str, b: str) -> TrialResultShown:
    return TrialResultShown(
        said(found, a, b),
        [found.days_a, found.days_b],
        known(found.less),
        found.share,
        figure(found.heat_less),
        found.room,
        found.worth.value,
    )


def _result(system: System, entry: Entry, planned: TrialPlan) -> TrialResult | Reason | None:
    """What a trial has shown; the reason where that cannot be told; None before its first day."""
    assert entry.stop is not None
    begin, end = float(entry.time), float(entry.stop)

    def look(found: CachedAnalysis) -> TrialResult | Reason | None:
        start, stop = max(begin, found.analysis.start), min(end, found.analysis.stop)
        if stop - start < 86_400:
            return None
        cut = cut_at(system, found, (start, stop))
        seen = season_seen(cut.analysis, Period("trial", start, stop))
        made = trial_result(seen, _settings(system, seen, planned), _rooms(seen, system, found))
        return made if isinstance(made, TrialResult) else made.reason

    return steady(system, look)


def _settings(system: System, seen: SeasonSeen, planned: TrialPlan) -> list[str | None]:
    """The setting that counts on each day of a season."""
    zone = zone_named(system.installation.zone)
    counted = {one.day: one.setting for one in schedule(planned) if one.counts}
    starts = [] if seen.daily is None else seen.daily.start.tolist()
    return [counted.get(wall_clock(t, zone).date()) for t in starts]


def _rooms(seen: SeasonSeen, system: System, found: CachedAnalysis) -> Floats | None:
    """Mean room temperature of each day of a season [degC]; None where none is logged."""
    ran: Operation = operation_of(system, found)
    room = ran.hours.of["room"]
    if seen.daily is None or not np.isfinite(room).any():
        return None
    at = ran.hours.start + HOUR * np.arange(len(room))
    day = np.searchsorted(seen.daily.start, at, side="right") - 1
    use = (day >= 0) & np.isfinite(room) & (at < seen.daily.start[-1] + 86_400)
    count = len(seen.daily.start)
    sums, hours = np.bincount(day[use], room[use], count), np.bincount(day[use], minlength=count)
    means: Floats = np.where(hours >= 12, sums / np.maximum(hours, 1), np.nan)
    return means
