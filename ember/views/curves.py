"""Curves over time and over the weather: what charts draw beside the logged readings."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis, Walked
from ember.balance.sums import compared_in, energy_of
from ember.basis.codes import SourceCode
from ember.basis.periods import Period
from ember.basis.quantity import Estimate, UncertaintyComponent, rectangular
from ember.basis.series import Bools, Floats, Ints
from ember.boundary import Level, MeterCombination
from ember.boundary.combinations import nearest_to_table, summed
from ember.comparison.performance_ratio import FLOW_TEMP_LIMIT, Comparison
from ember.messages import Source
from ember.states import State

CURVES_LEAST_POWER = 20.0  # below it a ratio says nothing [W]


@dataclass(frozen=True)
class Curves:
    """Power over a trace and the energies of its COP, arrays (n,); None where not measured.

    Attributes
    ----------
    heat, power : Floats | None
        of the widest level, and all metered electricity [W].
    cop_heat, cop_electricity : Floats | None
        energies of each cell at `level` [J]; rated_heat and rated_electricity : heat and expected
        electricity in the cells that are compared with the table, whose quotient is the rated COP
        at that level.
    """

    level: Level | None
    heat: Floats | None
    power: Floats | None
    cop_heat: Floats | None
    cop_electricity: Floats | None
    rated_heat: Floats | None
    rated_electricity: Floats | None


def curves(analysis: RecordAnalysis, walked: Walked) -> Curves:
    """Curves of a part of the record. Where no COP may be stated there is no heat either."""
    meter_energies, step = walked.meter_energies, walked.trace.step
    used = summed(analysis.facts.shares, meter_energies.energy)
    power = None if used is None else used / step
    combination = curve_combination(analysis)
    if combination is None or analysis.cop_reason is not None:
        return Curves(None, None, power, None, None, None, None)
    widest = [p for p in analysis.facts.combinations.values() if p.reason is None][-1]
    heat = summed(widest.given, meter_energies.energy)
    given = summed(combination.given, meter_energies.energy)
    assert heat is not None and given is not None
    expected = walked.extra.get("expected")
    return Curves(
        combination.level,
        heat / step,
        power,
        given,
        summed(combination.electricity, meter_energies.energy),
        None if expected is None else given * walked.extra["compared"],
        None if expected is None else expected * walked.extra["compared"],
    )


def curve_combination(analysis: RecordAnalysis) -> MeterCombination | None:
    """The level at which COP is drawn: the one at which is compared with the rated table."""
    return nearest_to_table(analysis.facts.combinations)


def quotient(numerator: Floats, denominator: Floats, per: int, least: float) -> Floats:
    """Σ numerator ÷ Σ denominator over each `per` cells, (n,) → (⌈n / per⌉,).

    NaN where the denominator does not exceed `least`, or where anything is unknown.
    """
    at = np.arange(0, len(numerator), per)
    over, under = np.add.reduceat(numerator, at), np.add.reduceat(denominator, at)
    with np.errstate(invalid="ignore", divide="ignore"):
        result: Floats = np.where(under > least, over / under, np.nan)
    return result


def by_hours(analysis: RecordAnalysis, edges: Sequence[float]) -> tuple[Floats, Floats]:
    """Measured and rated COP between consecutive whole hours, (k + 1,) [s] → (k,), (k,).

    Σ over Σ of the segments between them, NaN where there is none. Where there is a rated table
    both are of the running that is compared with it, so that the two may be compared by eye;
    without one the measured COP is that of all running.
    """
    combination, segments = curve_combination(analysis), analysis.segments
    count = len(edges) - 1
    nothing = np.full(count, np.nan)
    if combination is None or analysis.cop_reason:
        return nothing, nothing
    label = np.searchsorted(np.asarray(edges), segments.begins, side="right") - 1
    heat = energy_of(analysis, combination.given)
    electricity = energy_of(analysis, combination.electricity)
    known = (label >= 0) & (label < count) & (segments.excluded < 0)
    known &= np.isfinite(heat) & np.isfinite(electricity)
    if "expected" not in segments.sums:
        return _over(label, known, heat, electricity, count), nothing
    known &= analysis.compared
    return (
        _over(label, known, heat, electricity, count),
        _over(label, known, heat, segments.sums["expected"], count),
    )


@dataclass(frozen=True)
class Bin:
    """Compared running in a band of outdoor temperature.

    Attributes
    ----------
    low, high : float
        of the hour's mean [degC]
    flow : float | None
        mean flow temperature [degC].
    """

    low: float
    high: float
    flow: float | None
    comparison: Comparison


@dataclass(frozen=True)
class Hour:
    """One hour's compared running: mean outdoor temperature [degC], measured and rated COP."""

    start: float
    outdoor: float
    measured: float
    rated: float


