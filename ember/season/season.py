"""A season by months: measured, filled where readings lack, with the weather that it had."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.sums import PeriodFigures, figures, groups_of
from ember.basis.calendar import is_year, months
from ember.basis.clock import DAY, local_days
from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.periods import Period
from ember.basis.practice import HEATING_BASE
from ember.basis.quantity import Estimate, UncertaintyComponent, merge
from ember.basis.series import Bools, Floats
from ember.boundary import Level, MeterCombination
from ember.boundary.combinations import widest
from ember.messages import NotAvailable, Source, because
from ember.reckoning.reckon import reckon_sums
from ember.season.daily import USUAL_LATITUDE, WHOLE_DAY, Daily, in_weather, signatures
from ember.season.degree_days import DegreeDays, by_daily_means, by_hours
from ember.season.other_season import season_doubts
from ember.season.signature import Signature

LEAST_MEASURED = 0.5  # of a period, for an estimate of the rest, common practice, chosen
MOST_UNKNOWN = (
    0.02  # of a period that may stay neither measured nor filled, common practice, chosen
)


@dataclass(frozen=True)
class Filled:
    """An estimate of a whole period: what is measured, and the rest by the signatures.

    Attributes
    ----------
    heat, electricity : Estimate
        [kWh]
    cop : Estimate
        their quotient.
    share : float
        of the period's time that is filled.
    """

    heat: Estimate
    electricity: Estimate
    cop: Estimate
    share: float


@dataclass(frozen=True)
class MonthSeen:
    """A month, or the whole: its sums, the estimate of it with gaps filled, and its weather.

    Attributes
    ----------
    filled : Filled | NotAvailable | None
        None where nothing lacks.
    outdoor : float | None
        mean of the days that are known [degC].
    degree_days : DegreeDays | None
        below the base asked for [K·d].
    """

    figures: PeriodFigures
    filled: Filled | NotAvailable | None
    outdoor: float | None
    degree_days: DegreeDays | None


@dataclass(frozen=True)
class SeasonSeen:
    """A period by months at its widest level.

    Attributes
    ----------
    used : array, (d,)
        Days that are whole, on which the signatures rest.
    heat, electricity : Signature | NotAvailable
        of those.
    loss : Estimate | None
        slope of the heat [W/K].
    described_loss : float | None
        that the survey of the house says [W/K].
    heat_per_area, electricity_per_area : Estimate | None
        of a year by the heated floor [kWh/m²]; None of another period or without the area.
    degree_days : DegreeDays | None
        of the whole by hours, where those are at hand, else by days.
    """

    level: Level | None
    daily: Daily | None
    used: Bools
    heat: Signature | NotAvailable
    electricity: Signature | NotAvailable
    loss: Estimate | None
    described_loss: float | None
    heat_per_area: Estimate | None
    electricity_per_area: Estimate | None
    degree_days: DegreeDays | None
    months: tuple[MonthSeen, ...]
    whole: MonthSeen


def season_seen(
    analysis: RecordAnalysis,
    period: Period,
    hourly: Floats | None = None,
    base: float = HEATING_BASE,
) -> SeasonSeen:
    """A period by months, at whose ends the record analysis is cut.

    The signatures rest on the days of the period. What is filled is what the days that were
    measured would have taken at the outdoor temperature of the time that lacks.

    Parameters
    ----------
    hourly : array, (h,) | None
        mean outdoor temperature of the period's hours [degC], for degree-days by hours.
    base : float
        below which degree-days are counted [degC].
    """
    parts = months(period.start, period.stop, analysis.zone)
    whole = figures(analysis, [Period("all", period.start, period.stop)])[0]
    sums = figures(analysis, parts)
    combination = widest(analysis.facts.combinations)
    daily = _daily(analysis, period, combination) if combination else None
    heat: Signature | NotAvailable
    electricity: Signature | NotAvailable
    use = np.zeros(0, np.bool_)
    if daily is None:
        why = NotAvailable(analysis.cop_reason or because(ReasonCode.NO_LEVEL))
        heat = electricity = why
    else:
        use = (daily.measured >= WHOLE_DAY * daily.length) & (daily.length >= WHOLE_DAY)
        use &= np.isfinite(daily.outdoor)
        heat, electricity = signatures(daily, use)
        if analysis.cop_reason:
            heat = NotAvailable(analysis.cop_reason)
    made = [
        _month(found, daily, use, (heat, electricity), period.start, base)
        for found in (*sums, whole)
    ]
    degree_days = made[-1].degree_days
    if hourly is not None and np.isfinite(hourly).any():
        degree_days = by_hours(hourly, base)
    return SeasonSeen(
        level=combination.level if combination else None,
        daily=daily,
        used=use,
        heat=heat,
        electricity=electricity,
        loss=_loss(heat, whole),
        described_loss=_described(analysis),
        heat_per_area=_per_area(analysis, whole, heat=True),
        electricity_per_area=_per_area(analysis, whole, heat=False),
        degree_days=degree_days,
        months=tuple(made[:-1]),
        whole=made[-1],
    )


def _daily(analysis: RecordAnalysis, period: Period, combination: MeterCombination) -> Daily:
    segments = analysis.segments
    names, edges = local_days(int(period.start), int(period.stop), analysis.zone)
    limits = np.clip(edges, period.start, period.stop).astype(np.float64)
    asked = [
        Period(day.isoformat(), a, b)
        for day, a, b in zip(names, limits[:-1].tolist(), limits[1:].tolist(), strict=True)
    ]
    groups, count = groups_of(analysis, asked), len(asked)
    sums = reckon_sums(segments, combination, groups, count)
    inside = groups >= 0
    place = analysis.installation.location
    outdoor = np.full(count, np.nan)
    length = np.diff(limits)
    if "outdoor" in segments.sums:
        known = np.bincount(groups[inside], segments.sums["outdoor known"][inside], count)
        total = np.bincount(groups[inside], segments.sums["outdoor"][inside], count)
        enough = known * segments.step >= 0.5 * length
        outdoor[enough] = total[enough] / known[enough]
    return Daily(
        start=limits[:-1],
        outdoor=outdoor,
        heat=sums.heat.values,
        electricity=sums.electricity.values,
        measured=sums.covered / DAY,
        length=length / DAY,
        latitude=place.latitude if place is not None else USUAL_LATITUDE,
    )


def _month(
    found: PeriodFigures,
    daily: Daily | None,
    use: Bools,
    fits: tuple[Signature | NotAvailable, Signature | NotAvailable],
    since: float,
    base: float,
) -> MonthSeen:
    if daily is None:
        return MonthSeen(found, None, None, None)
    period = found.period
    here = (daily.start >= max(period.start, since)) & (daily.start < period.stop)
    temperatures = daily.outdoor[here]
    known = np.isfinite(temperatures)
    return MonthSeen(
        found,
        _filled(found, daily, use, here, fits),
        float(np.average(temperatures[known], weights=daily.length[here][known]))
        if known.any()
        else None,
        by_daily_means(temperatures, base) if known.any() else None,
    )


def _filled(
    found: PeriodFigures,
    daily: Daily,
    use: Bools,
    here: Bools,
    fits: tuple[Signature | NotAvailable, Signature | NotAvailable],
) -> Filled | NotAvailable | None:
    """What lacks of a period, by what days of like weather took; None: nothing lacks."""
    length, measured = daily.length[here], np.minimum(daily.measured[here], daily.length[here])
    lacks = length - measured
    if lacks.sum() < (1 - WHOLE_DAY) * 0.1 * length.sum():
        return None
    if not found.reckonings or found.reckonings[-1].heat is None:
        return NotAvailable(because(ReasonCode.NO_HEAT_COVERED))
    heat, electricity = fits
    if isinstance(heat, NotAvailable):
        return heat
    if isinstance(electricity, NotAvailable):
        return electricity
    if measured.sum() < LEAST_MEASURED * length.sum():
        share = f"{measured.sum() / length.sum():.0%}"
        return NotAvailable(because(ReasonCode.TOO_LITTLE_MEASURED, share=share))
    outdoor = daily.outdoor[here]
    lost = lacks > 0
    if lacks[lost & ~np.isfinite(outdoor)].sum() > MOST_UNKNOWN * length.sum():
        return NotAvailable(because(ReasonCode.OUTDOOR_NOT_KNOWN))
    fill = lost & np.isfinite(outdoor)
    sums, asked = found.reckonings[-1], (outdoor[fill], lacks[fill])

    def whole(measured: Estimate, what: str, fit: Signature) -> Estimate:
        """A measured sum and what lacks: the meters err in both alike, the days in the rest, and
        the season where what lacks is of another one."""
        days, own = in_weather(daily, use, fit, what, *asked)
        rest = float((days * lacks[fill]).sum())
        total = measured.value + rest
        known = measured.scaled(total / measured.value) if measured.value else measured
        error = UncertaintyComponent(Source(SourceCode.FILLED, what), fit.sum_error(*asked, own))
        days_filled = (daily.start[here][fill], *asked)
        other = season_doubts(daily, use, fit, what, rest, days_filled)
        return Estimate(known.value, known.unit, merge((*known.budget, error, *other)))

    assert sums.heat is not None
    given = whole(sums.heat, "heat", heat)
    taken = whole(sums.electricity, "electricity", electricity)
    if taken.value <= 0 or given.value <= 0:
        return NotAvailable(because(ReasonCode.NO_HEAT_COVERED))
    return Filled(given, taken, given.over(taken, ""), float(lacks[fill].sum() / length.sum()))


def _loss(heat: Signature | NotAvailable, whole: PeriodFigures) -> Estimate | None:
    """The slope of the heat [W/K], with the error of the fit and that of the heat meter."""
    if isinstance(heat, NotAvailable):
        return None
    per_kelvin = heat.slope * 1000 / 24
    budget: Sequence[UncertaintyComponent] = ()
    reckoning = whole.reckonings[-1] if whole.reckonings else None
    if reckoning is not None and reckoning.heat is not None and reckoning.heat.value > 0:
        budget = reckoning.heat.scaled(per_kelvin / reckoning.heat.value, "W/K").budget
    fit = UncertaintyComponent(Source(SourceCode.DAYS_SCATTER), float(heat.errors[1]) * 1000 / 24)
    return Estimate(per_kelvin, "W/K", merge((*budget, fit)))


def _per_area(analysis: RecordAnalysis, whole: PeriodFigures, heat: bool) -> Estimate | None:
    """Heat or electricity of a year by the heated floor."""
    area = analysis.installation.house.floor_area_m2
    sums = whole.reckonings[-1] if whole.reckonings else None
    if area is None or sums is None or not is_year(whole.period):
        return None
    energy = sums.heat if heat else sums.electricity
    return None if energy is None else energy.scaled(1 / area, "kWh/m²")


def _described(analysis: RecordAnalysis) -> float | None:
    """The heat loss that the survey says [W/K]."""
    house = analysis.installation.house
    if house.heat_loss_kw is None or house.design_outdoor is None:
        return None
    return house.heat_loss_kw * 1000 / (house.design_indoor - house.design_outdoor)
