"""Performance ratio and verdict."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ember.installation import Installation, Thresholds
from ember.metering import Level, Plan
from ember.quantity import Estimate, Part, exact, merge, rectangular
from ember.rating.expected import Promise
from ember.reckoning import Ledger, Reckoning, reckon
from ember.reckoning.tally import KWH, validity
from ember.trace import Bools

LEVEL = Level.H2  # a rated COP (EN 14511) stands at about this boundary
FLOW_TEMP_LIMIT = 0.5  # error limit of the flow temperature itself [K], common practice
LEAST_HOURS = 24.0  # of comparable running before anything is said, common practice


class VerdictKind(StrEnum):
    """The verdict over a performance ratio."""

    BELOW_RATED = "below rated"
    WATCH = "watch"
    AS_RATED = "as rated"
    WIDE_LIMITS = "as rated within wide limits"
    TOO_GOOD = "too good"
    NONE = "no verdict"


@dataclass(frozen=True)
class Comparison:
    """Measured against rated over the span that fits the table.

    measured : the Reckoning of the compared cells. rated_cop : Σ(electricity × rated COP) ÷
    Σ electricity. ratio : performance ratio, with meters, sensors and the table in its budget.
    """

    measured: Reckoning
    rated_cop: Estimate
    ratio: Estimate
    hours: float
    outside_table: float
    span: str


@dataclass(frozen=True)
class Verdict:
    """The verdict with its sentence."""

    kind: VerdictKind
    sentence: str


def compare(
    installation: Installation, promise: Promise, measured: Reckoning, rated_heat: float
) -> Comparison | None:
    """Performance ratio over the compared cells; None where no COP may be stated.

    Parameters
    ----------
    measured : Reckoning of the compared cells at level H2.
    rated_heat : Σ electricity × rated COP over the same cells [kWh].

    Source: PR = Σ heat ÷ Σ(electricity × rated COP at that moment's conditions), common
    practice. Tolerance of the table and limit of the outdoor sensor as described; both enter
    as rectangular and systematic.
    """
    if measured.cop is None or rated_heat <= 0:
        return None
    value = rated_heat / measured.electricity.value
    u_outdoor = rectangular(installation.outdoor.limit_k) * promise.per_kelvin_outdoor
    u_flow = rectangular(FLOW_TEMP_LIMIT) * promise.per_kelvin_flow
    rated = Estimate(
        value,
        "",
        merge(
            [
                Part("rated table", value * rectangular(promise.tolerance)),
                Part("outdoor sensor", value * u_outdoor),
                Part("flow temperature", value * u_flow),
            ]
        ),
    )
    share = promise.outside / promise.fitting if promise.fitting else 0.0
    return Comparison(
        measured, rated, measured.cop.over(rated, ""), measured.covered / 3600, share, promise.span
    )


def compare_segments(
    installation: Installation,
    book: Ledger,
    plan: Plan,
    promise: Promise,
    inside: Bools,
    asked: tuple[float, float],
) -> tuple[Reckoning, Comparison | None]:
    """The Reckoning of the compared running among some segments, (m,), and the comparison.

    Parameters
    ----------
    plan : of the level at which the table stands. asked : between which instants [s].
    """
    compared = inside & (book.sums["compared"] > 0)
    measured = reckon(book, plan, np.where(compared, 0, -1), [asked])[0]
    counted, _ = validity(book, tuple(name for _, name in plan.meters))
    rated = float(book.sums["rated heat"][compared & counted].sum()) / KWH
    return measured, compare(installation, promise, measured, rated)


def electricity_lost(measured: Reckoning, ratio: Estimate) -> Estimate:
    """Electricity that the same heat would not have needed at the rated COP [kWh].

    Parameters
    ----------
    measured : the compared running. ratio : its performance ratio; below 1 something is lost.

    Source: E·(1 − PR), from PR = heat ÷ (E × rated COP).
    """
    return measured.electricity.times(exact(1.0, "") - ratio, "kWh")


def cop_if_rated(whole: Reckoning, lost: Estimate) -> Estimate | None:
    """The COP of a Reckoning, had its compared running met the rated table.

    Parameters
    ----------
    lost : electricity lost in the compared running of the same time [kWh]. Running that is not
        compared stays as it was.
    """
    if whole.cop is None or whole.heat is None:
        return None
    return whole.heat.over(whole.electricity - lost, "")


def verdict(
    comparison: Comparison | None, thresholds: Thresholds, part_load: bool, why_none: str
) -> Verdict:
    """What may be said of a performance ratio.

    Parameters
    ----------
    part_load : a variable-speed unit against a table of one speed; part load is then better
        by nature and the limit of "too good" is wider.
    why_none : the sentence where there is no comparison.

    Source: limits common practice, the analyst's to change.
    """
    if comparison is None:
        return Verdict(VerdictKind.NONE, why_none)
    if comparison.hours < LEAST_HOURS:
        return Verdict(
            VerdictKind.NONE,
            f"Only {comparison.hours:.0f} h of running can be compared with the table; "
            f"{LEAST_HOURS:.0f} h are needed.",
        )
    ratio, limit = comparison.ratio, thresholds.below_rated
    most = thresholds.too_good_part_load if part_load else thresholds.too_good
    low, high = ratio.value - ratio.U, ratio.value + ratio.U
    said = f"Performance ratio {ratio} over {comparison.hours:,.0f} h"
    if high < limit:
        return Verdict(
            VerdictKind.BELOW_RATED, f"{said}: even with all of U it stays below {limit:g}."
        )
    if ratio.value < limit:
        return Verdict(
            VerdictKind.WATCH, f"{said}: below {limit:g}, but within U it may be as rated."
        )
    if low > most:
        return Verdict(
            VerdictKind.TOO_GOOD,
            f"{said}: above {most:g} even without U. No unit does that; look for heat that is "
            "counted without its electricity, or a wrong unit.",
        )
    if low < thresholds.wide_limits:
        return Verdict(
            VerdictKind.WIDE_LIMITS,
            f"{said}: as rated, but within wide limits; from this metering a unit at "
            f"{thresholds.wide_limits:g} could look the same.",
        )
    return Verdict(VerdictKind.AS_RATED, f"{said}: as rated.")