def over_weather(
    analysis: RecordAnalysis, period: Period, width: float = 2.0
) -> tuple[list[Bin], list[Hour]]:
    """Measured COP over outdoor temperature, in bands and hour by hour.

    Parameters
    ----------
    period : Period
        the record analysis is cut at its ends.
    width : float
        of a band [K].

    An hour, or a stretch between two readings that lie further apart, belongs to the band of its
    mean outdoor temperature while compared.
    """
    segments, sums = analysis.segments, analysis.segments.sums
    combination = nearest_to_table(analysis.facts.combinations)
    if (
        "outdoor" not in sums
        or "expected" not in sums
        or analysis.cop_reason
        or combination is None
    ):
        return [], []
    use = segments.within(period.start, period.stop) & analysis.compared & (segments.excluded < 0)
    heat, electricity = (
        energy_of(analysis, combination.given),
        energy_of(analysis, combination.electricity),
    )
    use &= np.isfinite(heat) & np.isfinite(electricity)
    # Where only the sum between two readings is known, it stands for one hour.
    per = max(3600, round(analysis.facts.interval))
    hour = segments.begins // per
    label = hour - int(hour[0])
    count = int(label[-1]) + 1
    known = np.bincount(label[use], sums["outdoor known"][use], count)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.bincount(label[use], sums["outdoor"][use], count) / known
    measured = _over(label, use, heat, electricity, count)
    rated = _over(label, use, heat, sums["expected"], count)
    shown = np.flatnonzero(np.isfinite(mean) & np.isfinite(measured))
    hours = [
        Hour(float((hour[0] + k) * per), float(mean[k]), float(measured[k]), float(rated[k]))
        for k in shown
    ]
    band = np.full(len(label), np.iinfo(np.int64).min)
    here = use & np.isfinite(mean[label])
    band[here] = np.floor(mean[label[here]] / width).astype(np.int64)
    bins = []
    for k in np.unique(band[here]).tolist():
        inside = band == k
        found = compared_in(analysis, period, inside).comparison
        if found is None:
            continue
        flow = None
        if "flow known" in sums and sums["flow known"][inside].sum():
            flow = float(sums["flow"][inside].sum() / sums["flow known"][inside].sum())
        bins.append(Bin(k * width, (k + 1) * width, flow, found))
    return bins, hours


@dataclass(frozen=True)
class Conditions:
    """Mean outdoor temperature, and mean flow or supply air temperature while heat is made [degC];
    None where nothing is known. Their sensors' limits are systematic and do not average out."""

    outdoor: Estimate | None
    flow: Estimate | None
    supply: Estimate | None


def conditions(analysis: RecordAnalysis, period: Period) -> Conditions:
    """The temperatures of a period at whose ends the record analysis is cut.

    Source: limit of the outdoor sensor as described, of the flow sensor common practice; both
    rectangular (GUM 4.3.7).
    """
    segments, sums = analysis.segments, analysis.segments.sums
    inside = segments.within(period.start, period.stop)
    heating = inside & np.isin(segments.state, (State.START_UP, State.HEATING, State.HOT_WATER))

    def mean(name: str, mask: Bools, source: SourceCode, limit: float) -> Estimate | None:
        known = float(sums[f"{name} known"][mask].sum()) if name in sums else 0.0
        if not known:
            return None
        value = float(sums[name][mask].sum()) / known
        return Estimate(value, "degC", (UncertaintyComponent(Source(source), rectangular(limit)),))

    limit = analysis.installation.outdoor.limit_k
    supply = max((a.probe_limit_k for a in analysis.installation.air), default=0.0)
    return Conditions(
        mean("outdoor", inside, SourceCode.OUTDOOR_SENSOR, limit),
        mean("flow", heating, SourceCode.FLOW_TEMPERATURE, FLOW_TEMP_LIMIT),
        mean("supply", heating, SourceCode.SUPPLY_TEMPERATURE, supply),
    )


def _over(label: Ints, use: np.ndarray, over: Floats, under: Floats, count: int) -> Floats:
    top = np.bincount(label[use], over[use], count)
    bottom = np.bincount(label[use], under[use], count)
    with np.errstate(invalid="ignore", divide="ignore"):
        result: Floats = np.where(bottom > CURVES_LEAST_POWER * 60, top / bottom, np.nan)
    return result
