"""The tariff: prices by time of day, weekday and season, and how they change on dates."""

from datetime import date, time
from enum import StrEnum
from typing import Annotated

from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass

from ember.basis.errors import DescriptionError
from ember.description.house import Name, NotNegative, Number

_strict = ConfigDict(extra="forbid", allow_inf_nan=False)

DAY_MINUTES = 1440
WEEK_MINUTES = 7 * DAY_MINUTES
EVERY_DAY = (0, 1, 2, 3, 4, 5, 6)
EVERY_MONTH = (1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12)


@dataclass(frozen=True, config=_strict)
class Band:
    """A price by time of day, local time; a window may cross midnight, and is a whole day where
    it ends when it begins.

    Attributes
    ----------
    price : Number
        currency per kWh.
    start, end : time
        wall clock, half-open; end ≤ start crosses midnight.
    weekdays : tuple[int, ...]
        days on which the window *begins*, 0 = Monday.
    share : float | None
        of the electricity that falls into the band, as a bill says; used where readings do not tell
        the hours.
    months : tuple[int, ...]
        in which the window begins, 1 = January: the season of the band.
    """

    name: Name
    price: Number
    start: time
    end: time
    weekdays: Annotated[
        tuple[Annotated[int, Field(ge=0, le=6)], ...], Field(min_length=1, max_length=7)
    ] = EVERY_DAY
    share: Annotated[float, Field(ge=0, le=1)] | None = None
    months: Annotated[
        tuple[Annotated[int, Field(ge=1, le=12)], ...], Field(min_length=1, max_length=12)
    ] = EVERY_MONTH

    def minutes(self) -> tuple[int, int]:
        """From and to [min after midnight of the day on which it begins]."""
        begin, close = (t.hour * 60 + t.minute for t in (self.start, self.end))
        return begin, close if close > begin else close + DAY_MINUTES


@dataclass(frozen=True, config=_strict)
class Tier:
    """What a kWh costs more from so many kWh a calendar month on."""

    above_kwh: NotNegative
    price_more: Number


class StandingPer(StrEnum):
    """For how long a standing charge is."""

    DAY = "day"
    MONTH = "month"


@dataclass(frozen=True, config=_strict)
class ByTheHour:
    """Prices are the readings of `electricity_price`; `add` : to each of them, per kWh."""

    add: Number = 0.0


@dataclass(frozen=True, config=_strict)
class Prices:
    """What holds at a time.

    Attributes
    ----------
    price : Number
        of every hour that no band names, per kWh.
    name : Name
        of these hours.
    standing_charge : NotNegative
        a day or a month, as `standing_per` says.
    vat : float
        share that is added to every price and to the standing charge.
    bands : tuple[Band, ...]
        prices by time of day.
    tiers : tuple[Tier, ...]
        what a kWh costs more once the month's use is above a limit.
    by_the_hour : ByTheHour | None
        prices come as readings; `price` and `bands` are not used then.
    export_price : Number
        paid for a kWh given to the grid, as it is paid: no VAT is added.
    """

    price: Number
    name: Name = "day"
    standing_charge: NotNegative = 0.0
    standing_per: StandingPer = StandingPer.DAY
    vat: Annotated[float, Field(ge=0, le=1)] = 0.0
    bands: Annotated[tuple[Band, ...], Field(max_length=48)] = ()
    tiers: Annotated[tuple[Tier, ...], Field(max_length=8)] = ()
    by_the_hour: ByTheHour | None = None
    export_price: Number = 0.0

    def __post_init__(self) -> None:
        limits = [tier.above_kwh for tier in self.tiers]
        if limits != sorted(set(limits)):
            raise DescriptionError("tiers: write the limits in rising order, each once.")
        for month in {m for band in self.bands for m in band.months}:
            week(self, month)


@dataclass(frozen=True, config=_strict, kw_only=True)
class PricesFrom(Prices):
    """Prices that hold from the beginning of a local day on."""

    start: date


@dataclass(frozen=True, config=_strict)
class Tariff(Prices):
    """Prices, and how they change on dates.

    Attributes
    ----------
    changes : tuple[PricesFrom, ...]
        in order of time; each holds until the next.
    other_uses_kwh : NotNegative
        what else the supply feeds in a month [kWh]; it fills the tiers first.
    """

    currency: Name = "EUR"
    changes: Annotated[tuple[PricesFrom, ...], Field(max_length=100)] = ()
    other_uses_kwh: NotNegative = 0.0

    def __post_init__(self) -> None:
        super().__post_init__()
        starts = [one.start for one in self.changes]
        if starts != sorted(set(starts)):
            raise DescriptionError("changes: write them in order of time, one a day at most.")

    @property
    def every(self) -> tuple[Prices, ...]:
        """What holds at first, and what from each date on."""
        return self, *self.changes


def week(prices: Prices, month: int) -> list[list[tuple[int, int, int]]]:
    """A week of a month on the wall clock.

    Parameters
    ----------
    month : int
        1 = January.

    Returns
    -------
    A list a weekday, Monday first, of (from, to) [min after midnight] and the index of the band,
    −1 where none is named; the whole day in order.

    Raises
    ------
    DescriptionError
        if two bands claim the same time.
    """
    claimed: list[tuple[int, int, int]] = []
    for k, band in enumerate(prices.bands):
        if month not in band.months:
            continue
        begin, close = band.minutes()
        for day in set(band.weekdays):
            first, last = day * DAY_MINUTES + begin, day * DAY_MINUTES + close
            claimed.append((first, min(last, WEEK_MINUTES), k))
            if last > WEEK_MINUTES:
                claimed.append((0, last - WEEK_MINUTES, k))
    claimed.sort()
    days: list[list[tuple[int, int, int]]] = [[] for _ in EVERY_DAY]
    here = 0
    for begin, close, k in [*claimed, (WEEK_MINUTES, WEEK_MINUTES, -1)]:
        if begin < here:
            other = next(b for a, c, b in claimed if a < close and c > begin and b != k)
            names = sorted((other, k))
            one, two = (prices.bands[n].name for n in names)
            raise DescriptionError(f"bands: '{one}' and '{two}' overlap.")
        _laid(days, here, begin, -1)
        _laid(days, begin, close, k)
        here = close
    return days


def _laid(days: list[list[tuple[int, int, int]]], begin: int, close: int, band: int) -> None:
    """Puts a stretch of a week into its days."""
    while begin < close:
        day = begin // DAY_MINUTES
        stop = min(close, (day + 1) * DAY_MINUTES)
        days[day].append((begin % DAY_MINUTES, stop - day * DAY_MINUTES, band))
        begin = stop


def seasons(prices: Prices) -> list[tuple[tuple[int, ...], list[list[tuple[int, int, int]]]]]:
    """The weeks that a year has, each with the months in which it holds (1 = January)."""
    found: list[tuple[tuple[int, ...], list[list[tuple[int, int, int]]]]] = []
    for month in EVERY_MONTH:
        mine = week(prices, month)
        for k, (months, other) in enumerate(found):
            if other == mine:
                found[k] = (*months, month), other
                break
        else:
            found.append(((month,), mine))
    return found
