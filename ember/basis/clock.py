"""Local time: the zone's rules come from zoneinfo, here they are applied to whole arrays.

Instants are whole seconds since 1970-01-01T00:00Z; local times are seconds since the same
date on the wall clock.
"""

from datetime import UTC, date, datetime, timedelta
from functools import cache
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np
from numpy.typing import NDArray

from ember.basis.errors import DescriptionError

Seconds = NDArray[np.int64]
DAY = 86_400
HOUR = 3600  # [s]
# 1900 … 2200; beyond them no clock is changed [s]
CLOCK_FIRST, LAST = -2_208_988_800, 7_258_118_400


@cache
def zone_named(name: str) -> ZoneInfo:
    """The IANA zone of that name. Raises DescriptionError if there is none."""
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError) as error:
        raise DescriptionError(
            f"zone: '{name[:60]}' is no time zone of the IANA list; write for instance 'CET' or "
            "'UTC'."
        ) from error


def _offset(zone: ZoneInfo, instant: int) -> int:
    instant = min(max(instant, CLOCK_FIRST), LAST)
    shift = datetime.fromtimestamp(instant, UTC).astimezone(zone).utcoffset()
    assert shift is not None
    return int(shift.total_seconds())


def transitions(zone: ZoneInfo, start: int, stop: int) -> tuple[Seconds, Seconds]:
    """Where the zone's offset changes between two instants.

    Returns
    -------
    since : array, (m,)  Instants from which an offset holds [s]; the first is `start`.
    offset : array, (m,)  Local time minus UTC from then on [s].
    """
    since, offset = [start], [_offset(zone, start)]
    step, here, stop = 7 * DAY, max(start, CLOCK_FIRST), min(stop, LAST)
    while here < stop:
        there = min(here + step, stop)
        if _offset(zone, there) != offset[-1]:
            low, high = here, there
            while high - low > 1:
                middle = (low + high) // 2
                low, high = (middle, high) if _offset(zone, middle) == offset[-1] else (low, middle)
            since.append(high)
            offset.append(_offset(zone, high))
            here = high
        else:
            here = there
    return np.array(since, np.int64), np.array(offset, np.int64)


def local_from_utc(instants: Seconds, zone: ZoneInfo) -> Seconds:
    """Wall-clock seconds of instants, (n,) in any order."""
    if not len(instants):
        return instants.copy()
    since, offset = transitions(zone, int(instants.min()), int(instants.max()) + 1)
    if len(since) == 1:
        return instants + int(offset[0])
    local: Seconds = instants + offset[np.searchsorted(since, instants, side="right") - 1]
    return local


def utc_from_local(local: Seconds, zone: ZoneInfo) -> tuple[Seconds, Seconds, Seconds]:
    """Instants of naive local times in the order in which they were logged.

    An hour that the clock shows twice is told apart by the order of the rows: the first
    time through it is summer time, after a step back it is winter time.

    Returns
    -------
    instants : array, (n,)  [s]
    doubled : array  Indices of rows inside a doubled hour.
    missing : array  Indices of rows at times that the clock never showed; they are read as
        if the clock had not been moved.
    """
    if not len(local):
        empty = np.empty(0, np.int64)
        return local.copy(), empty, empty
    low, high = int(local.min()) - DAY, int(local.max()) + DAY
    since, offset = transitions(zone, low, high)
    if len(since) == 1:
        empty = np.empty(0, np.int64)
        return local - offset[0], empty, empty
    # The wall clock at each change, by the old and by the new offset.
    by_old, by_new = since[1:] + offset[:-1], since[1:] + offset[1:]
    index = np.searchsorted(np.minimum(by_old, by_new), local, side="right")
    instants = local - offset[index]
    doubled, missing = [], []
    for k in range(len(by_old)):
        rows = np.flatnonzero((index == k + 1) & (local < max(by_old[k], by_new[k])))
        if not len(rows):
            continue
        instants[rows] = local[rows] - offset[k]
        if by_new[k] > by_old[k]:
            missing.append(rows)
            continue
        doubled.append(rows)
        instants[rows] += (offset[k] - offset[k + 1]) * _second_pass(local, rows, by_new[k])
    return instants, _joined(doubled), _joined(missing)


def _second_pass(local: Seconds, rows: Seconds, began: int) -> NDArray[np.bool_]:
    """Which rows of a doubled hour belong to its second time round."""
    steps = np.diff(local[rows])
    back = np.flatnonzero(steps < 0)
    if not len(back):  # an hourly logger shows the same time twice
        back = np.flatnonzero(steps == 0)
    second = np.zeros(len(rows), np.bool_)
    if len(back):
        second[back[0] + 1 :] = True
    return second


def _joined(pieces: list[Seconds]) -> Seconds:
    return np.concatenate(pieces) if pieces else np.empty(0, np.int64)


def instant_of(day: date, zone: ZoneInfo, seconds: int = 0) -> int:
    """The instant at which a wall clock in the zone shows `seconds` past midnight of a day [s]."""
    wall = datetime(day.year, day.month, day.day) + timedelta(seconds=seconds)
    return int(wall.replace(tzinfo=zone).timestamp())


def local_days(start: int, stop: int, zone: ZoneInfo) -> tuple[list[date], Seconds]:
    """The local days that a stretch of time touches.

    Returns
    -------
    days : list of date, (d,)
    edges : array, (d + 1,)  The instants of their midnights, the last day's end included.
    """
    first = datetime.fromtimestamp(start, zone).date()
    last = datetime.fromtimestamp(max(stop - 1, start), zone).date()
    count = (last - first).days + 1
    days = [first + timedelta(days=k) for k in range(count)]
    edges = [instant_of(day, zone) for day in [*days, last + timedelta(days=1)]]
    return days, np.array(edges, np.int64)


def wall_clock(instant: float, zone: ZoneInfo) -> datetime:
    """What the wall clock shows at an instant: a datetime without zone."""
    return datetime.fromtimestamp(instant, zone).replace(tzinfo=None)


def iso_local(instant: float, zone: ZoneInfo) -> str:
    """An instant as the wall clock shows it, to the minute: 2026-01-22 05:10."""
    return datetime.fromtimestamp(instant, zone).strftime("%Y-%m-%d %H:%M")
