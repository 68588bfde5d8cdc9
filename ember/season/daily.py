"""The days of a period: their energies and weather, their signatures, and what they tell of days of
other weather."""

from dataclasses import dataclass

import numpy as np

from ember.basis.series import Bools, Floats
from ember.messages import NotAvailable
from ember.season.signature import Signature, signature

WHOLE_DAY = 0.95  # of a day that must be measured to stand in a signature, common practice, chosen
USUAL_LATITUDE = 50.0  # of a site that is not described [deg], common practice, chosen
LIKE = 1.0  # to either side, days of like outdoor temperature [K], common practice, chosen
LIKE_LEAST = 4  # of them tell how far they lie off a line, common practice, chosen
KIN_MOST = 0.9  # autocorrelation of the days that is reckoned with


@dataclass(frozen=True)
class Daily:
    """Days of a period at one level; a day cut by its ends counts as a part.

    Attributes
    ----------
    start : array, (d,)
        when each begins [s].
    outdoor : array, (d,)
        mean outdoor temperature [degC], NaN where less than half of the day is known.
    heat, electricity : array, (d,)
        of the measured time [kWh]
    measured : array, (d,)
        measured share of each day.
    length : array, (d,)
        of each day within the period, as a share of 24 h.
    latitude : float
        of the site, a usual one where it is not described [deg].
    """

    start: Floats
    outdoor: Floats
    heat: Floats
    electricity: Floats
    measured: Floats
    length: Floats
    latitude: float


def signatures(
    daily: Daily, use: Bools
) -> tuple[Signature | NotAvailable, Signature | NotAvailable]:
    """Of the heat and of the electricity of some days, a nearly whole one as a whole.

    Parameters
    ----------
    use : array, (d,)
        the days.
    """
    outdoor = daily.outdoor[use]
    return signature(outdoor, day_energy(daily, use, "heat")), signature(
        outdoor, day_energy(daily, use, "electricity")
    )


def day_energy(daily: Daily, use: Bools, what: str) -> Floats:
    """Heat or electricity of some days, a nearly whole one as a whole, (k,) [kWh].

    Parameters
    ----------
    use : array, (d,)
        the days.
    what : str
        "heat" or "electricity".
    """
    energy: Floats = (daily.heat if what == "heat" else daily.electricity)[use]
    whole = np.maximum(daily.measured[use], WHOLE_DAY * daily.length[use])
    return energy * (daily.length[use] / whole)


def in_weather(
    daily: Daily,
    use: Bools,
    fit: Signature,
    what: str,
    weather: Floats,
    shares: Floats | None = None,
) -> tuple[Floats, float]:
    """What a stretch would have used on days of some weather.

    Parameters
    ----------
    daily : Daily
        its days.
    use : array, (d,)
        those of them on which its signature rests.
    fit : Signature
        the signature of its heat or electricity, as `what` says.
    weather : array, (n,)
        mean outdoor temperature of the days [degC].
    shares : array, (n,) | None
        how much of each day counts in the error; None: all of it.

    Returns
    -------
    array, (n,)  [kWh].
    float  Standard error of their sum, by the scatter of the stretch's own days [kWh].

    A signature is straight and what a unit draws is bent, since its COP falls with the cold. Two
    straight lines through days that lie differently along one bend differ, though nothing was
    changed. So of each day, beside what the line says, counts how far the stretch's own days of
    like temperature lie off the line, where there are enough of them.

    Source: mean of the residuals in a window (local constant regression), from memory; kindred
    days as in the signature.
    """
    own = daily.outdoor[use]
    order = np.argsort(own)
    off = (day_energy(daily, use, what) - fit.at(own))[order]
    summed = np.concatenate([[0.0], np.cumsum(off)])
    first, last = (np.searchsorted(own[order], weather + by) for by in (-LIKE, LIKE))
    count = last - first
    enough = count >= LIKE_LEAST
    per = 1.0 / np.maximum(count, 1)
    days = fit.at(weather) + np.where(enough, (summed[last] - summed[first]) * per, 0.0)
    # How often each of its own days counts in the sum.
    weight = np.where(enough, per if shares is None else per * shares, 0.0)
    steps = np.bincount(first, weight, len(own) + 1) - np.bincount(last, weight, len(own) + 1)
    counts = np.cumsum(steps)[:-1]
    kin = min(max(fit.kinship, 0.0), KIN_MOST)
    error = fit.scatter * np.sqrt(float(counts @ counts) * (1 + kin) / (1 - kin))
    return days, float(error)
