"""Rating: measured against the rated table over weather, flow, load and time; capacity."""

from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest
from ninja import Router

from ember.balance.days import DayKind, kind_of
from ember.balance.sums import compared_between, judge
from ember.basis.calendar import months
from ember.comparison.capacity import LEAST_LIMIT, Capacity, capacity_seen
from ember.comparison.drift import Drift, day_ratios, drift
from ember.comparison.matched import matched_hours
from ember.comparison.parts import FLOW_STEP, PARTS_OUTDOOR_STEP, Cell, ShapePart, grid, parts
from ember.comparison.performance_ratio import stands_at
from ember.comparison.site import Site, site
from ember.messages import Reason
from ember.views.curves import over_weather
from server.api.figures import cut_to
from server.api.fleet import get_system
from server.assessments.asis import as_shown, shape_of
from server.assessments.shown import (
    ComparisonShown,
    FigureShown,
    ReckoningShown,
    VerdictShown,
    comparison,
    figure,
    known,
    reckoning,
    verdict,
)

router = Router(tags=["rating"])
CellOut: Any = shape_of(Cell)
DriftOut: Any = shape_of(Drift)
CapacityOut: Any = shape_of(Capacity)
SiteOut: Any = shape_of(Site)


@dataclass(frozen=True)
class BinShown:
    """Compared running in a band of outdoor temperature [degC]; flow : mean [degC]."""

    low: float
    high: float
    flow: float | None
    hours: float
    measured: ReckoningShown
    rated: FigureShown
    ratio: FigureShown


@dataclass(frozen=True)
class HoursShown:
    """Each hour of compared running: its instant, mean outdoor temperature [degC], COPs."""

    start: list[float]
    outdoor: list[float]
    measured: list[float]
    rated: list[float]


@dataclass(frozen=True)
class RatingShown:
    """Measured against rated over a period. below : the limit of the verdict."""

    local: str
    stale: bool
    has_table: bool
    comparison: ComparisonShown | None
    reason: Reason | None
    verdict: VerdictShown
    below: float
    bins: list[BinShown]
    hours: HoursShown


@dataclass(frozen=True)
class PartOfConditions:
    """A part of the conditions against the rest. ratio : of their performance ratios; alone : its
    own effect, as a relative change, with its U."""

    name: str
    ratio: FigureShown
    inside: FigureShown
    outside: FigureShown
    hours_inside: float
    hours_outside: float
    alone: float
    alone_U: float


@dataclass(frozen=True)
class MonthRatio:
    """The performance ratio of a calendar month; hours of compared running. kind : how it stands
    to the analyst's limit, with all of its U."""

    name: str
    start: float
    stop: float
    ratio: FigureShown | None
    kind: DayKind
    hours: float


@dataclass(frozen=True)
class SameShown:
    """Expected at the same conditions. cells : of the grid, outdoor and flow temperature from these
    on, by load; widths [K]. below, capacity_below : the limits of the ratio and of the capacity at
    the limit; enough_hours : at the limit, for its capacity to be told. parts : frost band, high
    flow, small load. step_U : of the step of the drift. stands_at : the level of comparison and
    what was assumed. reason : where nothing can be compared."""

    local: str
    stale: bool
    reason: Reason | None
    stands_at: list[str]
    outdoor_step: float
    flow_step: float
    below: float
    capacity_below: float
    enough_hours: int
    cells: list[CellOut]
    parts: list[PartOfConditions]
    months: list[MonthRatio]
    drift: DriftOut
    step_U: float | None
    capacity: CapacityOut
    site: SiteOut


@router.get("/systems/{pk}/rating", response=RatingShown)
def rating(request: HttpRequest, pk: int, start: str, stop: str) -> RatingShown:
    """Measured COP over outdoor temperature against the table, and the verdict."""
    cut = cut_to(get_system(pk), start, stop)
    analysis, period = cut.analysis, cut.period
    compared = compared_between(analysis, period)
    bins, hours = over_weather(analysis, period)
    return RatingShown(
        local=period.name,
        stale=cut.stale,
        has_table=analysis.installation.rated is not None,
        comparison=comparison(compared.comparison),
        reason=None if compared.comparison else compared.reason,
        verdict=verdict(judge(analysis, compared, period)),
        below=analysis.installation.thresholds.below_rated,
        bins=[
            BinShown(
                b.low,
                b.high,
                b.flow,
                b.comparison.hours,
                reckoning(b.comparison.measured),
                known(b.comparison.rated_cop),
                known(b.comparison.ratio),
            )
            for b in bins
        ],
        hours=HoursShown(
            [h.start for h in hours],
            [h.outdoor for h in hours],
            [h.measured for h in hours],
            [h.rated for h in hours],
        ),
    )


@router.get("/systems/{pk}/same", response=SameShown)
def same(request: HttpRequest, pk: int, start: str, stop: str) -> SameShown:
    """The performance ratio over conditions and time, capacity, and the site's expected SPF."""
    cut = cut_to(get_system(pk), start, stop, events=True)
    analysis, period = cut.analysis, cut.period
    within = cut.within
    size = analysis.installation.unit.capacity_kw
    limits = analysis.installation.thresholds
    watts = size * 1000 if size else None
    hours = matched_hours(analysis, period)
    cells, shape = [], []
    if hours is not None and len(hours):
        cells = grid(analysis, period, hours, watts)
        divided = parts(analysis, period, hours, watts)
        shape = [p for p in (divided.frost, divided.small_load, divided.high_flow) if p]
    monthly = []
    for month in months(period.start, period.stop, analysis.zone):
        one = compared_between(analysis, month).comparison
        monthly.append(
            MonthRatio(
                month.name,
                month.start,
                month.stop,
                figure(one.ratio) if one else None,
                kind_of(one.ratio if one else None, limits),
                one.hours if one else 0.0,
            )
        )
    compared = compared_between(analysis, period)
    drifted = drift(day_ratios(within))
    return SameShown(
        local=period.name,
        stale=cut.stale,
        reason=None if compared.comparison else compared.reason,
        stands_at=list(stands_at(compared.comparison)) if compared.comparison else [],
        outdoor_step=PARTS_OUTDOOR_STEP,
        flow_step=FLOW_STEP,
        below=limits.below_rated,
        capacity_below=limits.capacity,
        enough_hours=LEAST_LIMIT,
        cells=[as_shown(c) for c in cells],
        parts=[_part(p) for p in shape],
        months=monthly,
        drift=as_shown(drifted),
        step_U=drifted.change.U if drifted.change else None,
        capacity=as_shown(capacity_seen(within)),
        site=as_shown(site(within)),
    )


def _part(part: ShapePart) -> PartOfConditions:
    return PartOfConditions(
        name=part.name,
        ratio=known(part.ratio),
        inside=known(part.inside.ratio),
        outside=known(part.outside.ratio),
        hours_inside=part.inside.hours,
        hours_outside=part.outside.hours,
        alone=part.alone,
        alone_U=part.alone_U,
    )
