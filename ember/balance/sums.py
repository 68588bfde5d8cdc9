"""Sums of periods of a surveyed record: figures at every level, measured against rated, verdict."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.codes import ReasonCode
from ember.basis.periods import Period
from ember.basis.quantity import KWH, Estimate, Estimates
from ember.basis.series import Bools, Floats, Ints
from ember.boundary import Level
from ember.boundary.combinations import Share, nearest_to_table, summed, why_none, widest
from ember.comparison.performance_ratio import (
    Comparison,
    Verdict,
    compare_segments,
    ratios_alone,
    verdict,
)
from ember.cost import Cost, cost
from ember.description.installation import Service, part_load_is_better
from ember.messages import NotAvailable, Reason, because, no_comparison, words_of
from ember.reckoning import Reckoning, reckon, reckon_sums
from ember.reckoning.reckon import metered
from ember.reckoning.tally import Tally, validity
from ember.states import State
from ember.trust import Affects, Check, Soundness

say = words_of(__name__)

# What must not be in doubt for a verdict against the rated table.
SUMS_MOSTLY = 0.9  # of the time between two readings, that a period must cover for a COP of its own
FORBIDS = {Affects.HEAT, Affects.ELECTRICITY, Affects.CONDITIONS}
SEASON = 60 * 86_400.0  # of a period, from which its EER is a season's [s], common practice, chosen


@dataclass(frozen=True)
class ServiceSum:
    """One service by its own meters, at the widest level they allow; None with the reason in
    `reason`. Of cooling the COP is an EER."""

    service: Service
    reckoning: Reckoning | None
    reason: Reason | None


@dataclass(frozen=True)
class PeriodFigures:
    """The sums of a period: one Reckoning for each level that can be computed, and the cost.

    Attributes
    ----------
    electricity : Estimate | None
        all that is metered, whatever the heat does [kWh], None where none is known.
    services : tuple[ServiceSum, ...]
        those that have meters of their own.
    reported : Reckoning | None
        by what the controller reports, where nothing measures the heat; no verdict and no rank
        rests on it.
    """

    period: Period
    reckonings: tuple[Reckoning, ...]
    cost: Cost | None
    electricity: Estimate | None = None
    services: tuple[ServiceSum, ...] = ()
    reported: Reckoning | None = None

    def at(self, level: Level) -> Reckoning | None:
        """The Reckoning at a level, None if it can't be computed."""
        return next((r for r in self.reckonings if r.level == level), None)


def figures(analysis: RecordAnalysis, periods: Sequence[Period]) -> list[PeriodFigures]:
    """Reckonings at every level, and the cost, of periods in order that do not overlap.

    The record analysis must be cut where they begin and end.
    """
    if not periods:
        return []
    segments = analysis.segments
    groups = groups_of(analysis, periods)
    asked = [(p.start, p.stop) for p in periods]
    possible = [
        combination
        for combination in analysis.facts.combinations.values()
        if combination.reason is None
    ]
    columns = [
        [
            whole(analysis, one)
            for one in reckon(segments, combination, groups, asked, analysis.cop_reason)
        ]
        for combination in possible
    ]
    costs = costs_of(analysis, periods, groups)
    used: list[Estimate | None] = [None] * len(periods)
    if analysis.facts.shares:
        totals, known = metered(segments, analysis.facts.shares, groups, len(periods))
        used = [one if known[k] else None for k, one in enumerate(totals)]
    apart = _by_service(analysis, groups, asked)
    as_said: list[Reckoning | None] = [None] * len(periods)
    if analysis.facts.reported is not None:
        combination = analysis.facts.reported
        as_said = [whole(analysis, one) for one in reckon(segments, combination, groups, asked)]
    found = []
    for k, period in enumerate(periods):
        sums = tuple(column[k] for column in columns)
        mine = tuple(row[k] for row in apart)
        found.append(
            PeriodFigures(period, sums, costs[k] if costs else None, used[k], mine, as_said[k])
        )
    return found


def costs_of(
    analysis: RecordAnalysis, periods: Sequence[Period], groups: Ints | None = None
) -> list[Cost] | None:
    """What the electricity of some periods costs; None without a tariff or a meter.

    Parameters
    ----------
    groups : array, (m,)
        of their segments, where they are at hand.
    """
    tariff, shares, segments = (
        analysis.installation.tariff,
        analysis.facts.shares,
        analysis.segments,
    )
    if tariff is None or not shares:
        return None
    if groups is None:
        groups = groups_of(analysis, periods)
    asked = [(p.start, p.stop) for p in periods]
    supply = analysis.installation.supply
    return cost(tariff, segments, shares, groups, asked, analysis.zone, supply)


