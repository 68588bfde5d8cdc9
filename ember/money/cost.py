"""Running cost over periods."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.clock import DAY
from ember.installation import Tariff
from ember.metering.boundary import Share
from ember.money.tariff import Windows
from ember.quantity import Estimate, exact
from ember.reckoning import Ledger
from ember.reckoning.reckon import metered
from ember.trace import Ints


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

    standing : standing charges, one for each day. total : bands and standing. average_price :
    paid per kWh, standing charge apart. covered : share of the time whose electricity is known;
    the energy money is for that share only.
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
    ledger: Ledger,
    shares: tuple[Share, ...],
    groups: Ints,
    periods: Sequence[tuple[float, float]],
) -> list[Cost]:
    """Cost of each period.

    Parameters
    ----------
    times : the tariff's windows; the ledger is cut at their edges.
    shares : meters, with sign, that hold all metered electricity once.
    groups : array, (m,)  Period of each segment, −1 for none.
    periods : instants from and to [s].

    Source: Σ kWh × price of its moment + standing charges, common practice.
    """
    band = times.band_at(ledger.begins)
    count, kinds = len(periods), len(tariff.bands) + 1
    label = np.where(groups >= 0, groups * kinds + band + 1, -1)
    energies, known = metered(ledger, shares, label, count * kinds)
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
        covered = float(known[k * kinds : (k + 1) * kinds].sum()) * ledger.step / (stop - start)
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
