"""Running: the sum of any span, and what is drawn over time."""

import csv
import json
from dataclasses import dataclass
from io import StringIO
from typing import Any

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Router
from rich.console import Console, Group

from ember.assessment.survey import Survey
from ember.basis.clock import iso_local
from ember.basis.periods import Period
from ember.messages import Reason
from ember.metering import Plan
from ember.metering.boundary import why_none
from ember.operation import Operation
from ember.operation.within import Within
from ember.power import power_seen
from ember.reckoning import Reckoning, missing_part, of_whole_period
from ember.reckoning.whole import FULL
from ember.sums import Head, compared_between, cooling, eer_name, figures, heads, judge
from ember.trust import Touches
from ember.views.curves import conditions
from ember.views.standing import trust_of
from server.analysis.asis import as_shown, shape_of
from server.analysis.draw import lanes_of, window
from server.analysis.keep import Found, cut_at, find, operation_of, steady
from server.analysis.present import WIDTH, sum_block
from server.analysis.shown import (
    BetweenShown,
    CheckShown,
    ComparisonShown,
    CostShown,
    FigureShown,
    LevelShown,
    ReckoningShown,
    ServiceShown,
    VerdictShown,
    check,
    comparison,
    cost,
    figure,
    known,
    reckoning,
    service,
    verdict,
)
from server.analysis.times import TimeError, instant
from server.api.files import attachment
from server.api.fleet import get_system
from server.installations.models import System

router = Router(tags=["running"])
HeadOut: Any = shape_of(Head)
# What a doubt must touch to stand below a sum; totals and single minutes do not undermine a COP.
UNDERMINES = {Touches.HEAT, Touches.ELECTRICITY, Touches.CONDITIONS, Touches.COUNTS}


@dataclass(frozen=True)
class TrustLine:
    """What can be claimed from the metering of a span, in a word and in a line."""

    kind: str
    brief: str
    words: str


@dataclass(frozen=True)
class PowerShown:
    """What the electricity alone says: in all, a day, a degree-day below 15 °C outdoors [kWh], mean
    power while running [W] and hours of it; null where that is not known."""

    electricity: FigureShown
    a_day: FigureShown
    per_degree_day: FigureShown | None
    watts: FigureShown | None
    hours: float | None
    by_table: FigureShown | None
    table_reason: Reason | None
    taken: list[str]


@dataclass(frozen=True)
class SpanFigures:
    """The sum of a span at every level, and what belongs to it.

    outdoor, flow : mean temperatures [degC]. hours : by state. cooling : reckoned apart, its `cop`
    is the EER; null where nothing is cooled.
    doubts : checks of the metering that touch the span and are not sound.
    """

    start: float
    stop: float
    local: str
    stale: bool
    levels: list[LevelShown]
    comparison: ComparisonShown | None
    comparison_reason: Reason | None
    verdict: VerdictShown
    cost: CostShown | None
    outdoor: FigureShown | None
    flow: FigureShown | None
    supply: FigureShown | None
    hours: dict[str, float]
    runs: int | None
    defrosts: int | None
    doubts: list[CheckShown]
    trust: TrustLine
    corrections: list[str]
    cooling: ReckoningShown | None
    eer_name: str
    heads: list[HeadOut]
    services: list[ServiceShown]
    reported: ReckoningShown | None
    no_sum: Reason | None
    power: PowerShown | None


@dataclass(frozen=True)
class Events:
    """First instants of each run and each defrost, in order [s]; empty where they are not known."""

    starts: list[float]
    defrosts: list[float]


def span_of(surveyed: Survey, start: str, stop: str) -> Period:
    """A stretch between two local days or times, kept within the record."""
    zone = surveyed.zone
    begin, end = instant(start, zone, "from"), instant(stop, zone, "to", 1)
    begin, end = max(begin, surveyed.start), min(end, surveyed.stop)
    if end - begin < surveyed.book.step:
        first, last = (iso_local(t, zone) for t in (surveyed.start, surveyed.stop))
        raise TimeError(f"No readings lie between these times; the record runs {first} to {last}.")
    return Period(f"{iso_local(begin, zone)} to {iso_local(end, zone)}", begin, end)