def _by_service(
    analysis: RecordAnalysis, groups: Ints, asked: list[tuple[float, float]]
) -> list[list[ServiceSum]]:
    """Each service's sums of every period."""
    rows = []
    for service, level_combinations in analysis.facts.services.items():
        combination = widest(level_combinations)
        if combination is None:
            why = why_none(level_combinations.values())
            rows.append([ServiceSum(service, None, why)] * len(asked))
            continue
        segments = analysis.segments
        if service == Service.COOLING:  # its meters say it, not the states
            segments = replace(segments, state=np.zeros_like(segments.state))
        found = reckon(segments, combination, groups, asked, analysis.cop_reason)
        rows.append([ServiceSum(service, whole(analysis, one), one.reason) for one in found])
    return rows


def whole(analysis: RecordAnalysis, found: Reckoning) -> Reckoning:
    """A Reckoning without COP where it covers only a part of a stretch between two readings."""
    if found.cop is None or found.covered >= SUMS_MOSTLY * analysis.facts.interval:
        return found
    return replace(found, cop=None, gross_cop=None, reason=too_short(analysis))


def too_short(analysis: RecordAnalysis) -> Reason:
    """Why a short time has no COP, in words."""
    days = analysis.facts.interval / 86_400
    return because(ReasonCode.TOO_SHORT, days=f"{days:.0f}")


def groups_of(analysis: RecordAnalysis, periods: Sequence[Period]) -> Ints:
    """Which of the periods, in order, each segment belongs to, (m,); −1 for none."""
    begins = analysis.segments.begins
    starts = np.array([p.start for p in periods])
    stops = np.array([p.stop for p in periods])
    groups = np.searchsorted(starts, begins, side="right") - 1
    groups[(groups < 0) | (begins >= stops[np.maximum(groups, 0)])] = -1
    return groups


@dataclass(frozen=True)
class Compared:
    """The running of a period that fits the rated table.

    Attributes
    ----------
    measured : Reckoning | None
        its Reckoning at the level nearest to the table that can be computed.
    comparison : Comparison | None
        with the table; None with the reason in `reason`.
    """

    measured: Reckoning | None
    comparison: Comparison | None
    reason: Reason


def compared_between(analysis: RecordAnalysis, period: Period) -> Compared:
    """Measured and rated over the compared running of a period; the record analysis is cut at its
    ends."""
    inside = analysis.segments.within(period.start, period.stop)
    return compared_in(analysis, period, inside)


def compared_in(analysis: RecordAnalysis, period: Period, inside: Bools) -> Compared:
    """Measured and rated over the compared running among some segments, (m,), of a period."""
    facts, combination = analysis.facts, nearest_to_table(analysis.facts.combinations)
    if analysis.cop_reason:
        return Compared(None, None, no_comparison(analysis.cop_reason))
    if isinstance(facts.promise, NotAvailable):
        return Compared(None, None, no_comparison(facts.promise.reason, "a rated table"))
    if combination is None or "expected" not in analysis.segments.sums:
        why = why_none(facts.combinations.values())
        return Compared(None, None, no_comparison(why, "the rated table: no level can be computed"))
    promise = facts.promise
    measured, found = compare_segments(
        analysis.installation,
        analysis.segments,
        combination,
        promise,
        inside,
        (period.start, period.stop),
    )
    if found is not None and measured.covered < SUMS_MOSTLY * facts.interval:
        return Compared(measured, None, no_comparison(too_short(analysis)))
    share = f"{promise.outside / promise.fitting:.0%}" if promise.fitting else "all"
    why = because(ReasonCode.OUTSIDE_TABLE, share=share)
    return Compared(measured, found, no_comparison(why, "the rated table"))


def energy_of(analysis: RecordAnalysis, shares: tuple[Share, ...]) -> Floats:
    """Energy of some meters, with sign, in each segment, (m,) [J]."""
    total = summed(shares, analysis.segments.energy)
    return np.zeros(len(analysis.segments.state)) if total is None else total


@dataclass(frozen=True)
class Ratios:
    """Performance ratios of some groups of segments.

    Attributes
    ----------
    known : array, (k,)
        Where enough of a group can be compared.
    """

    of: Estimates
    known: Bools

    def __getitem__(self, k: int) -> Estimate | None:
        return self.of[k] if self.known[k] else None


