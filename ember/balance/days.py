"""Figures of each local day: what the season ribbon and the fleet's strips are drawn from."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.sums import FORBIDS, groups_of, ratios_of, whole
from ember.basis.clock import local_days
from ember.basis.periods import Period
from ember.basis.quantity import Estimate
from ember.boundary.combinations import widest
from ember.description.installation import Thresholds
from ember.reckoning import reckon
from ember.reckoning.reckon import metered
from ember.states import Basis
from ember.trust import Soundness

DAYS_LEAST_HOURS = 2.0  # of comparable running, for a day to be judged, common practice, chosen
ENOUGH = 0.5  # of a day must be metered for its bar to be believed


class DayKind(StrEnum):
    """How a day compares with the rated table."""

    BELOW_RATED = "below rated"  # even with all of U
    WATCH = "watch"
    AS_RATED = "as rated"
    BETTER = "better"  # even with all of U above the table
    NOT_COMPARED = "not compared"  # too little running that fits the table
    DOUBTFUL = "doubtful"  # a check doubts the metering of this day
    LEFT_OUT = "left out"  # by the analyst
    NO_DATA = "no data"


@dataclass(frozen=True)
class DayFigures:
    """One local day.

    Attributes
    ----------
    day : str
        like 2026-01-22.
    start, stop : float
        instants [s].
    electricity : Estimate | None
        all that is metered [kWh]
    heat, cop : Estimate | None
        at the widest level.
    ratio : Estimate | None
        performance ratio of the compared running.
    coverage : float
        share of the day whose electricity is known.
    defrosts : int | None
        None where they cannot be told.
    """

    day: str
    start: float
    stop: float
    kind: DayKind
    electricity: Estimate | None
    heat: Estimate | None
    cop: Estimate | None
    ratio: Estimate | None
    coverage: float
    defrosts: int | None


def days(analysis: RecordAnalysis) -> list[DayFigures]:
    """Every local day of a record; the first and the last may be cut short."""
    names, edges = local_days(analysis.start, analysis.stop, analysis.zone)
    limits = np.clip(edges, analysis.start, analysis.stop).tolist()
    periods = [
        Period(day.isoformat(), a, b)
        for day, a, b in zip(names, limits[:-1], limits[1:], strict=True)
    ]
    segments, facts = analysis.segments, analysis.facts
    groups = groups_of(analysis, periods)
    count = len(periods)
    totals, known = metered(segments, facts.shares, groups, count) if facts.shares else ([], None)
    asked = [(p.start, p.stop) for p in periods]
    combination = widest(facts.combinations)
    sums = reckon(segments, combination, groups, asked, analysis.cop_reason) if combination else []
    ratios = ratios_of(analysis, groups, len(asked), DAYS_LEAST_HOURS * 3600)
    excluded = np.bincount(
        groups[groups >= 0], (segments.cells * (segments.excluded >= 0))[groups >= 0], count
    )
    defrosts = _defrosts(analysis, edges)
    doubts = [
        span
        for check in facts.checks
        if check.soundness == Soundness.DOUBTFUL and FORBIDS & set(check.affects)
        for span in check.spans
    ]
    found = []
    for k, period in enumerate(periods):
        length = (period.stop - period.start) / segments.step
        coverage = float(known[k]) / length if known is not None else 0.0
        ratio = ratios[k]
        kind = kind_of(ratio, analysis.installation.thresholds)
        if any(span.start < period.stop and span.stop > period.start for span in doubts):
            kind = DayKind.DOUBTFUL
        if excluded[k] > 0.5 * length:
            kind = DayKind.LEFT_OUT
        if coverage < ENOUGH:
            kind = DayKind.NO_DATA
        reckoning = whole(analysis, sums[k]) if sums else None
        found.append(
            DayFigures(
                day=period.name,
                start=period.start,
                stop=period.stop,
                kind=kind,
                electricity=totals[k] if coverage else None,
                heat=reckoning.heat if reckoning and reckoning.covered else None,
                cop=reckoning.cop if reckoning else None,
                ratio=ratio,
                coverage=coverage,
                defrosts=defrosts[k] if defrosts is not None else None,
            )
        )
    return found


def kind_of(ratio: Estimate | None, thresholds: Thresholds) -> DayKind:
    """How a performance ratio stands to the analyst's limit, with all of its U; None for none."""
    if ratio is None:
        return DayKind.NOT_COMPARED
    if ratio.value + ratio.U < thresholds.below_rated:
        return DayKind.BELOW_RATED
    if ratio.value < thresholds.below_rated:
        return DayKind.WATCH
    return DayKind.BETTER if ratio.value - ratio.U > 1.0 else DayKind.AS_RATED


def _defrosts(analysis: RecordAnalysis, edges: np.ndarray) -> list[int] | None:
    if analysis.facts.defrosts_by == Basis.NOT_KNOWN or analysis.swapped:
        return None
    starts = analysis.start + analysis.defrosts[:, 0] * analysis.segments.step
    counts: list[int] = np.histogram(starts, edges)[0].tolist()
    return counts
