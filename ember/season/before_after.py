"""What a change was worth: two signatures laid over the same weather."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent, merge
from ember.basis.series import Bools, Floats
from ember.messages import NotAvailable, Source, because
from ember.season.daily import in_weather
from ember.season.other_season import apart_in_season, others_doubt, sun_at, sun_doubt
from ember.season.season import SeasonSeen
from ember.season.signature import Signature, jacobian

YEAR = 365.0  # days to which a saving is brought
SEEN_LEAST = 0.4  # of a year's days, within the weather that both saw, common practice, chosen
EDGE = 0.05  # of a stretch's days at either end, too seldom in weather, common practice, chosen
T_90 = 1.645  # of the normal distribution, two-sided 90 %


class Worth(StrEnum):
    """What may be said of a change."""

    SAVED = "saved"
    USED_MORE = "used more"
    NOT_TOLD = "cannot be told yet"


@dataclass(frozen=True)
class Changed:
    """One energy before and after, in the same weather.

    Attributes
    ----------
    before, after : Estimate
        in the weather laid under both [kWh a year]; the meters' errors stand in both.
    saved : Estimate
        before less after [kWh a year]; of the meters' errors only the share that it is of them.
    share : float
        saved ÷ before.
    fractional : float | None
        fractional savings uncertainty at 90 % confidence (ASHRAE Guideline 14); None for no saving,
        and where another season may have done more than the scatter that it knows of.
    cv_before, cv_after : float
        CV(RMSE) of the two signatures.
    worth : Worth
        by the 95 % interval of the saving.
    """

    before: Estimate
    after: Estimate
    saved: Estimate
    share: float
    fractional: float | None
    cv_before: float
    cv_after: float
    worth: Worth


@dataclass(frozen=True)
class BeforeAfter:
    """A change by what was used before and after it.

    Attributes
    ----------
    electricity, heat : Changed | NotAvailable
        the heat too, since a lower need is no better unit.
    cop_before, cop_after : Estimate | None
        quotients of the above, in the same weather.
    cop_change : Estimate | None
        their difference; the meters' errors hardly count in it.
    seen : float
        share of a year's days that lie within the weather of both stretches; what is said is of
        those alone.
    apart : float
        share of the days of one stretch that have no like date, in any year, in the other.
    """

    electricity: Changed | NotAvailable
    heat: Changed | NotAvailable
    cop_before: Estimate | None
    cop_after: Estimate | None
    cop_change: Estimate | None
    seen: float
    apart: float


def before_after(before: SeasonSeen, after: SeasonSeen, weather: Floats) -> BeforeAfter:
    """Two stretches of one system, each by its signature, laid over the same weather.

    Parameters
    ----------
    weather : array, (n,)
        mean outdoor temperature of the days of a year [degC], finite.

    Source: normalised savings by two signatures (ASHRAE Guideline 14, retrofit isolation and whole
    building, from memory); interval by the covariances of both fits, robust to kindred days.
    """
    inside = days_seen(before, after, weather)
    seen = float(inside.mean()) if len(weather) else 0.0
    apart = _apart(before, after)
    if seen < SEEN_LEAST:
        why = NotAvailable(because(ReasonCode.WEATHER_NOT_SEEN, share=f"{seen:.0%}"))
        return BeforeAfter(why, why, None, None, None, seen, apart)
    scale = YEAR / len(weather)
    electricity = changed_in(before, after, "electricity", weather[inside], scale)
    heat = changed_in(before, after, "heat", weather[inside], scale)
    quotients: tuple[Estimate | None, Estimate | None, Estimate | None] = (None, None, None)
    if not isinstance(electricity, NotAvailable) and not isinstance(heat, NotAvailable):
        first = heat.before.over(electricity.before, "")
        second = heat.after.over(electricity.after, "")
        quotients = (first, second, second - first)
    return BeforeAfter(electricity, heat, *quotients, seen, apart)


def days_seen(before: SeasonSeen, after: SeasonSeen, weather: Floats) -> Bools:
    """Days that lie within the weather that both stretches saw often enough, (n,)."""
    inside = np.ones(len(weather), np.bool_)
    for one in (before, after):
        limits = weather_of(one)
        if limits is None:
            return np.zeros(len(weather), np.bool_)
        inside &= (weather >= limits[0]) & (weather <= limits[1])
    return inside


def weather_of(seen: SeasonSeen) -> tuple[float, float] | None:
    """Between which mean outdoor temperatures a stretch had enough days [degC]."""
    if seen.daily is None or not seen.used.any():
        return None
    low, high = np.quantile(seen.daily.outdoor[seen.used], [EDGE, 1 - EDGE])
    return float(low), float(high)


def worth_of(saved: Estimate) -> Worth:
    """What may be said of a saving, by its 95 % interval."""
    interval = 1.96 / 2 * saved.U
    if saved.value > interval:
        return Worth.SAVED
    return Worth.USED_MORE if saved.value < -interval else Worth.NOT_TOLD


def changed_in(
    before: SeasonSeen,
    after: SeasonSeen,
    what: str,
    weather: Floats,
    scale: float,
    sun_known: bool = False,
) -> Changed | NotAvailable:
    """One energy before and after over the same days.

    Parameters
    ----------
    what : str
        "heat" or "electricity".
    weather : array, (n,)
        mean outdoor temperature of the days [degC].
    scale : float
        from their sum to a year's.
    sun_known : bool
        whether the sun is in the model; else another season is another sun.
    """
    fits: list[Signature] = []
    for one in (before, after):
        fit = one.heat if what == "heat" else one.electricity
        if isinstance(fit, NotAvailable):
            return fit
        fits.append(fit)
    laid = [
        sum_in_weather(one, fit, what, weather)
        for one, fit in zip((before, after), fits, strict=True)
    ]
    sums, errors = zip(*((total * scale, error * scale) for total, error in laid), strict=True)
    meters = [meters_of(one, what) for one in (before, after)]
    # Of heat and electricity apart: taken for one source they would cancel in the COP.
    causes = (Source(SourceCode.DAYS_BEFORE, what), Source(SourceCode.DAYS_AFTER, what))
    made = [
        Estimate(
            value,
            "kWh",
            merge(
                (
                    *(part.times(value) for part in shares),
                    UncertaintyComponent(cause, error),
                )
            ),
        )
        for value, error, shares, cause in zip(sums, errors, meters, causes, strict=True)
    ]
    doubts = _of_the_season(before, after, fits[1], what, weather, sums[1], scale, sun_known)
    made[1] = Estimate(made[1].value, "kWh", merge((*made[1].budget, *doubts)))
    saved = made[0] - made[1]
    share = saved.value / sums[0] if sums[0] else 0.0
    # The guideline's figure knows of the scatter of the days alone.
    scattered = sum(e**2 for e in errors) >= sum(one.u**2 for one in doubts)
    return Changed(
        made[0],
        made[1],
        saved,
        share,
        _fractional(fits[0], fits[1].days, share) if share > 0 and scattered else None,
        fits[0].cv,
        fits[1].cv,
        worth_of(saved),
    )


def _of_the_season(
    before: SeasonSeen,
    after: SeasonSeen,
    fit: Signature,
    what: str,
    weather: Floats,
    value: float,
    scale: float,
    sun_known: bool,
) -> list[UncertaintyComponent]:
    """What a later or an earlier season may have changed of an energy after [kWh]."""
    one, other = before.daily, after.daily
    assert one is not None and other is not None  # they have signatures
    found = [others_doubt(value, what, _apart(before, after))]
    if not sun_known:
        more = sun_at(other, after.used, weather) - sun_at(one, before.used, weather)
        found.append(sun_doubt(fit, weather, more).times(scale))
    return found


def _apart(before: SeasonSeen, after: SeasonSeen) -> float:
    """Share of the days of one that have no like date in the other, the mean of both ways."""
    if before.daily is None or after.daily is None:
        return 1.0
    mine, theirs = before.daily.start[before.used], after.daily.start[after.used]
    return 0.5 * (apart_in_season(mine, theirs) + apart_in_season(theirs, mine))


def sum_in_weather(
    seen: SeasonSeen, fit: Signature, what: str, weather: Floats
) -> tuple[float, float]:
    """What a stretch would usually use on days of some weather, together, and the standard error
    of that [kWh]; as in `in_weather`, and no surer than the line through its days."""
    assert seen.daily is not None  # it has a signature
    days, own = in_weather(seen.daily, seen.used, fit, what, weather)
    return float(days.sum()), max(_line_error(fit, weather), own)


def _line_error(fit: Signature, weather: Floats) -> float:
    """Standard error of Σ of a signature over some days [kWh]; of the line, not of the days."""
    total = jacobian(weather, fit.knee, fit.slope, fit.bends).sum(axis=0)
    return float(np.sqrt(max(float(total @ fit.covariance @ total), 0.0)))


def meters_of(seen: SeasonSeen, what: str) -> tuple[UncertaintyComponent, ...]:
    """Errors of the meters as shares of the sum; of the same sources before and after."""
    reckoning = seen.whole.figures.reckonings[-1] if seen.whole.figures.reckonings else None
    total = None if reckoning is None else getattr(reckoning, what)
    if total is None or not total.value:
        return ()
    return tuple(part.times(1 / total.value) for part in total.budget if not part.random)


def _fractional(before: Signature, days: int, share: float) -> float:
    """Fractional savings uncertainty at 90 %.

    Source: ASHRAE Guideline 14, for kindred residuals, from memory:
    t · 1.26 · CV ÷ F · √(n/n′ · (1 + 2/n′) · 1/m), n′ = n (1 − ρ) ÷ (1 + ρ).
    """
    kin = min(max(before.kinship, 0.0), 0.99)
    own = before.days * (1 - kin) / (1 + kin)
    under = before.days / own * (1 + 2 / own) / days
    return float(T_90 * 1.26 * before.cv / share * np.sqrt(under))
