"""Trials: two settings alternated by days, planned, put into a calendar, and told apart."""

from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from secrets import randbelow
from typing import Annotated

from django.http import HttpRequest, HttpResponse
from icalendar import Alarm, Calendar, Event
from ninja import Body, Router
from pydantic import Field

from ember.basis.clock import instant_of, wall_clock, zone_named
from ember.basis.errors import DescriptionError
from ember.basis.periods import Period
from ember.messages import NotAvailable, Reason
from ember.season import TrialPlan, days_needed, schedule, season_seen
from ember.views.trial_seen import TrialAsked, TrialSeen, trial_days, trial_seen
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
    asked = _asked(system, entry)
    days = schedule(asked.plan)
    begins = [one.day for one in days if one.begins]
    ends = [*begins[1:], days[-1].day + timedelta(days=1)]
    names = {"A": asked.a, "B": asked.b}
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


def _asked(system: System, entry: Entry) -> TrialAsked:
    first = wall_clock(entry.time, zone_named(system.installation.zone)).date()
    return TrialAsked(first=first, **entry.content)


def _shown(system: System, entry: Entry) -> TrialShown:
    asked = _asked(system, entry)
    seen = _seen(system, asked)
    days = seen.schedule
    today = wall_clock(datetime.now(UTC).timestamp(), zone_named(system.installation.zone)).date()
    return TrialShown(
        id=entry.pk,
        a=asked.a,
        b=asked.b,
        first=asked.first.isoformat(),
        last=days[-1].day.isoformat(),
        days=asked.days,
        block=asked.block,
        carry=asked.carry,
        today=next((one.setting for one in days if one.day == today), None),
        next_change=next(
            (one.day.isoformat() for one in days if one.begins and one.day > today), None
        ),
        schedule=[TrialDayShown(d.day.isoformat(), d.setting, d.begins, d.counts) for d in days],
        result=_result_shown(seen),
        reason=seen.reason,
    )


def _result_shown(found: TrialSeen) -> TrialResultShown | None:
    told = found.result
    if told is None or found.sentence is None:
        return None
    return TrialResultShown(
        found.sentence,
        [told.days_a, told.days_b],
        known(told.less),
        told.share,
        figure(told.heat_less),
        told.room,
        told.worth.value,
    )


def _seen(system: System, asked: TrialAsked) -> TrialSeen:
    """What a trial has shown so far."""

    def look(found: CachedAnalysis) -> TrialSeen:
        period = trial_days(found.analysis, asked.plan)
        if period is None:
            return trial_seen(found.analysis, None, asked, None)
        hours = operation_of(system, found).hours
        cut = cut_at(system, found, (period.start, period.stop))
        return trial_seen(cut.analysis, hours, asked, period)

    return steady(system, look)
