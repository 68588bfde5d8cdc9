"""Degree-days to any base, by a method that is named."""

from dataclasses import dataclass

import numpy as np

from ember.basis.series import Floats


@dataclass(frozen=True)
class DegreeDays:
    """Degree-days of a stretch.

    Attributes
    ----------
    heating, cooling : float
        below and above the base [K·d].
    base : float
        [degC].
    method : str
        how they are counted.
    days : float
        that are known.
    """

    heating: float
    cooling: float
    base: float
    method: str
    days: float


def by_hours(outdoor: Floats, base: float) -> DegreeDays:
    """Degree-days by the temperature of each hour; hours that are not known count for none.

    Parameters
    ----------
    outdoor : array, (h,)
        mean outdoor temperature of each hour [degC], NaN where it is not known.
    base : float
        [degC].

    Source: Σ max(base − T, 0) · 1 h ÷ 24; CIBSE TM41, integration by hours, from memory.
    """
    known = outdoor[np.isfinite(outdoor)]
    return DegreeDays(
        float(np.maximum(base - known, 0.0).sum() / 24),
        float(np.maximum(known - base, 0.0).sum() / 24),
        base,
        "mean of each hour",
        len(known) / 24,
    )


def by_daily_means(outdoor: Floats, base: float) -> DegreeDays:
    """Degree-days by the mean temperature of each day; days that are not known count for none.

    Parameters
    ----------
    outdoor : array, (d,)
        mean outdoor temperature of each day [degC], NaN where it is not known.
    base : float
        [degC].

    Source: Σ max(base − T, 0) · 1 d; ISO 15927-6 has the method by days, from memory.
    """
    known = outdoor[np.isfinite(outdoor)]
    return DegreeDays(
        float(np.maximum(base - known, 0.0).sum()),
        float(np.maximum(known - base, 0.0).sum()),
        base,
        "mean of each day",
        float(len(known)),
    )
