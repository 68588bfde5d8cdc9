"""A tariff as instants: which price holds when, by the wall clock, right on days of 23 and 25
hours; and what stands to be paid without any use."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.clock import DAY, instant_of, local_days, transitions
from ember.basis.series import Floats, Ints
from ember.description.tariff import Prices, StandingPer, Tariff

MINUTE = 60  # [s]


@dataclass(frozen=True)
class Slot:
    """One price of a tariff.

    Attributes
    ----------
    name : str
        of its band, or of the hours that no band names.
    price : float | None
        per kWh with VAT; None where the prices come as readings.
    prices : Prices
        to which it belongs.
    since : str | None
        local date from which these hold; None for the first.
    """

    name: str
    price: float | None
    prices: Prices
    since: str | None


@dataclass(frozen=True)
class Windows:
    """When each price holds, without a gap, in order of time.

    Attributes
    ----------
    start, stop : Ints
        arrays, (w,) Instants [s], half-open; each begins where the one before ends.
    slot : Ints
        array, (w,) Index into `slots`.
    slots : tuple[Slot, ...]
        every price of the tariff: of each edition first the hours that no band names.
    """

    start: Ints
    stop: Ints
    slot: Ints
    slots: tuple[Slot, ...]

    def slot_at(self, instants: Ints) -> Ints:
        """The price at instants, (n,) → index; those outside have the nearest."""
        k = np.searchsorted(self.start, instants, side="right") - 1
        found: Ints = self.slot[np.clip(k, 0, len(self.slot) - 1)]
        return found


def slots_of(tariff: Tariff) -> tuple[Slot, ...]:
    """Every price of a tariff, edition by edition."""
    found = []
    for prices in tariff.every:
        since = None if prices is tariff else prices.start.isoformat()  # type: ignore[attr-defined]
        with_vat = 1 + prices.vat
        by_readings = prices.by_the_hour is not None
        own = None if by_readings else prices.price * with_vat
        found.append(Slot(prices.name, own, prices, since))
        if not by_readings:
            found += [Slot(b.name, b.price * with_vat, prices, since) for b in prices.bands]
    return tuple(found)


@lru_cache(maxsize=64)
def windows(tariff: Tariff, start: int, stop: int, zone: ZoneInfo) -> Windows:
    """Which price holds when, between two instants [s].

    The wall clock decides: an hour that it shows twice has its price twice, one that it never
    shows has none.
    """
    slots = slots_of(tariff)
    edges = _editions(tariff, start, stop, zone)
    first = [k for k, slot in enumerate(slots) if k == 0 or slot.prices is not slots[k - 1].prices]
    begins: list[Ints] = []
    which: list[Ints] = []
    since, offset = transitions(zone, start, stop)
    for prices, at, (begin, end) in zip(tariff.every, first, edges, strict=True):
        if begin >= end:
            continue
        for k, (here, there) in enumerate(zip(since, [*since[1:], stop], strict=True)):
            low, high = max(begin, int(here)), min(end, int(there))
            if low < high:
                found, slot = _on_one_clock(prices, low, high, int(offset[k]))
                begins.append(found)
                which.append(slot + 1 + at)
    begin_all, slot_all = np.concatenate(begins), np.concatenate(which)
    new = np.flatnonzero(np.diff(slot_all, prepend=-1) != 0)
    begin_all, slot_all = begin_all[new], slot_all[new]
    return Windows(begin_all, np.append(begin_all[1:], stop), slot_all, slots)


def _editions(tariff: Tariff, start: int, stop: int, zone: ZoneInfo) -> list[tuple[int, int]]:
    """Between which instants each of the tariff's editions holds [s]."""
    dates = [instant_of(one.start, zone) for one in tariff.changes]
    begins = [start, *(min(max(date, start), stop) for date in dates)]
    return list(zip(begins, [*begins[1:], stop], strict=True))


def _on_one_clock(prices: Prices, start: int, stop: int, offset: int) -> tuple[Ints, Ints]:
    """Where each price begins while the clock is not moved: instants, and the band, −1 for none."""
    begins, band = [start], [-1]
    if prices.by_the_hour is None and prices.bands:
        day = (start + offset) // DAY - 1
        last = (stop + offset - 1) // DAY
        spans = []
        while day <= last:
            wall = datetime.fromtimestamp(day * DAY, UTC)
            for k, one in enumerate(prices.bands):
                if wall.weekday() in one.weekdays and wall.month in one.months:
                    begin, close = (day * DAY - offset + m * MINUTE for m in one.minutes())
                    if close > start and begin < stop:
                        spans.append((max(begin, start), min(close, stop), k))
            day += 1
        spans.sort()
        for k, (begin, close, named) in enumerate(spans):
            # A window that runs on into a season of other bands ends where theirs begin.
            following = spans[k + 1][0] if k + 1 < len(spans) else close
            begins += [begin, min(close, following)]
            band += [named, -1]
    found, which = np.array(begins, np.int64), np.array(band, np.int64)
    keep = np.append(found[1:] > found[:-1], True) & (found < stop)
    return found[keep], which[keep]


@lru_cache(maxsize=64)
def _standing(tariff: Tariff, start: int, stop: int, zone: ZoneInfo) -> tuple[Floats, Floats]:
    days, midnights = local_days(start, stop, zone)
    charges = np.empty(len(days))
    every = tariff.every
    dates = [one.start for one in tariff.changes]
    for k, day in enumerate(days):
        prices = every[sum(date <= day for date in dates)]
        charge = prices.standing_charge * (1 + prices.vat)
        if prices.standing_per == StandingPer.MONTH:
            following = (day.replace(day=1) + timedelta(days=32)).replace(day=1)
            charge /= (following - day.replace(day=1)).days
        charges[k] = charge
    return midnights.astype(np.float64), np.concatenate(([0.0], np.cumsum(charges)))


def standing_charge(
    tariff: Tariff, periods: "list[tuple[float, float]]", zone: ZoneInfo
) -> list[float]:
    """What stands to be paid in each period whatever is used; of a day its share.

    Parameters
    ----------
    periods : list of (from, to)
        instants [s].
    """
    if not periods:
        return []
    start, stop = (int(edge([p[k] for p in periods])) for k, edge in enumerate((min, max)))
    midnights, paid = _standing(tariff, start, stop, zone)
    begin, end = (np.interp([p[k] for p in periods], midnights, paid) for k in (0, 1))
    return [float(one) for one in end - begin]