def ratios_of(analysis: RecordAnalysis, groups: Ints, count: int, least: float) -> Ratios:
    """Performance ratio of each group of segments.

    Parameters
    ----------
    groups : array, (m,)
        Group of each segment, 0 … count − 1, −1 for none.
    least : float
        of compared running [s].
    """
    facts, segments = analysis.facts, analysis.segments
    combination = nearest_to_table(facts.combinations)
    none = Ratios(Estimates(np.zeros(count), "", {}), np.zeros(count, np.bool_))
    if analysis.cop_reason or isinstance(facts.promise, NotAvailable) or combination is None:
        return none
    if "expected" not in segments.sums:
        return none
    mine = np.where(analysis.compared, groups, -1)
    measured = reckon_sums(segments, combination, mine, count)
    counted, _ = validity(segments, tuple(name for _, name in combination.meters))
    pick = counted & (mine >= 0)
    rated = np.bincount(mine[pick], segments.sums["expected"][pick], count) / KWH
    ratios = ratios_alone(analysis.installation, facts.promise, measured, rated)
    enough = measured.covered >= max(least, SUMS_MOSTLY * facts.interval)
    return Ratios(ratios, enough & measured.known & (rated > 0))


def cooling(analysis: RecordAnalysis, period: Period) -> Reckoning | None:
    """The cooling of a period at whose ends the record analysis is cut, at the level of the rated
    table or the lowest there is; its `cop` is the EER. None where nothing is cooled."""
    segments = analysis.segments
    inside = segments.within(period.start, period.stop)
    combinations = analysis.facts.combinations
    combination = nearest_to_table(combinations)
    if combination is None or not (inside & (segments.state == State.COOLING)).any():
        return None
    groups = np.where(inside, 0, -1)
    asked = [(period.start, period.stop)]
    return reckon(segments, combination, groups, asked, analysis.cop_reason, cooling=True)[0]


def eer_name(period: Period) -> str:
    """What the quotient of a period's cooling is called: measured over a season it is a seasonal
    EER, which is not SEER (EN 14825)."""
    return "Seasonal EER" if period.stop - period.start >= SEASON else "EER"


@dataclass(frozen=True)
class HeadEnergy:
    """What one head of several gave to its room, and took out of it in cooling, None where nothing
    is cooled [kWh]."""

    name: str
    heat: Estimate
    cooling: Estimate | None


def heads(analysis: RecordAnalysis, period: Period) -> list[HeadEnergy]:
    """Heat of each head of a unit with several, over the time that is in the sum of the period, at
    whose ends the record analysis is cut. Their heats add up to that of the sum."""
    combination, segments = nearest_to_table(analysis.facts.combinations), analysis.segments
    air = {a.name for a in analysis.installation.air}
    names = (
        tuple(name for _, name in combination.given if name in air)
        if combination is not None
        else ()
    )
    if combination is None or len(names) < 2 or analysis.cop_reason:
        return []
    inside = segments.within(period.start, period.stop)
    counted, _ = validity(segments, tuple(name for _, name in combination.meters))
    cold = segments.state == State.COOLING
    warm_sums, cold_sums = (
        Tally(segments, names, counted, np.where(inside & mask, 0, -1), 1) for mask in (~cold, cold)
    )
    return [
        HeadEnergy(
            name,
            warm_sums.total(name)[0],
            cold_sums.total(name)[0].scaled(-1.0) if cold_sums.cells[0] else None,
        )
        for name in names
    ]


def judge(analysis: RecordAnalysis, compared: Compared, period: Period) -> Verdict:
    """The verdict over a comparison of a period; none where the metering is in doubt."""
    installation = analysis.installation
    doubt = None
    if analysis.cop_reason is None:
        doubt = doubt_of(analysis.facts.checks, period.start, period.stop)
    found = verdict(
        None if doubt else compared.comparison,
        installation.thresholds,
        part_load_is_better(installation),
        doubt or compared.reason.sentence,
    )
    return replace(found, doubted=doubt is not None and compared.comparison is not None)


def doubt_of(checks: Sequence[Check], begin: float, end: float) -> str | None:
    """Why doubtful metering forbids a verdict, if it does."""
    named = [
        check.name
        for check in checks
        if check.soundness == Soundness.DOUBTFUL
        and FORBIDS & set(check.affects)
        and any(span.start < end and span.stop > begin for span in check.spans)
    ]
    if not named:
        return None
    return say("metering_doubtful_accept", named=", ".join(named))
