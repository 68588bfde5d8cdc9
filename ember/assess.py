"""assess(): the whole road in one call."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import chain

import numpy as np

from ember.assessment import (
    FORMAT,
    FORMAT_VERSION,
    Assessment,
    LevelState,
    PeriodFigures,
)
from ember.clock import zone_named
from ember.errors import DescriptionError
from ember.findings import below_rated
from ember.installation import Installation
from ember.money import cost, windows
from ember.period import Period
from ember.quantity import Estimate
from ember.rating import Comparison, Verdict, verdict
from ember.rating.compare import LEVEL, compare_segments
from ember.reckoning import Reckoning, reckon
from ember.running import State
from ember.season import latest_year, months, whole
from ember.survey import WITHHOLDING, Survey, survey
from ember.trace import Bools, Ints, Trace
from ember.trust import Check, Effect, Soundness, Touches

# What must not be in doubt for a verdict against the rated table.
FORBIDS = {Touches.HEAT, Touches.ELECTRICITY, Touches.CONDITIONS}


def assess(
    installation: Installation,
    trace: Trace,
    start: float | None = None,
    stop: float | None = None,
) -> Assessment:
    """Everything the core can say about one record.

    Parameters
    ----------
    installation : the description; its corrections are applied first.
    trace : the readings.
    start, stop : instants between which to assess [s]; None: the whole record. The checks of the
        metering look at the whole record, and what lies outside helps to tell the states.

    Returns
    -------
    Assessment.

    Raises DescriptionError if the description does not fit the record.
    """
    begin, end = _limits(trace, start, stop)
    year = latest_year(begin, end, zone_named(installation.zone))
    cuts = [begin, end, *([year.start] if year else [])]
    return answer(with_effects(survey(installation, trace, cuts), trace, begin, end), begin, end)


def with_effects(
    surveyed: Survey, trace: Trace, start: float | None = None, stop: float | None = None
) -> Survey:
    """The survey with the COP before and after each check's proposals, by a pass with them.

    Parameters
    ----------
    trace : the readings as logged. start, stop : instants between which the COP is taken [s].
    """
    begin, end = _limits(trace, start, stop)
    if not any(check.proposals for check in surveyed.facts.checks):
        return surveyed
    period = Period("whole", begin, end)
    now = _widest(surveyed, period)

    def effect(check: Check) -> Check:
        if not check.proposals:
            return check
        described = surveyed.described
        accepted = replace(described, corrections=described.corrections + check.proposals)
        then = _widest(survey(accepted, trace, [begin, end], checked=_mended(check)), period)
        return replace(check, effect=Effect(*chain(*zip(now, then, strict=True))))

    checks = tuple(effect(check) for check in surveyed.facts.checks)
    return replace(surveyed, facts=replace(surveyed.facts, checks=checks))


def _mended(check: Check) -> frozenset[str]:
    """The checks that a pass for an effect needs: those that may withhold a COP, and its own."""
    return WITHHOLDING | {check.name}


def answer(surveyed: Survey, start: float | None = None, stop: float | None = None) -> Assessment:
    """Everything the core can say, from a survey.

    Parameters
    ----------
    start, stop : instants at which the survey is cut [s]; None: the whole record.
    """
    facts, installation, zone = surveyed.facts, surveyed.installation, surveyed.zone
    begin = float(surveyed.start if start is None else start)
    end = float(surveyed.stop if stop is None else stop)
    whole_period = whole(begin, end)
    total = figures(surveyed, [whole_period])[0]
    last_year = latest_year(begin, end, zone)
    year = figures(surveyed, [last_year])[0] if last_year else None
    compared = compared_between(surveyed, whole_period)
    judged = judge(surveyed, compared, whole_period)
    over = year if year is not None else total
    in_year = None
    if compared.comparison is not None:
        in_year = compared_between(surveyed, over.period).measured
    found = below_rated(
        compared.comparison, judged, installation.thresholds, over.period, in_year, over.cost
    )
    levels = (LevelState(p.level, p.level.words, p.missing) for p in facts.plans.values())
    return Assessment(
        format=FORMAT,
        version=FORMAT_VERSION,
        name=installation.name,
        zone=installation.zone,
        core=facts.core,
        start=begin,
        stop=end,
        step=surveyed.book.step,
        levels=tuple(levels),
        checks=facts.checks,
        corrections=facts.corrections,
        total=total,
        latest_year=year,
        months=tuple(figures(surveyed, months(begin, end, zone))),
        running=surveyed.summary(begin, end),
        comparison=compared.comparison,
        verdict=judged,
        findings=(found,) if found else (),
        missing_meters=facts.missing,
    )


def figures(surveyed: Survey, periods: Sequence[Period]) -> list[PeriodFigures]:
    """Reckonings at every level, and the cost, of periods in order that do not overlap.

    The survey must be cut where they begin and end.
    """
    if not periods:
        return []
    book, installation = surveyed.book, surveyed.installation
    groups = groups_of(surveyed, periods)
    asked = [(p.start, p.stop) for p in periods]
    possible = [plan for plan in surveyed.facts.plans.values() if plan.missing is None]
    columns = [reckon(book, plan, groups, asked, surveyed.withheld) for plan in possible]
    costs = None
    if installation.tariff is not None and surveyed.facts.shares:
        first, last = int(periods[0].start), int(periods[-1].stop)
        times = windows(installation.tariff, first, last, surveyed.zone)
        costs = cost(installation.tariff, times, book, surveyed.facts.shares, groups, asked)
    return [
        PeriodFigures(period, tuple(column[k] for column in columns), costs[k] if costs else None)
        for k, period in enumerate(periods)
    ]


def groups_of(surveyed: Survey, periods: Sequence[Period]) -> Ints:
    """Which of the periods, in order, each segment belongs to, (m,); −1 for none."""
    begins = surveyed.book.begins
    starts = np.array([p.start for p in periods])
    stops = np.array([p.stop for p in periods])
    groups = np.searchsorted(starts, begins, side="right") - 1
    groups[(groups < 0) | (begins >= stops[np.maximum(groups, 0)])] = -1
    return groups


@dataclass(frozen=True)
class Compared:
    """The running of a period that fits the rated table.

    measured : its Reckoning at level H2. comparison : with the table; None with the reason in
    `why_none`.
    """

    measured: Reckoning | None
    comparison: Comparison | None
    why_none: str


def compared_between(surveyed: Survey, period: Period) -> Compared:
    """Measured and rated over the compared running of a period; the survey is cut at its ends."""
    inside = surveyed.book.within(period.start, period.stop)
    return compared_in(surveyed, period, inside)


def compared_in(surveyed: Survey, period: Period, inside: Bools) -> Compared:
    """Measured and rated over the compared running among some segments, (m,), of a period."""
    facts, plan = surveyed.facts, surveyed.facts.plans[LEVEL]
    if surveyed.withheld:
        return Compared(None, None, f"No comparison: {surveyed.withheld}.")
    if isinstance(facts.promise, str):
        return Compared(None, None, f"No comparison with a rated table: {facts.promise}.")
    if plan.missing is not None:
        return Compared(
            None, None,
            f"No comparison with the rated table: it stands at about {LEVEL}, and that level "
            f"cannot be computed: {plan.missing}.",
        )  # fmt: skip
    promise = facts.promise
    measured, found = compare_segments(
        surveyed.installation, surveyed.book, plan, promise, inside, (period.start, period.stop)
    )
    share = f"{promise.outside / promise.fitting:.0%}" if promise.fitting else "all"
    why = (
        f"No comparison with the rated table: no settled heating lies inside it ({share} of it "
        "is outside). Nothing is extrapolated."
    )
    return Compared(measured, found, why)


def cooling(surveyed: Survey, period: Period) -> Reckoning | None:
    """The cooling of a period at whose ends the survey is cut, at the level of the rated table or
    the lowest there is; its `cop` is the EER. None where nothing is cooled."""
    book = surveyed.book
    inside = book.within(period.start, period.stop)
    plans = surveyed.facts.plans
    possible = [plan for plan in (plans[LEVEL], *plans.values()) if plan.missing is None]
    if not possible or not (inside & (book.state == State.COOLING)).any():
        return None
    groups = np.where(inside, 0, -1)
    asked = [(period.start, period.stop)]
    return reckon(book, possible[0], groups, asked, surveyed.withheld, cooling=True)[0]


def judge(surveyed: Survey, compared: Compared, period: Period) -> Verdict:
    """The verdict over a comparison of a period; none where the metering is in doubt."""
    installation = surveyed.installation
    doubt = None
    if surveyed.withheld is None:
        doubt = _doubt(surveyed.facts.checks, period.start, period.stop)
    return verdict(
        None if doubt else compared.comparison,
        installation.thresholds,
        installation.unit.variable_speed,
        doubt or compared.why_none,
    )


def _widest(
    surveyed: Survey, period: Period
) -> tuple[Estimate | None, Estimate | None, Estimate | None, Estimate | None]:
    """Heat, electricity and COP at the widest level, and the performance ratio, of a period at
    whose ends the survey is cut."""
    compared = compared_between(surveyed, period).comparison
    ratio = compared.ratio if compared else None
    plan = next((p for p in reversed(surveyed.facts.plans.values()) if p.missing is None), None)
    if plan is None:
        return None, None, None, ratio
    groups = np.where(surveyed.book.within(period.start, period.stop), 0, -1)
    asked = [(period.start, period.stop)]
    found = reckon(surveyed.book, plan, groups, asked, surveyed.withheld)[0]
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


def _doubt(checks: Sequence[Check], begin: float, end: float) -> str | None:
    """Why doubtful metering forbids a verdict, if it does."""
    named = [
        check.name
        for check in checks
        if check.soundness == Soundness.DOUBTFUL
        and FORBIDS & set(check.touches)
        and any(span.start < end and span.stop > begin for span in check.spans)
    ]
    if not named:
        return None
    return (
        f"The metering is doubtful ({', '.join(named)}). Accept or answer what the check proposes; "
        "until then neither blame nor praise rests on it."
    )
