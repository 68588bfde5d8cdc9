"""A change at the same room temperature and sun: what these gave is not the change's."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ember.basis.clock import HOUR
from ember.basis.codes import SourceCode
from ember.basis.practice import KELVIN_SAVES
from ember.basis.quantity import Estimate, UncertaintyComponent, merge, rectangular
from ember.basis.series import Floats
from ember.events.hours import Hours
from ember.messages import NotAvailable, Source
from ember.rated.design import RADIATORS
from ember.season.before_after import (
    SEEN_LEAST,
    YEAR,
    Changed,
    Worth,
    changed_in,
    days_seen,
    worth_of,
)
from ember.season.daily import signatures
from ember.season.other_season import SUN_PER
from ember.season.season import SeasonSeen
from ember.season.signature import Signature

KNOWN_HOURS = 18  # of a day, for its mean, common practice, chosen
KNOWN_DAYS = 0.9  # of a stretch's days, common practice, chosen
# What 100 W/m² of sun on the level is looked for to be worth outdoors [K], common practice, chosen.
SUN_MOST = 6.0
SUN_STEP = 0.5  # to either side, for the curvature [K]
OTHERS_LIMIT = 0.4  # error of what rooms and sun saved in electricity, common practice, chosen


@dataclass(frozen=True)
class SameRooms:
    """What a change was worth as warm as before, and with one sun where it is logged.

    Attributes
    ----------
    room_before, room_after : float | None
        mean room temperature of the days that count [degC]; None where it is not logged.
    sun : Estimate | None
        outdoor temperature that 100 W/m² of sun on the level is worth [K]; None where it is not
        logged.
    heat : Changed | NotAvailable
        before and after, as if.
    others : Estimate
        electricity that rooms and sun saved, not the change [kWh a year]; negative where they
        cost some.
    flow : float
        by which the flow was cooler for the sake of the rooms [K].
    electricity : Estimate
        saved by the change alone [kWh a year].
    worth : Worth
        by the 95 % interval of that.
    """

    room_before: float | None
    room_after: float | None
    sun: Estimate | None
    heat: Changed | NotAvailable
    others: Estimate
    flow: float
    electricity: Estimate
    worth: Worth


def daily_means(hours: Hours, name: str, starts: Floats, least: int = KNOWN_HOURS) -> Floats:
    """Mean of an hourly value over days, (d,); NaN where fewer hours are known.

    Parameters
    ----------
    starts : array, (d,)
        When each day begins [s].
    least : int
        hours that must be known.
    """
    values = hours.of[name]
    at = hours.start + HOUR * np.arange(len(values)) + HOUR / 2
    day = np.searchsorted(starts, at, side="right") - 1
    inside = (day >= 0) & np.isfinite(values) & (at < starts[-1] + 25 * HOUR)
    count = np.bincount(day[inside], minlength=len(starts))
    total = np.bincount(day[inside], values[inside], len(starts))
    found: Floats = np.full(len(starts), np.nan)
    enough = count >= least
    found[enough] = total[enough] / count[enough]
    return found


def same_rooms(
    before: SeasonSeen, after: SeasonSeen, year: SeasonSeen, hours: Hours
) -> SameRooms | None:
    """A change at the same room temperature and sun; None where neither is logged on enough days,
    or too little is known of the electricity.

    Parameters
    ----------
    year : SeasonSeen
        whose days are the weather laid under both.

    Each day counts as if it had been colder outdoors by what its rooms were warmer than the mean
    of before, and warmer by what its sun was worth. The weight of the sun is that with the least
    squares of both stretches' days, its error by their curvature. The heat that rooms and sun saved
    is electricity by the COP after; colder rooms also need a cooler flow, by the rooms' kelvins and
    what the emitters give less. Without heat the electricity's own signatures tell. With and
    without, the same days are counted: those within the weather of all four stretches.

    Source: steady heat balance of a house, loss by (room − outdoor) less gains in proportion to the
    sun; profile of the least squares (Seber & Wild, Nonlinear Regression, 5.2, from memory).
    """
    sides = (before, after)
    if before.daily is None or after.daily is None or year.daily is None:
        return None
    rooms, suns = (_of_both(sides, hours, name) for name in ("room", "sun"))
    if rooms is None and suns is None:
        return None
    means = [_mean(one, of) for one, of in zip(sides, rooms, strict=True)] if rooms else None
    colder = [means[0] - of for of in rooms] if rooms and means else [np.zeros(1), np.zeros(1)]
    usual = 0.5 * sum(_mean(one, of) for one, of in zip(sides, suns, strict=True)) if suns else 0.0
    shines = [(of - usual) / SUN_PER for of in suns] if suns else [np.zeros(1), np.zeros(1)]
    shone = np.zeros(1)
    if suns:
        shone = np.nan_to_num((daily_means(hours, "sun", year.daily.start) - usual) / SUN_PER)

    def moved(weight: float) -> tuple[SeasonSeen, SeasonSeen]:
        one, other = (
            _moved(side, cold + weight * shine)
            for side, cold, shine in zip(sides, colder, shines, strict=True)
        )
        return one, other

    alike = (
        [_kinship(of[side.used]) for side, of in zip(sides, shines, strict=True)] if suns else []
    )
    sun = _weight(moved, float(np.mean(alike))) if suns else None
    weights = [0.0] if sun is None else [sun.value, sun.value + sun.u]
    known = np.isfinite(year.daily.outdoor)
    bare = year.daily.outdoor[known]
    laid = [(moved(w), (year.daily.outdoor + w * shone)[known]) for w in weights]
    common = days_seen(*sides, bare)
    for stretches, weather in laid:
        common &= days_seen(*stretches, weather)
    if not len(common) or common.mean() < SEEN_LEAST:
        return None
    scale = YEAR / len(common)

    def changed(what: str) -> list[Changed | NotAvailable]:
        """Without rooms and sun in the model, with them, and with the sun's weight higher by u."""
        return [changed_in(*sides, what, bare[common], scale, sun is not None)] + [
            changed_in(*stretches, what, weather[common], scale, sun is not None)
            for stretches, weather in laid
        ]

    (plain, *electric), (need, *heats) = changed("electricity"), changed("heat")
    if not isinstance(plain, Changed):
        return None
    heat, electricity = _with_doubt(heats), _with_doubt(electric)
    flow = 0.0
    if isinstance(need, Changed) and isinstance(heat, Changed) and need.after.value > 0:
        saved_heat = need.saved.value - heat.saved.value
        colder_by = means[0] - means[1] if means else 0.0
        flow = _cooler(after, hours, colder_by, need.after.value, saved_heat)
        fit = after.electricity
        assert isinstance(fit, Signature)  # of it `plain` was made
        heating = max(plain.after.value - fit.base * scale * common.sum(), 0.0)
        by_cop = saved_heat * plain.after.value / need.after.value
        others = float(by_cop + KELVIN_SAVES * flow * heating)
    elif isinstance(electricity, Changed):
        others = plain.saved.value - electricity.saved.value
    else:
        return None
    doubt = UncertaintyComponent(Source(SourceCode.ROOMS), rectangular(OTHERS_LIMIT) * others)
    away = Estimate(others, "kWh", (doubt,) if others else ())
    saved = plain.saved - away
    return SameRooms(
        means[0] if means else None,
        means[1] if means else None,
        sun,
        heat,
        away,
        flow,
        saved,
        worth_of(saved),
    )


