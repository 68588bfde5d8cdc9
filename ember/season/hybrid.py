"""A heater of another fuel that takes over on the cold days: what that is worth."""

from dataclasses import dataclass

import numpy as np

from ember.basis.quantity import Estimate, merge
from ember.messages import NotAvailable
from ember.season.before_after import meters_of
from ember.season.season import SeasonSeen


@dataclass(frozen=True)
class Hybrid:
    """The days colder than a temperature by the other heater, all others by the heat pump.

    Attributes
    ----------
    below : float
        mean outdoor temperature of the day, below which the other heater works [degC].
    days : int
        that it would have had, of the whole days with outdoor temperature.
    heat : float
        of these [kWh].
    saved : Estimate
        electricity that was paid on them less the price of the same heat by the fuel; negative:
        dearer than by the pump alone.
    """

    below: float
    days: int
    heat: float
    saved: Estimate


def hybrid(
    seen: SeasonSeen, below: float, fuel_per_kwh: float, price: float, currency: str
) -> Hybrid | NotAvailable:
    """What a hybrid below a temperature would have saved in a season; both at full heat of the day,
    standing charges and the boiler's own losses at rest apart.

    Parameters
    ----------
    fuel_per_kwh : float
        price of a kWh of useful heat by the fuel.
    price : float
        of electricity, on average [per kWh].

    Source: Σ over the colder days of electricity × price − heat × cost of the other heat, common
    practice.
    """
    if isinstance(seen.heat, NotAvailable):
        return seen.heat
    assert seen.daily is not None  # where there is a signature there are its days
    with np.errstate(invalid="ignore"):
        cold = seen.used & (seen.daily.outdoor < below)
    heat = float(seen.daily.heat[cold].sum())
    used = float(seen.daily.electricity[cold].sum())
    budget = [
        *(part.times(used * price) for part in meters_of(seen, "electricity")),
        *(part.times(-heat * fuel_per_kwh) for part in meters_of(seen, "heat")),
    ]
    saved = Estimate(used * price - heat * fuel_per_kwh, currency, merge(budget))
    return Hybrid(below, int(cold.sum()), heat, saved)
