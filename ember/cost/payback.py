"""How long a price is paid back by a saving."""

from dataclasses import dataclass

from ember.basis.errors import DescriptionError
from ember.basis.quantity import Estimate

LONGEST = 100  # years; beyond, nobody counts


@dataclass(frozen=True)
class Payback:
    """Years until a price is paid back, at prices of today.

    Attributes
    ----------
    years : float | None
        by the saving itself; None where it saves nothing.
    soonest, latest : float | None
        by the ends of its 95 % interval; None: never.
    """

    years: float | None
    soonest: float | None
    latest: float | None


def payback(price: float, saved: Estimate, rise: float = 0.0) -> Payback:
    """Years until a price is paid back.

    Parameters
    ----------
    price : float
        paid once.
    saved : Estimate
        money a year, at today's prices.
    rise : float
        by which the saving grows every year, as a share; negative: it shrinks.

    Raises
    ------
    DescriptionError
        for a price below zero or a rise of −1 or less.

    Source: simple payback, Σ saved · (1 + rise)^k = price, k = 0, 1, …, within a year in a line;
    common practice.
    """
    nothing = Estimate(0.0, saved.unit, ())
    return payback_by_paths(price, nothing - saved, nothing, rise, rise)


def payback_by_paths(
    price: float, spent: Estimate, before: Estimate, rise: float, rise_before: float
) -> Payback:
    """Years until a price is paid back where what is spent and what was spent before rise apart.

    Parameters
    ----------
    price : float
        paid once, grants taken off.
    spent, before : Estimate
        money a year for the new heating and for the one before, at today's prices.
    rise, rise_before : float
        by which each grows every year, as a share.

    Raises
    ------
    DescriptionError
        for a price below zero or a rise of −1 or less.

    Source: Σ before · (1 + rise_before)^k − spent · (1 + rise)^k = price, k = 0, 1, …, within a
    year in a line; the interval shifts every year alike; common practice.
    """
    if price < 0:
        raise DescriptionError("price: write what it cost, 0 or more.", "price")
    for name, one in (("rise", rise), ("rise_before", rise_before)):
        if one <= -1:
            raise DescriptionError(f"{name}: a share above −1.", name)
    interval = 1.96 / 2 * (before - spent).U

    def years(shift: float) -> float | None:
        paid = 0.0
        for k in range(LONGEST):
            each = before.value * (1 + rise_before) ** k - spent.value * (1 + rise) ** k
            each += shift * (1 + rise) ** k
            if each > 0 and paid + each >= price:
                return k + (price - paid) / each
            paid += each
        return None

    return Payback(years(0.0), years(interval), years(-interval))