def _cooler(after: SeasonSeen, hours: Hours, colder: float, heat: float, saved: float) -> float:
    """By how much the flow was cooler after, for rooms that were colder by so much [K].

    Parameters
    ----------
    heat, saved : float
        after, and by rooms and sun [kWh a year].

    Source: output of radiators as (mean water − room)^1.3 (EN 442).
    """
    assert after.daily is not None
    if not colder or "flow" not in hours.of or heat <= 0:
        return 0.0
    over = daily_means(hours, "flow", after.daily.start, 1)
    over = over - daily_means(hours, "room", after.daily.start)
    excess = float(np.nanmean(over[after.used])) if np.isfinite(over[after.used]).any() else 0.0
    more = max(1 + saved / heat, 0.0) ** (1 / RADIATORS) - 1
    return float(colder + max(excess, 0.0) * more)


def _of_both(
    sides: tuple[SeasonSeen, SeasonSeen], hours: Hours, name: str
) -> tuple[Floats, Floats] | None:
    """Daily means of both stretches, (d,) each; None where one knows too few of its days."""
    if name not in hours.of:
        return None
    found = []
    for side in sides:
        assert side.daily is not None
        means = daily_means(hours, name, side.daily.start)
        if not side.used.any() or np.isfinite(means[side.used]).mean() < KNOWN_DAYS:
            return None
        found.append(means)
    return found[0], found[1]


