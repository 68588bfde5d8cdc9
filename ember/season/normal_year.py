"""A season in the weather of another year: a typical one from a file, by days of like weather."""

from dataclasses import dataclass

import numpy as np

from ember.basis.clock import DAY
from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.practice import HEATING_BASE
from ember.basis.quantity import Estimate, UncertaintyComponent, merge
from ember.basis.series import Floats
from ember.messages import NotAvailable, Source, because
from ember.season.before_after import meters_of, sum_in_weather, weather_of
from ember.season.degree_days import DegreeDays, by_hours
from ember.season.other_season import season_doubts
from ember.season.season import SeasonSeen
from ember.season.signature import Signature

BIN = 2.0  # width of a temperature bin [K]
DAY_HOURS = 24
MOST_COLDER = 0.1  # of its days that may be colder than was seen, common practice, chosen


@dataclass(frozen=True)
class TemperatureBin:
    """Hours with an outdoor temperature from `low` to `low` + BIN [degC]."""

    low: float
    hours: int


@dataclass(frozen=True)
class NormalYear:
    """What a system would use in the weather of a year.

    Attributes
    ----------
    heat, electricity : Estimate | NotAvailable
        [kWh a year]
    cop : Estimate | None
        their quotient.
    colder, warmer : int
        days of that year beyond nearly all that the season saw; there the lines go on.
    outdoor : float
        mean of the year [degC].
    degree_days : DegreeDays
        of it, by hours.
    """

    heat: Estimate | NotAvailable
    electricity: Estimate | NotAvailable
    cop: Estimate | None
    colder: int
    warmer: int
    outdoor: float
    degree_days: DegreeDays


def normal_year(seen: SeasonSeen, hourly: Floats) -> NormalYear:
    """What a season would have used on the days of another year.

    Parameters
    ----------
    hourly : array, (8760,)
        outdoor temperature of the year's hours [degC], finite.

    Source: weather-normalised consumption by a change-point model (ASHRAE Guideline 14, from
    memory) and what days of like weather lie off it (`in_weather`); the meters' error as a share.
    """
    days: Floats = hourly.reshape(-1, DAY_HOURS).mean(axis=1)
    low, high = weather_of(seen) or (np.inf, -np.inf)
    colder, warmer = int((days < low).sum()), int((days > high).sum())
    heat = _over(seen, seen.heat, "heat", days)
    electricity = _over(seen, seen.electricity, "electricity", days)
    if colder > MOST_COLDER * len(days):
        why = NotAvailable(because(ReasonCode.COLDER_THAN_SEEN, days=colder))
        heat = heat if isinstance(heat, NotAvailable) else why
        electricity = electricity if isinstance(electricity, NotAvailable) else why
    cop = None
    if isinstance(heat, Estimate) and isinstance(electricity, Estimate) and electricity.value > 0:
        cop = heat.over(electricity, "")
    return NormalYear(
        heat, electricity, cop, colder, warmer, float(hourly.mean()), by_hours(hourly, HEATING_BASE)
    )


def _over(
    seen: SeasonSeen, fit: Signature | NotAvailable, what: str, days: Floats
) -> Estimate | NotAvailable:
    if isinstance(fit, NotAvailable):
        return fit
    value, spread = sum_in_weather(seen, fit, what, days)
    error = UncertaintyComponent(Source(SourceCode.DAYS_BEFORE, what), spread)
    assert seen.daily is not None  # it has a signature
    dates = DAY * np.arange(len(days), dtype=np.float64)
    all_of_each = (dates, days, np.ones(len(days)))
    other = season_doubts(seen.daily, seen.used, fit, what, value, all_of_each)
    meters = (part.times(value) for part in meters_of(seen, what))
    return Estimate(value, "kWh", merge((*meters, error, *other)))


def bins(hourly: Floats) -> list[TemperatureBin]:
    """Hours by outdoor temperature, (h,) [degC], coldest first, without a gap; hours that are not
    known are left out."""
    known = hourly[np.isfinite(hourly)]
    if not len(known):
        return []
    label = np.floor(known / BIN).astype(np.int64)
    first = int(label.min())
    counts = np.bincount(label - first)
    return [TemperatureBin((first + k) * BIN, int(n)) for k, n in enumerate(counts.tolist())]
