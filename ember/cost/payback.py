"""How long a price is paid back by a saving."""

from dataclasses import dataclass

from ember.basis.errors import DescriptionError
from ember.basis.quantity import Estimate

LONGEST = 100.0  # years; beyond, nobody counts


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
    if price < 0:
        raise DescriptionError("price: write what it cost, 0 or more.", "price")
    if rise <= -1:
        raise DescriptionError("rise: a share above −1.", "rise")
    interval = 1.96 / 2 * saved.U

    def years(money: float) -> float | None:
        if money <= 0:
            return None
        paid, k, each = 0.0, 0, money
        while paid + each < price:
            paid, k, each = paid + each, k + 1, each * (1 + rise)
            if k >= LONGEST:
                return None
        return k + (price - paid) / each

    return Payback(years(saved.value), years(saved.value + interval), years(saved.value - interval))
