"""What a chart draws: each lane's least and greatest value in every pixel or so.

No arithmetic of the job: a reading is only picked, never combined, so a three-minute defrost is
seen in a year.
"""

from dataclasses import dataclass

import numpy as np

from ember.trace import Floats
from server.installations.models import System
from server.logbook.codec import MONDAY, QUARTER, WEEK, overview
from server.logbook.store import StoreError, trace_of

POINTS = 1000  # pairs of least and greatest value a lane
LONG = 15 * 86_400  # from this length on the overview is read [s]


@dataclass(frozen=True)
class Lane:
    """One channel over a window. start, step [s]; low, high : arrays, NaN where not known."""

    channel: str
    start: float
    step: float
    low: Floats
    high: Floats


def lanes(
    system: System, channels: tuple[str, ...], start: float, stop: float, points: int = POINTS
) -> list[Lane]:
    """The lanes of a window. Raises StoreError where nothing is stored."""
    if stop - start > LONG:
        return [_decimated(c, *_overview(system, c, start, stop), points) for c in channels]
    trace = trace_of(system, start, stop, channels)
    nothing = np.full(len(trace), np.nan)
    found = []
    for channel in channels:
        values = trace.channels.get(channel, nothing)
        found.append(_decimated(channel, trace.start, float(trace.step), values, values, points))
    return found


def _overview(
    system: System, channel: str, start: float, stop: float
) -> tuple[float, float, Floats, Floats]:
    """Least and greatest values of a channel at the overview's step."""
    weeks = dict(
        system.blocks.filter(
            week__gte=(start - MONDAY) // WEEK, week__lt=-(-(stop - MONDAY) // WEEK)
        ).values_list("week", "overview")
    )
    if not weeks:
        raise StoreError(f"{system.name}: no readings are stored for this time.")
    first, last = min(weeks), max(weeks)
    per = WEEK // QUARTER
    low, high = (np.full((last - first + 1) * per, np.nan) for _ in range(2))
    for week, payload in weeks.items():
        here = slice((week - first) * per, (week - first + 1) * per)
        low[here], _, high[here] = overview(bytes(payload), channel)
    begin = MONDAY + first * WEEK
    a = max(0, int((start - begin) // QUARTER))
    b = min(len(low), int(-(-(stop - begin) // QUARTER)))
    return begin + a * QUARTER, float(QUARTER), low[a:b], high[a:b]


def _decimated(
    channel: str, start: float, step: float, low: Floats, high: Floats, points: int
) -> Lane:
    per = max(1, -(-len(low) // points))
    if per > 1:
        n = -(-len(low) // per)
        padded = [np.full(n * per, np.nan) for _ in range(2)]
        padded[0][: len(low)], padded[1][: len(high)] = low, high
        least = np.fmin.reduce(padded[0].reshape(n, per), axis=1)
        greatest = np.fmax.reduce(padded[1].reshape(n, per), axis=1)
        return Lane(channel, start, step * per, least, greatest)
    return Lane(channel, start, step, low, high)
