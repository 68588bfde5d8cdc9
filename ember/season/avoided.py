"""What the actual days of a stretch would have used by another: avoided energy, and days alike."""

from dataclasses import dataclass

import numpy as np

from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent, merge
from ember.basis.series import Floats
from ember.messages import NotAvailable, Source, because
from ember.season.before_after import Worth, meters_of, weather_of, worth_of
from ember.season.daily import in_weather
from ember.season.other_season import season_doubts
from ember.season.season import SeasonSeen

LEAST_DAYS = 20  # of the later stretch within the weather of the earlier, common practice, chosen
ALIKE = 0.5  # by which the outdoor temperature of two days may differ [K], common practice, chosen
PAIRS = 12  # shown


@dataclass(frozen=True)
class Avoided:
    """Energy of the days after against what the days before would have used in their weather.

    Attributes
    ----------
    expected, measured, avoided : Estimate
        over the counted days [kWh]; avoided is expected less measured.
    days : int
        that are counted.
    outside : int
        measured days in weather that the stretch before did not see; not counted.
    worth : Worth
        by the 95 % interval of what was avoided.
    """

    expected: Estimate
    measured: Estimate
    avoided: Estimate
    days: int
    outside: int
    worth: Worth


def avoided(before: SeasonSeen, after: SeasonSeen, what: str) -> Avoided | NotAvailable:
    """Avoided energy of an actual period.

    Parameters
    ----------
    what : str
        "heat" or "electricity".

    Source: avoided energy use of a reporting period (ASHRAE Guideline 14, from memory): the
    baseline's model at the period's weather less what was used.
    """
    fit = before.heat if what == "heat" else before.electricity
    if isinstance(fit, NotAvailable):
        return fit
    daily = after.daily
    limits = weather_of(before)
    if daily is None or limits is None:
        return NotAvailable(because(ReasonCode.NO_LEVEL))
    seen = (daily.outdoor >= limits[0]) & (daily.outdoor <= limits[1])
    use = after.used & seen
    count = int(use.sum())
    if count < LEAST_DAYS:
        return NotAvailable(because(ReasonCode.TOO_FEW_DAYS, days=count, least=LEAST_DAYS))
    outdoor, shares = daily.outdoor[use], daily.measured[use]
    used = float((daily.heat if what == "heat" else daily.electricity)[use].sum())
    assert before.daily is not None  # it has a signature
    days, own = in_weather(before.daily, before.used, fit, what, outdoor, shares)
    expected = float((days * shares).sum())
    error = UncertaintyComponent(
        Source(SourceCode.DAYS_BEFORE, what), fit.sum_error(outdoor, shares, own)
    )
    asked = (daily.start[use], outdoor, shares)
    other = season_doubts(before.daily, before.used, fit, what, expected, asked)
    meters = (part.times(expected) for part in meters_of(before, what))
    made = Estimate(expected, "kWh", merge((*meters, error, *other)))
    measured = Estimate(used, "kWh", merge([p.times(used) for p in meters_of(after, what)]))
    found = made - measured
    outside = int((after.used & ~seen).sum())
    return Avoided(made, measured, found, count, outside, worth_of(found))


@dataclass(frozen=True)
class Pair:
    """Two days of the same weather. start : when each begins [s]; outdoor [degC]; heat,
    electricity [kWh]; first of the day before, then of the day after."""

    start: tuple[float, float]
    outdoor: tuple[float, float]
    heat: tuple[float, float]
    electricity: tuple[float, float]


def days_alike(before: SeasonSeen, after: SeasonSeen) -> list[Pair]:
    """Whole days before and after that had the same outdoor temperature, the likest first; each
    day stands in one pair at most.

    Source: comparing two stretches is only fair at the same weather, common practice.
    """
    one, other = before.daily, after.daily
    if one is None or other is None:
        return []
    mine, theirs = np.flatnonzero(before.used), np.flatnonzero(after.used)
    apart = np.abs(one.outdoor[mine][:, None] - other.outdoor[theirs][None, :])
    taken_a, taken_b = set[int](), set[int]()
    found: list[Pair] = []

    def both(values: Floats, others: Floats, a: int, b: int) -> tuple[float, float]:
        return float(values[a]), float(others[b])

    for flat in np.argsort(apart, axis=None, kind="stable").tolist():
        row, column = divmod(flat, len(theirs))
        if apart[row, column] > ALIKE or len(found) == PAIRS:
            break
        a, b = int(mine[row]), int(theirs[column])
        if a in taken_a or b in taken_b:
            continue
        taken_a.add(a)
        taken_b.add(b)
        found.append(
            Pair(
                both(one.start, other.start, a, b),
                both(one.outdoor, other.outdoor, a, b),
                both(one.heat, other.heat, a, b),
                both(one.electricity, other.electricity, a, b),
            )
        )
    return found