def _mean(side: SeasonSeen, of: Floats) -> float:
    """Of the days that count."""
    return float(np.nanmean(of[side.used]))


def _moved(side: SeasonSeen, shift: Floats) -> SeasonSeen:
    """A stretch whose days were warmer outdoors by so much, (d,) [K]; unknown ones out."""
    assert side.daily is not None
    daily = replace(side.daily, outdoor=side.daily.outdoor + shift)
    used = side.used & np.isfinite(daily.outdoor)
    heat, electricity = signatures(daily, used)
    if isinstance(side.heat, NotAvailable):
        heat = side.heat
    return replace(side, daily=daily, used=used, heat=heat, electricity=electricity)


def _kinship(of: Floats) -> float:
    """Autocorrelation of a day with the day before, of those that are known."""
    away = of[np.isfinite(of)] - np.nanmean(of)
    squares = float((away**2).sum())
    return float((away[1:] * away[:-1]).sum()) / squares if squares else 0.0


def _weight(
    moved: Callable[[float], tuple[SeasonSeen, SeasonSeen]], sun_kinship: float
) -> Estimate | None:
    """What 100 W/m² of sun are worth outdoors [K], by the days of both stretches; None where they
    have no signature or do not tell.

    Source: error by the curvature of the squares, widened where both the residuals and the sun
    resemble the day before (Bartlett, J. R. Stat. Soc. 98 (1935) 536, from memory).
    """
    by_heat = not any(isinstance(one.heat, NotAvailable) for one in moved(0.0))

    def fits(weight: float) -> list[Signature]:
        made = [one.heat if by_heat else one.electricity for one in moved(weight)]
        return [fit for fit in made if not isinstance(fit, NotAvailable)]

    def squares(weight: float) -> float:
        """Of each stretch by its own scatter, so that neither weighs more."""
        found = fits(weight)
        if len(found) < len(sizes):
            return np.inf
        return sum(_squares(fit) / size for fit, size in zip(found, sizes, strict=True))

    sizes = [fit.scatter**2 for fit in fits(0.0)]
    if len(sizes) < 2 or min(sizes) <= 0:
        return None
    from scipy.optimize import minimize_scalar  # a second and 40 MB that few records need

    best = float(minimize_scalar(squares, bounds=(0.0, SUN_MOST), method="bounded").x)
    low, high = max(best - SUN_STEP, 0.0), best + SUN_STEP
    middle = (low + high) / 2
    bend = (squares(low) - 2 * squares(middle) + squares(high)) / (middle - low) ** 2
    if not 0 < bend < np.inf or not np.isfinite(squares(best)):
        return None
    final = fits(best)
    free = sum(fit.days for fit in final) - 3 * len(final)
    kin = float(np.mean([fit.kinship for fit in final])) * sun_kinship
    kin = min(max(kin, 0.0), 0.9)
    error = np.sqrt(2 * squares(best) / free / bend * (1 + kin) / (1 - kin))
    doubt = UncertaintyComponent(Source(SourceCode.DAYS_SCATTER), float(error))
    return Estimate(best, "K", (doubt,))


def _squares(fit: Signature) -> float:
    return fit.scatter**2 * (fit.days - (3 if fit.bends else 2))


def _with_doubt(made: list[Changed | NotAvailable]) -> Changed | NotAvailable:
    """The first, with what the doubt about the sun's weight makes of its saving: the second less
    the first, where there is one."""
    first, *higher = made
    if not isinstance(first, Changed):
        return first
    parts = [
        UncertaintyComponent(Source(SourceCode.SUN_WEIGHT), one.saved.value - first.saved.value)
        for one in higher
        if isinstance(one, Changed)
    ]
    saved = Estimate(first.saved.value, "kWh", merge((*first.saved.budget, *parts)))
    return replace(first, saved=saved, worth=worth_of(saved))