@dataclass(frozen=True)
class Cut:
    """A system's kept survey, cut at the ends of a period. ran : its events, of the same moment,
    where they were asked for."""

    surveyed: Survey
    period: Period
    stale: bool
    made_from: str
    ran: Operation | None

    @property
    def within(self) -> Within:
        """The events of the period."""
        assert self.ran is not None
        return Within(self.surveyed, self.ran, self.period)


def cut_to(system: System, start: str, stop: str, events: bool = False) -> Cut:
    """A survey cut at two local days or times. events : with the events of the record."""

    def look(found: Found) -> Cut:
        period = span_of(found.survey, start, stop)
        cut = cut_at(system, found, (period.start, period.stop))
        ran = operation_of(system, found) if events else None
        return Cut(cut.survey, period, found.stale, found.made_from, ran)

    return steady(system, look)


@router.get("/systems/{pk}/span", response=SpanFigures)
def span(request: HttpRequest, pk: int, start: str, stop: str) -> SpanFigures:
    """The sum of any span, given in local days or times."""
    cut = cut_to(get_system(pk), start, stop)
    return span_figures(cut.surveyed, cut.period, cut.stale)


@router.get("/systems/{pk}/span.txt")
def span_text(request: HttpRequest, pk: int, start: str, stop: str) -> HttpResponse:
    """The sum of a span as plain text, for a mail: every level that can be computed."""
    system = get_system(pk)
    cut = cut_to(system, start, stop)
    surveyed, period = cut.surveyed, cut.period
    text = StringIO()
    page = Console(file=text, width=WIDTH, highlight=False, markup=False, emoji=False)
    page.print(f"{system.name} · {period.name} local time")
    total = figures(surveyed, [period])[0]
    for summed in total.reckonings:
        page.print(Group(*sum_block(summed, "COP")))
    for one in total.services:
        if one.reckoning is not None:
            page.print(f"\n{service(one).what}")
            page.print(Group(*sum_block(one.reckoning, "COP")))
    for said in surveyed.facts.corrections:
        page.print(f"Corrected: {said}")
    if cut.stale:
        page.print("These figures are of earlier readings.")
    return HttpResponse(text.getvalue(), content_type="text/plain; charset=utf-8")


def span_figures(surveyed: Survey, period: Period, stale: bool) -> SpanFigures:
    """The figures of a span at whose ends the survey is cut."""
    total = figures(surveyed, [period])[0]
    compared = compared_between(surveyed, period)
    by_level = {found.level: found for found in total.reckonings}
    levels = [
        LevelShown(
            plan.level.value, plan.level.words(surveyed.installation.unit.on_air), plan.reason,
            reckoning(by_level[plan.level]) if plan.level in by_level else None,
            between(surveyed, plan, period),
            whole(surveyed, plan, period, by_level.get(plan.level)),
        )
        for plan in surveyed.facts.plans.values()
    ]  # fmt: skip
    means = conditions(surveyed, period)
    cold = cooling(surveyed, period)
    ran = surveyed.summary(period.start, period.stop)
    doubts = [
        check(c)
        for c in surveyed.facts.checks
        if c.unsound
        and UNDERMINES & set(c.touches)
        and any(s.start < period.stop and s.stop > period.start for s in c.spans)
    ]
    state = trust_of(surveyed, total)
    return SpanFigures(
        period.start, period.stop, period.name, stale, levels,
        comparison(compared.comparison),
        None if compared.comparison else compared.reason,
        verdict(judge(surveyed, compared, period)), cost(total.cost),
        figure(means.outdoor), figure(means.flow), figure(means.supply),
        ran.hours, ran.runs, ran.defrosts, doubts,
        TrustLine(state.kind.value, state.brief, state.words), list(surveyed.facts.corrections),
        reckoning(cold) if cold else None, eer_name(period), as_shown(heads(surveyed, period)),
        [service(one) for one in total.services],
        reckoning(total.reported) if total.reported else None,
        None if total.reckonings else why_none(surveyed.facts.plans.values()),
        None if total.reckonings else _power(surveyed, period),
    )  # fmt: skip


