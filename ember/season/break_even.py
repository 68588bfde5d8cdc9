"""Where a measured COP crosses the one that is needed, by outdoor temperature."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.messages import NotAvailable, Reason, Source, because
from ember.season.season import SeasonSeen
from ember.season.signature import LEAST_DAYS, LEAST_SPAN, newey_west

SURELY = 2.0  # standard errors by which the COP must rise with the temperature


class Crossing(StrEnum):
    """How the COP over the weather lies to the one that is needed."""

    CROSSES = "crosses"
    ALWAYS_CHEAPER = "always cheaper"
    NEVER_CHEAPER = "never cheaper"


@dataclass(frozen=True)
class BreakEven:
    """Days on both sides of the temperature at which the COP is the one needed.

    Attributes
    ----------
    crossing : Crossing
        within the temperatures that were seen.
    outdoor : Estimate | None
        where it crosses [degC], None where it does not.
    days_dearer, days_cheaper : int
        days that were colder and warmer; all on one side where it does not cross.
    heat_dearer, heat_cheaper : float
        their heat [kWh].
    at_zero, per_kelvin : float
        the line of the COP over the outdoor temperature.
    """

    crossing: Crossing
    outdoor: Estimate | None
    days_dearer: int
    days_cheaper: int
    heat_dearer: float
    heat_cheaper: float
    at_zero: float
    per_kelvin: float


def break_even(seen: SeasonSeen, needed: float) -> BreakEven | NotAvailable:
    """Where the COP of the days of a season crosses the one that is needed.

    Parameters
    ----------
    needed : float
        the COP from which on the heat pump is cheaper.

    Source: line through the daily COP by weighted least squares (weights: electricity, so that the
    sum of the days is met), errors after Newey and West; the meters' U shifts the line as a whole
    (common practice).
    """
    whole = seen.whole.figures.reckonings[-1] if seen.whole.figures.reckonings else None
    if seen.daily is None or whole is None or whole.cop is None:
        return seen.heat if isinstance(seen.heat, NotAvailable) else NotAvailable(_few(0))
    use = seen.used & (seen.daily.electricity > 0) & (seen.daily.heat > 0)
    outdoor, heat = seen.daily.outdoor[use], seen.daily.heat[use]
    used = seen.daily.electricity[use]
    if len(outdoor) < LEAST_DAYS:
        return NotAvailable(_few(len(outdoor)))
    if np.ptp(outdoor) < LEAST_SPAN:
        return NotAvailable(because(ReasonCode.WEATHER_ALIKE, span=f"{np.ptp(outdoor):.1f}"))
    weight = np.sqrt(used)
    by = np.column_stack([weight, weight * outdoor])
    fit, *_ = np.linalg.lstsq(by, weight * heat / used, rcond=None)
    covariance = newey_west(by, weight * heat / used - by @ fit)
    at_zero, per_kelvin = float(fit[0]), float(fit[1])
    rises = per_kelvin > SURELY * float(np.sqrt(covariance[1, 1]))
    there = (needed - at_zero) / per_kelvin if rises else np.nan
    low, high = float(outdoor.min()), float(outdoor.max())
    if rises and low < there < high:
        row = np.array([1.0, there])
        error = float(np.sqrt(row @ covariance @ row)) / per_kelvin
        meters = [part.times(needed / whole.cop.value / per_kelvin) for part in whole.cop.budget]
        scatter = UncertaintyComponent(Source(SourceCode.DAYS_SCATTER), error)
        cold = outdoor < there
        return BreakEven(
            Crossing.CROSSES,
            Estimate(float(there), "degC", (*meters, scatter)),
            int(cold.sum()),
            int((~cold).sum()),
            float(heat[cold].sum()),
            float(heat[~cold].sum()),
            at_zero,
            per_kelvin,
        )
    # Of a line that does not cross, its middle says on which side it lies.
    above = float(fit[0] + fit[1] * np.median(outdoor)) >= needed
    days, all_heat = len(outdoor), float(heat.sum())
    return BreakEven(
        Crossing.ALWAYS_CHEAPER if above else Crossing.NEVER_CHEAPER,
        None,
        0 if above else days,
        days if above else 0,
        0.0 if above else all_heat,
        all_heat if above else 0.0,
        at_zero,
        per_kelvin,
    )


def _few(days: int) -> Reason:
    return because(ReasonCode.TOO_FEW_DAYS, days=days, least=LEAST_DAYS)
