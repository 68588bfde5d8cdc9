"""What a chart draws of the readings: the least and greatest value in every pixel or so.

No arithmetic of the job: a reading is picked, never combined, so a three-minute defrost is seen in
a year; the mean beside it comes from the overview.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from server.readings.codec import CODEC_QUARTER, MONDAY, WEEK, Quarters, overview
from server.readings.store import NotThere
from server.systems.models import System

Values = NDArray[np.floating]
LONG = 15 * 86_400  # from this length on the overview is read [s]


@dataclass(frozen=True)
class Lane:
    """One channel over a window. start, step [s]; low, high, mean : arrays, NaN where not known;
    mean is None where low and high are the readings themselves."""

    channel: str
    start: float
    step: float
    low: Values
    high: Values
    mean: Values | None = None


def long_lanes(
    system: System, channels: tuple[str, ...], start: float, stop: float, points: int
) -> list[Lane]:
    """The lanes of a window of weeks or more. Raises StoreError where nothing is stored."""
    weeks = dict(
        system.blocks.filter(
            week__gte=(start - MONDAY) // WEEK, week__lt=-(-(stop - MONDAY) // WEEK)
        ).values_list("week", "overview")
    )
    if not weeks:
        raise NotThere(f"{system.name}: no readings are stored for this time.")
    first, last = min(weeks), max(weeks)
    per = WEEK // CODEC_QUARTER
    whole = {
        channel: tuple(np.full((last - first + 1) * per, np.nan, np.float32) for _ in range(3))
        for channel in channels
    }
    for week, payload in weeks.items():
        at = (week - first) * per
        for channel, parts in overview(bytes(payload), channels).items():
            for k, part in enumerate(parts):
                whole[channel][k][at : at + len(part)] = part
    begin = MONDAY + first * WEEK
    return [
        of_quarters(channel, begin, (low, mean, high), start, stop, points)
        for channel, (low, mean, high) in whole.items()
    ]


def of_quarters(
    channel: str, begin: int, quarters: Quarters, start: float, stop: float, points: int
) -> Lane:
    """A lane from 15-minute values that begin at an instant, between two others [s]."""
    low, mean, high = quarters
    a = max(0, int((start - begin) // CODEC_QUARTER))
    b = min(len(low), int(-(-(stop - begin) // CODEC_QUARTER)))
    here, step = slice(a, max(a, b)), float(CODEC_QUARTER)
    lane = decimated(channel, begin + a * step, step, low[here], high[here], points)
    per = round(lane.step / step)
    n = len(lane.low)
    padded = np.full(n * per, np.nan)
    padded[: b - a] = mean[here]
    table = padded.reshape(n, per)
    known = np.isfinite(table)
    with np.errstate(invalid="ignore", divide="ignore"):
        middle = np.where(known, table, 0.0).sum(axis=1) / known.sum(axis=1)
    return Lane(channel, lane.start, lane.step, lane.low, lane.high, middle)


def decimated(
    channel: str, start: float, step: float, low: Values, high: Values, points: int
) -> Lane:
    """A lane of at most `points` points, each with the least and greatest value in it."""
    per = max(1, -(-len(low) // points))
    if per == 1:
        return Lane(channel, start, step, low, high)
    n = -(-len(low) // per)
    padded = [np.full(n * per, np.nan) for _ in range(2)]
    padded[0][: len(low)], padded[1][: len(high)] = low, high
    least = np.fmin.reduce(padded[0].reshape(n, per), axis=1)
    greatest = np.fmax.reduce(padded[1].reshape(n, per), axis=1)
    return Lane(channel, start, step * per, least, greatest)