def _power(surveyed: Survey, period: Period) -> PowerShown | None:
    found = power_seen(surveyed, period)
    if found is None:
        return None
    return PowerShown(
        known(found.electricity), known(found.a_day), figure(found.per_degree_day),
        figure(found.watts), found.hours, figure(found.by_table), found.reason,
        list(found.taken),
    )  # fmt: skip


def whole(
    surveyed: Survey, plan: Plan, period: Period, found: Reckoning | None
) -> FigureShown | None:
    """The COP taken for the whole period, with what the gaps may hide; None without gaps."""
    if found is None or found.coverage >= FULL:
        return None
    groups = np.where(surveyed.book.within(period.start, period.stop), 0, -1)
    return figure(of_whole_period(surveyed.book, plan, groups, found))


def between(surveyed: Survey, plan: Plan, period: Period) -> BetweenShown | None:
    """Between what the COP of a level lies that lacks a meter; None where that is not said."""
    if surveyed.withheld or not plan.lacking:
        return None
    groups = np.where(surveyed.book.within(period.start, period.stop), 0, -1)
    part = missing_part(surveyed.book, plan, groups, (period.start, period.stop))
    return BetweenShown(known(part.low), known(part.high), part.words) if part else None


@router.get("/systems/{pk}/events", response=Events)
def events(request: HttpRequest, pk: int) -> Events:
    """When runs and defrosts begin."""
    surveyed = find(get_system(pk)).survey
    start, step = surveyed.start, surveyed.book.step
    starts = (start + surveyed.runs[:, 0] * step).astype(float).tolist()
    defrosts = (start + surveyed.defrosts[:, 0] * step).astype(float).tolist()
    return Events(starts, [] if surveyed.swapped else defrosts)


@router.get("/systems/{pk}/window")
def chart(
    request: HttpRequest, pk: int, start: str, stop: str, points: int = 900, further: str = ""
) -> HttpResponse:
    """What a chart of a window is drawn from: four bytes with the length of a JSON head, the
    head, and its lanes' values as 32-bit floats (least, then greatest, of each point). further :
    channels besides the usual ones, by commas."""
    system = get_system(pk)
    found = find(system)
    period = span_of(found.survey, start, stop)
    asked = [c for c in further.split(",") if c]
    head, values = window(system, found.survey, period, min(max(points, 100), 4000), asked)
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    body = len(text).to_bytes(4, "little") + text + values.tobytes()
    return HttpResponse(body, content_type="application/octet-stream")


@router.get("/systems/{pk}/window.csv")
def chart_csv(
    request: HttpRequest, pk: int, start: str, stop: str, further: str = ""
) -> HttpResponse:
    """What a window's chart shows, as CSV: each point with its least and greatest value, and the
    state that prevails."""
    system = get_system(pk)
    found = find(system)
    period = span_of(found.survey, start, stop)
    asked = [c for c in further.split(",") if c]
    lanes, _ = lanes_of(system, found.survey, period, 4000, asked)
    head, _ = window(system, found.survey, period, 4000)
    zone = found.survey.zone
    finest = min(lanes, key=lambda lane: lane.step, default=None)
    text = StringIO()
    writer = csv.writer(text, lineterminator="\n")
    names = []
    for lane in lanes:
        names += (
            [lane.channel]
            if lane.low is lane.high
            else [f"{lane.channel} least", f"{lane.channel} greatest"]
        )
    writer.writerow(["local time", "state", *names])
    for k in range(len(finest.low) if finest else 0):
        assert finest is not None
        instant = finest.start + k * finest.step
        state = int(np.searchsorted(head["state_starts"], instant + finest.step / 2, "right")) - 1
        row: list[object] = [iso_local(instant, zone), head["states"][state] if state >= 0 else ""]
        for lane in lanes:
            at = int((instant - lane.start) // lane.step)
            inside = 0 <= at < len(lane.low)
            for values in (lane.low,) if lane.low is lane.high else (lane.low, lane.high):
                known = inside and np.isfinite(values[at])
                row.append(f"{values[at]:.6g}" if known else "")
        writer.writerow(row)
    response = HttpResponse(text.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = attachment(f"{system.name} {period.name}", "csv")
    return response
