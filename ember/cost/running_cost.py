"""Running cost over periods."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.basis.clock import DAY
from ember.basis.codes import SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent, exact, merge, rectangular
from ember.basis.series import FAR_APART, Ints
from ember.boundary.combinations import Share
from ember.cost.tariff import Windows
from ember.description.installation import Carbon, Tariff
from ember.messages import Source
from ember.reckoning import Segments
from ember.reckoning.reckon import metered

SHARE_LIMIT = 0.1  # error of a described share of the electricity, common practice, chosen


@dataclass(frozen=True, slots=True)
class BandCost:
    """One band's share: electricity [kWh], price [per kWh] and money."""

    band: str
    electricity: Estimate
    price: float
    money: Estimate


@dataclass(frozen=True)
class Cost:
    """Running cost of a period.

    Attributes
    ----------
    standing : float
        standing charges, one for each day.
    total : Estimate
        bands and standing.
    average_price : float | None
        paid per kWh, standing charge apart.
    covered : float
        share of the time whose electricity is known; the energy money is for that share only.
    """

    currency: str
    bands: tuple[BandCost, ...]
    standing: float
    total: Estimate
    average_price: float | None
    covered: float


def cost(
    tariff: Tariff,
    times: Windows,
    segments: Segments,
    shares: tuple[Share, ...],
    groups: Ints,
    periods: Sequence[tuple[float, float]],
) -> list[Cost]:
    """Cost of each period.

    Parameters
    ----------
    times : Windows
        the tariff's windows; the segments are cut at their edges.
    shares : tuple[Share, ...]
        meters, with sign, that hold all metered electricity once.
    groups : array, (m,)
        Period of each segment, −1 for none.
    periods : Sequence[tuple[float, float]]
        instants from and to [s].

    Where readings lie so far apart that they do not tell the hours, the bands have the shares that
    are described; without, the price is anything between the lowest and the highest.

    Source: Σ kWh × price of its moment + standing charges, common practice.
    """
    if tariff.bands and _hours_unknown(segments, shares):
        return _without_hours(tariff, segments, shares, groups, periods)
    band = times.band_at(segments.begins)
    count, kinds = len(periods), len(tariff.bands) + 1
    label = np.where(groups >= 0, groups * kinds + band + 1, -1)
    energies, known = metered(segments, shares, label, count * kinds)
    names = (tariff.name, *(b.name for b in tariff.bands))
    prices = (tariff.price, *(b.price for b in tariff.bands))
    result = []
    for k, (start, stop) in enumerate(periods):
        bands = []
        money = exact(0.0, tariff.currency)
        electricity = 0.0
        for j in range(kinds):
            energy = energies[k * kinds + j]
            if not energy.value:
                continue
            paid = energy.scaled(prices[j], tariff.currency)
            money += paid
            electricity += energy.value
            bands.append(BandCost(names[j], energy, prices[j], paid))
        standing = tariff.standing_charge * round((stop - start) / DAY)
        covered = float(known[k * kinds : (k + 1) * kinds].sum()) * segments.step / (stop - start)
        result.append(
            Cost(
                tariff.currency,
                tuple(bands),
                standing,
                money + exact(standing, tariff.currency),
                money.value / electricity if electricity else None,
                covered,
            )
        )
    return result


def _hours_unknown(segments: Segments, shares: tuple[Share, ...]) -> bool:
    return any(segments.meters[name].native > FAR_APART for _, name in shares)


def _without_hours(
    tariff: Tariff,
    segments: Segments,
    shares: tuple[Share, ...],
    groups: Ints,
    periods: Sequence[tuple[float, float]],
) -> list[Cost]:
    """Cost of each period where the hours at which electricity was used are not known."""
    price, limit, words = _mean_price(tariff)
    energies, known = metered(segments, shares, groups, len(periods))
    found = []
    for k, (start, stop) in enumerate(periods):
        energy = energies[k]
        paid = energy.scaled(price, tariff.currency)
        open_ = UncertaintyComponent(
            Source(SourceCode.HOURS_OF_USE), rectangular(limit) * energy.value
        )
        paid = Estimate(paid.value, tariff.currency, merge([*paid.budget, open_]))
        bands = (BandCost(words, energy, price, paid),) if energy.value else ()
        standing = tariff.standing_charge * round((stop - start) / DAY)
        covered = float(known[k]) * segments.step / (stop - start)
        total = paid + exact(standing, tariff.currency)
        found.append(
            Cost(tariff.currency, bands, standing, total, price if energy.value else None, covered)
        )
    return found


def carbon_of(electricity: Estimate, carbon: Carbon) -> Estimate:
    """What an electricity stands for [kg CO2]; the factor is taken as its source gives it."""
    return electricity.scaled(carbon.kg_per_kwh, "kg")


def _mean_price(tariff: Tariff) -> tuple[float, float, str]:
    """Price where the hours are not known, how far it may be off, and what it is in words."""
    given = [band.share for band in tariff.bands]
    if all(share is not None for share in given):
        named = [(b.price, b.share or 0.0) for b in tariff.bands]
        rest = max(1.0 - sum(share for _, share in named), 0.0)
        named.append((tariff.price, rest))
        mean = sum(price * share for price, share in named)
        spread = max(p for p, s in named if s) - min(p for p, s in named if s)
        return mean, SHARE_LIMIT * spread, "bands by their described shares"
    prices = [tariff.price, *(band.price for band in tariff.bands)]
    low, high = min(prices), max(prices)
    return (low + high) / 2, (high - low) / 2, "hours not known"
