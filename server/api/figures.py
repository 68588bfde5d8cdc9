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

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.electricity import power_seen
from ember.balance.sums import (
    HeadEnergy,
    compared_between,
    cooling,
    eer_name,
    figures,
    heads,
    judge,
)
from ember.basis.clock import iso_local
from ember.basis.periods import Period
from ember.boundary import MeterCombination
from ember.boundary.combinations import why_none
from ember.messages import Reason
from ember.operation import Operation
from ember.operation.within import Within
from ember.reckoning import Reckoning, missing_part, of_whole_period
from ember.reckoning.whole import WHOLE_FULL
from ember.trust import Affects
from ember.views.curves import conditions
from ember.views.standing import trust_of
from server.api.files import attachment
from server.api.fleet import get_system
from server.assessments.asis import as_shown, shape_of
from server.assessments.cache import CachedAnalysis, cut_at, find, operation_of, steady
from server.assessments.draw import lanes_of, window
from server.assessments.present import WIDTH, sum_block
from server.assessments.shown import (
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
from server.assessments.times import TimeError, instant
from server.systems.models import System

router = Router(tags=["running"])
HeadOut: Any = shape_of(HeadEnergy)
# What a doubt must touch to stand below a sum; totals and single minutes do not undermine a COP.
UNDERMINES = {Affects.HEAT, Affects.ELECTRICITY, Affects.CONDITIONS, Affects.COUNTS}


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


def span_of(analysis: RecordAnalysis, start: str, stop: str) -> Period:
    """A stretch between two local days or times, kept within the record."""
    zone = analysis.zone
    begin, end = instant(start, zone, "from"), instant(stop, zone, "to", 1)
    begin, end = max(begin, analysis.start), min(end, analysis.stop)
    if end - begin < analysis.segments.step:
        first, last = (iso_local(t, zone) for t in (analysis.start, analysis.stop))
        raise TimeError(f"No readings lie between these times; the record runs {first} to {last}.")
    return Period(f"{iso_local(begin, zone)} to {iso_local(end, zone)}", begin, end)


@dataclass(frozen=True)
class Cut:
    """A system's cached record analysis, cut at the ends of a period. ran : its events, of the
    same moment, where they were asked for."""

    analysis: RecordAnalysis
    period: Period
    stale: bool
    made_from: str
    ran: Operation | None

    @property
    def within(self) -> Within:
        """The events of the period."""
        assert self.ran is not None
        return Within(self.analysis, self.ran, self.period)


def cut_to(system: System, start: str, stop: str, events: bool = False) -> Cut:
    """A record analysis cut at two local days or times. events : with the events of the record."""

    def look(found: CachedAnalysis) -> Cut:
        period = span_of(found.analysis, start, stop)
        cut = cut_at(system, found, (period.start, period.stop))
        ran = operation_of(system, found) if events else None
        return Cut(cut.analysis, period, found.stale, found.made_from, ran)

    return steady(system, look)


@router.get("/systems/{pk}/span", response=SpanFigures)
def span(request: HttpRequest, pk: int, start: str, stop: str) -> SpanFigures:
    """The sum of any span, given in local days or times."""
    cut = cut_to(get_system(pk), start, stop)
    return span_figures(cut.analysis, cut.period, cut.stale)


@router.get("/systems/{pk}/span.txt")
def span_text(request: HttpRequest, pk: int, start: str, stop: str) -> HttpResponse:
    """The sum of a span as plain text, for a mail: every level that can be computed."""
    system = get_system(pk)
    cut = cut_to(system, start, stop)
    analysis, period = cut.analysis, cut.period
    text = StringIO()
    page = Console(file=text, width=WIDTH, highlight=False, markup=False, emoji=False)
    page.print(f"{system.name} · {period.name} local time")
    on_air = analysis.installation.unit.on_air
    total = figures(analysis, [period])[0]
    for summed in total.reckonings:
        page.print(Group(*sum_block(summed, "COP", summed.level.words(on_air))))
    for one in total.services:
        if one.reckoning is not None:
            page.print(f"\n{service(one).what}")
            page.print(Group(*sum_block(one.reckoning, "COP", one.reckoning.level.words(on_air))))
    for said in analysis.facts.corrections:
        page.print(f"Corrected: {said}")
    if cut.stale:
        page.print("These figures are of earlier readings.")
    return HttpResponse(text.getvalue(), content_type="text/plain; charset=utf-8")


def span_figures(analysis: RecordAnalysis, period: Period, stale: bool) -> SpanFigures:
    """The figures of a span at whose ends the record analysis is cut."""
    total = figures(analysis, [period])[0]
    compared = compared_between(analysis, period)
    by_level = {found.level: found for found in total.reckonings}
    levels = [
        LevelShown(
            combination.level.value,
            combination.level.words(analysis.installation.unit.on_air),
            combination.reason,
            reckoning(by_level[combination.level]) if combination.level in by_level else None,
            between(analysis, combination, period),
            whole(analysis, combination, period, by_level.get(combination.level)),
        )
        for combination in analysis.facts.combinations.values()
    ]
    means = conditions(analysis, period)
    cold = cooling(analysis, period)
    ran = analysis.summary(period.start, period.stop)
    doubts = [
        check(c)
        for c in analysis.facts.checks
        if c.unsound
        and UNDERMINES & set(c.affects)
        and any(s.start < period.stop and s.stop > period.start for s in c.spans)
    ]
    state = trust_of(analysis, total)
    return SpanFigures(
        start=period.start,
        stop=period.stop,
        local=period.name,
        stale=stale,
        levels=levels,
        comparison=comparison(compared.comparison),
        comparison_reason=None if compared.comparison else compared.reason,
        verdict=verdict(judge(analysis, compared, period)),
        cost=cost(total.cost),
        outdoor=figure(means.outdoor),
        flow=figure(means.flow),
        supply=figure(means.supply),
        hours=ran.hours,
        runs=ran.runs,
        defrosts=ran.defrosts,
        doubts=doubts,
        trust=TrustLine(state.kind.value, state.brief, state.words),
        corrections=list(analysis.facts.corrections),
        cooling=reckoning(cold) if cold else None,
        eer_name=eer_name(period),
        heads=as_shown(heads(analysis, period)),
        services=[service(one) for one in total.services],
        reported=reckoning(total.reported) if total.reported else None,
        no_sum=None if total.reckonings else why_none(analysis.facts.combinations.values()),
        power=None if total.reckonings else _power(analysis, period),
    )


def _power(analysis: RecordAnalysis, period: Period) -> PowerShown | None:
    found = power_seen(analysis, period)
    if found is None:
        return None
    return PowerShown(
        electricity=known(found.electricity),
        a_day=known(found.a_day),
        per_degree_day=figure(found.per_degree_day),
        watts=figure(found.watts),
        hours=found.hours,
        by_table=figure(found.by_table),
        table_reason=found.reason,
        taken=list(found.taken),
    )


def whole(
    analysis: RecordAnalysis, combination: MeterCombination, period: Period, found: Reckoning | None
) -> FigureShown | None:
    """The COP taken for the whole period, with what the gaps may hide; None without gaps."""
    if found is None or found.coverage >= WHOLE_FULL:
        return None
    groups = np.where(analysis.segments.within(period.start, period.stop), 0, -1)
    return figure(of_whole_period(analysis.segments, combination, groups, found))


def between(
    analysis: RecordAnalysis, combination: MeterCombination, period: Period
) -> BetweenShown | None:
    """Between what the COP of a level lies that lacks a meter; None where that is not said."""
    if analysis.cop_reason or not combination.lacking:
        return None
    groups = np.where(analysis.segments.within(period.start, period.stop), 0, -1)
    part = missing_part(analysis.segments, combination, groups, (period.start, period.stop))
    return BetweenShown(known(part.low), known(part.high), part.words) if part else None


@router.get("/systems/{pk}/events", response=Events)
def events(request: HttpRequest, pk: int) -> Events:
    """When runs and defrosts begin."""
    analysis = find(get_system(pk)).analysis
    start, step = analysis.start, analysis.segments.step
    starts = (start + analysis.runs[:, 0] * step).astype(float).tolist()
    defrosts = (start + analysis.defrosts[:, 0] * step).astype(float).tolist()
    return Events(starts, [] if analysis.swapped else defrosts)


@router.get("/systems/{pk}/window")
def chart(
    request: HttpRequest, pk: int, start: str, stop: str, points: int = 900, further: str = ""
) -> HttpResponse:
    """What a chart of a window is drawn from: four bytes with the length of a JSON head, the
    head, and its lanes' values as 32-bit floats (least, then greatest, of each point). further :
    channels besides the usual ones, by commas."""
    system = get_system(pk)
    found = find(system)
    period = span_of(found.analysis, start, stop)
    asked = [c for c in further.split(",") if c]
    head, values = window(system, found.analysis, period, min(max(points, 100), 4000), asked)
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
    period = span_of(found.analysis, start, stop)
    asked = [c for c in further.split(",") if c]
    lanes, _ = lanes_of(system, found.analysis, period, 4000, asked)
    head, _ = window(system, found.analysis, period, 4000)
    zone = found.analysis.zone
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
