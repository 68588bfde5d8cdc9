"""assess(): the whole road in one call."""

from dataclasses import dataclass, replace
from itertools import chain

import numpy as np

from ember.assessment.record_analysis import (
    FORBID_COP,
    RecordAnalysis,
    analyse_record,
    passed_over,
)
from ember.assessment.results import (
    FORMAT,
    FORMAT_VERSION,
    Assessment,
    LevelState,
)
from ember.balance.sums import PeriodFigures, compared_between, figures, judge
from ember.basis.calendar import latest_year, months, whole
from ember.basis.clock import zone_named
from ember.basis.codes import CheckCode
from ember.basis.errors import DescriptionError
from ember.basis.periods import Period
from ember.basis.quantity import Estimate
from ember.basis.series import Trace
from ember.basis.side_by_side import two
from ember.boundary.combinations import widest
from ember.description.installation import Installation
from ember.diagnosis import FindingContext, Findings, find
from ember.operation import Operation, operation
from ember.operation.within import Within
from ember.reckoning import reckon
from ember.trust import Check, Effect, checks


def assess(
    installation: Installation,
    trace: Trace,
    start: float | None = None,
    stop: float | None = None,
) -> Assessment:
    """Everything the core can say about one record.

    Parameters
    ----------
    installation : Installation
        the description; its corrections are applied first.
    trace : Trace
        the readings.
    start, stop : float | None
        instants between which to assess [s]; None: the whole record. The checks of the metering
        look at the whole record, and what lies outside helps to tell the states.

    Returns
    -------
    Assessment.

    Raises
    ------
    DescriptionError
        if the description does not fit the record.
    """
    return assessed(installation, trace, start, stop)[0]


def assessed(
    installation: Installation,
    trace: Trace,
    start: float | None = None,
    stop: float | None = None,
) -> tuple[Assessment, Within]:
    """The same, with the period's operation for what else is asked of it; see `assess`."""
    begin, end = _limits(trace, start, stop)
    year = latest_year(begin, end, zone_named(installation.zone))
    cuts = [begin, end, *([year.start] if year else [])]
    sure, walked, context = passed_over(installation, trace, cuts)
    first = sure.facts.checks  # they tell whether a COP may be stated

    def rest() -> tuple[_Sums, FindingContext]:
        ran, sums = two(lambda: operation(sure, trace, walked), lambda: _sums(sure, begin, end))
        return sums, FindingContext(sure, ran, sums.over).looked()

    (sums, seen), made = two(rest, lambda: checks(context, None, first))
    analysis = with_effects(sure.with_checks(made), trace, begin, end)
    found = find(seen.with_checks(analysis))
    return _answer(analysis, begin, end, sums, found), Within(analysis, seen.ran, whole(begin, end))


def with_effects(
    analysis: RecordAnalysis, trace: Trace, start: float | None = None, stop: float | None = None
) -> RecordAnalysis:
    """The record analysis with the COP before and after each check's proposals, by a pass with
    them.

    Parameters
    ----------
    trace : Trace
        the readings as logged.
    start, stop : float | None
        instants between which the COP is taken [s].
    """
    begin, end = _limits(trace, start, stop)
    if not any(check.proposals for check in analysis.facts.checks):
        return analysis
    period = Period("whole", begin, end)
    now = _widest(analysis, period)

    def effect(check: Check) -> Check:
        if not check.proposals:
            return check
        described = analysis.described
        accepted = replace(described, corrections=described.corrections + check.proposals)
        then = _widest(
            analyse_record(accepted, trace, [begin, end], checked=_mended(check)), period
        )
        return replace(check, effect=Effect(*chain(*zip(now, then, strict=True))))

    return analysis.with_checks(tuple(effect(check) for check in analysis.facts.checks))


def _mended(check: Check) -> frozenset[CheckCode]:
    """The checks that a pass for an effect needs: those that may withhold a COP, and its own."""
    return FORBID_COP | {check.code}


def answer(
    analysis: RecordAnalysis,
    start: float | None = None,
    stop: float | None = None,
    ran: Operation | None = None,
) -> Assessment:
    """Everything the core can say, from a record analysis and its events.

    Parameters
    ----------
    ran : Operation | None
        runs, defrosts and hours of the record; without them no findings are made.
    start, stop : float | None
        instants at which the record analysis is cut [s]; None: the whole record.
    """
    begin = float(analysis.start if start is None else start)
    end = float(analysis.stop if stop is None else stop)
    sums = _sums(analysis, begin, end)
    found = Findings((), ())
    if ran is not None:
        found = find(FindingContext(analysis, ran, sums.over))
    return _answer(analysis, begin, end, sums, found)


@dataclass(frozen=True)
class _Sums:
    """Figures of the whole, of its latest year, and of its months."""

    total: PeriodFigures
    year: PeriodFigures | None
    months: tuple[PeriodFigures, ...]

    @property
    def over(self) -> PeriodFigures:
        """Of what findings are stated: the latest year, where there is one."""
        return self.total if self.year is None else self.year


def _sums(analysis: RecordAnalysis, begin: float, end: float) -> _Sums:
    last_year = latest_year(begin, end, analysis.zone)
    return _Sums(
        figures(analysis, [whole(begin, end)])[0],
        figures(analysis, [last_year])[0] if last_year else None,
        tuple(figures(analysis, months(begin, end, analysis.zone))),
    )


def _answer(
    analysis: RecordAnalysis, begin: float, end: float, sums: _Sums, found: Findings
) -> Assessment:
    facts, installation = analysis.facts, analysis.installation
    whole_period = whole(begin, end)
    compared = compared_between(analysis, whole_period)
    judged = judge(analysis, compared, whole_period)
    levels = (
        LevelState(p.level, p.level.words(analysis.installation.unit.on_air), p.reason)
        for p in facts.combinations.values()
    )
    return Assessment(
        format=FORMAT,
        version=FORMAT_VERSION,
        name=installation.name,
        zone=installation.zone,
        core=facts.core,
        start=begin,
        stop=end,
        step=analysis.segments.step,
        levels=tuple(levels),
        checks=facts.checks,
        corrections=facts.corrections,
        total=sums.total,
        latest_year=sums.year,
        months=sums.months,
        running=analysis.summary(begin, end),
        comparison=compared.comparison,
        verdict=judged,
        findings=found.findings,
        not_judged=found.not_judged,
        missing_meters=facts.missing,
    )


def _widest(
    analysis: RecordAnalysis, period: Period
) -> tuple[Estimate | None, Estimate | None, Estimate | None, Estimate | None]:
    """Heat, electricity and COP at the widest level, and the performance ratio, of a period at
    whose ends the record analysis is cut."""
    compared = compared_between(analysis, period).comparison
    ratio = compared.ratio if compared else None
    combination = widest(analysis.facts.combinations)
    if combination is None:
        return None, None, None, ratio
    groups = np.where(analysis.segments.within(period.start, period.stop), 0, -1)
    asked = [(period.start, period.stop)]
    found = reckon(analysis.segments, combination, groups, asked, analysis.cop_reason)[0]
    return found.heat, found.electricity, found.cop, ratio


def _limits(trace: Trace, start: float | None, stop: float | None) -> tuple[float, float]:
    begin = max(trace.start, trace.start if start is None else start)
    end = min(trace.stop, trace.stop if stop is None else stop)
    if end <= begin:
        raise DescriptionError(
            "from/to: there are no readings between these two times; the record runs from "
            f"{np.datetime64(trace.start, 's')}Z to {np.datetime64(trace.stop, 's')}Z."
        )
    return float(begin), float(end)
