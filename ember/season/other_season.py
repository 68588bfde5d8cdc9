"""Stretches of other seasons: what they may differ by at the same outdoor temperature, though
nothing was changed. The sun stands higher, the air is drier, the water from the mains is warmer."""

import numpy as np

from ember.basis.clock import DAY
from ember.basis.codes import SourceCode
from ember.basis.quantity import UncertaintyComponent, rectangular
from ember.basis.series import Floats
from ember.messages import Source
from ember.season.daily import Daily
from ember.season.signature import Signature

SOLAR = 1366.7  # beyond the air [W/m2], FAO-56 eq. 21: 0.0820 MJ/(m2 min)
DECLINATION = ((-0.399912, 0.070257), (-0.006758, 0.000907), (-0.002697, 0.00148))
CLEARNESS = 0.4  # share of it that usually comes down, common practice
# What 100 W/m² of sun on the level may be worth outdoors [K], common practice, chosen.
SUN_USUAL = 4.0
SUN_PER = 100.0  # [W/m2]
# What else a season may change of the energy at one outdoor temperature, common practice, chosen:
# cold water from the mains, damp air on the coil, a ground that is still warm.
SEASON_LIMIT = 0.05
SAME_SEASON = 14.0  # between two dates [d], common practice, chosen
YEAR_LENGTH = 365.25  # [d]


def usual_sun(start: Floats, latitude: float) -> Floats:
    """Mean radiation of the sun on the level on some days, (d,) [W/m2].

    Parameters
    ----------
    start : array, (d,)
        When each begins [s].
    latitude : float
        [deg]

    Source: extraterrestrial radiation of a day, Allen et al., FAO Irrigation and Drainage Paper 56
    (1998), eq. 21 and 25, with the declination of Spencer, Search 2 (1971) 172, both from memory,
    times a usual clearness.
    """
    turn = 2 * np.pi * ((start / DAY + 0.5) % YEAR_LENGTH) / YEAR_LENGTH
    near, place = 1 + 0.033 * np.cos(turn), np.radians(latitude)
    tilt = 0.006918 + sum(
        a * np.cos(k * turn) + b * np.sin(k * turn) for k, (a, b) in enumerate(DECLINATION, 1)
    )
    sunset = np.arccos(np.clip(-np.tan(place) * np.tan(tilt), -1.0, 1.0))
    height = sunset * np.sin(place) * np.sin(tilt) + np.cos(place) * np.cos(tilt) * np.sin(sunset)
    given: Floats = CLEARNESS * SOLAR / np.pi * near * height
    return given


def sun_at(daily: Daily, use: np.ndarray, outdoor: Floats) -> Floats:
    """What the sun usually gave on days of like outdoor temperature, (n,) [W/m2], by the line
    through some days.

    Parameters
    ----------
    use : array, (d,)
        those days.
    outdoor : array, (n,)
        mean outdoor temperature [degC].
    """
    own, given = daily.outdoor[use], usual_sun(daily.start[use], daily.latitude)
    away = own - own.mean()
    squares = float(away @ away)
    slope = float(away @ given) / squares if squares else 0.0
    line: Floats = given.mean() + slope * (outdoor - own.mean())
    return line


def sun_doubt(fit: Signature, outdoor: Floats, more: Floats) -> UncertaintyComponent:
    """What the sun may have saved on some days where it is in no model [kWh].

    Parameters
    ----------
    fit : Signature
        of the energy.
    outdoor, more : array, (n,)
        mean outdoor temperature of the days [degC], and by how much more the sun usually gives
        there than where it is set against [W/m2].

    Source: the sun is worth a warmer outdoors below the knee, from nothing to `SUN_USUAL`; the
    root mean square of that range.
    """
    kelvin_days = float((more * (outdoor < fit.knee)).sum()) / SUN_PER
    cause = Source(SourceCode.SUN_NOT_LOGGED)
    return UncertaintyComponent(cause, rectangular(SUN_USUAL) * fit.slope * kelvin_days)


def others_doubt(value: float, what: str, apart: float) -> UncertaintyComponent:
    """What else of another season may make of an energy.

    Parameters
    ----------
    value : float
        the energy [kWh].
    what : str
        "heat" or "electricity", which a season need not change alike.
    apart : float
        share of the days that have no like in the other season, from `apart_in_season`.
    """
    cause = Source(SourceCode.OTHER_SEASON, what)
    return UncertaintyComponent(cause, rectangular(SEASON_LIMIT) * value * apart)


def season_doubts(
    daily: Daily,
    use: np.ndarray,
    fit: Signature,
    what: str,
    value: float,
    days: tuple[Floats, Floats, Floats],
) -> tuple[UncertaintyComponent, UncertaintyComponent]:
    """What the sun and what else of another season may make of an energy that a stretch is said to
    have used, or would have used, on some days.

    Parameters
    ----------
    daily, use
        the stretch's days, and those of them, (d,), on which its signature rests.
    fit : Signature
        the signature of its heat or electricity, as `what` says.
    value : float
        the energy on those days [kWh].
    days : tuple of three arrays, (n,)
        when they begin [s], their mean outdoor temperature [degC], how much of each counts.
    """
    start, outdoor, shares = days
    more = usual_sun(start, daily.latitude) - sun_at(daily, use, outdoor)
    apart = apart_in_season(start, daily.start[use])
    return sun_doubt(fit, outdoor, more * shares), others_doubt(value, what, apart)


def apart_in_season(start: Floats, other: Floats) -> float:
    """Share of some days within a fortnight of whose date, in any year, none of others lies.

    Parameters
    ----------
    start, other : array, (d,)
        when the days begin [s].
    """
    if not len(start) or not len(other):
        return 1.0
    theirs = np.sort((other / DAY) % YEAR_LENGTH)
    around = np.concatenate([[theirs[-1] - YEAR_LENGTH], theirs, [theirs[0] + YEAR_LENGTH]])
    mine = (start / DAY) % YEAR_LENGTH
    after = np.clip(np.searchsorted(around, mine), 1, len(around) - 1)
    nearest = np.minimum(around[after] - mine, mine - around[after - 1])
    return float((nearest > SAME_SEASON).mean())
