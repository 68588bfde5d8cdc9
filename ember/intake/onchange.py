"""Logs written on change: a row only when something changed, dense while things move and silent
while they stand. The last value holds until the next, up to the logger's heartbeat; where all
channels are silent longer there is a gap."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ember.basis.clock import Seconds
from ember.basis.series import Bools, Floats

ONCHANGE_ALIKE = 0.25  # of the median, within which gaps are of one step
REGULAR = 0.7  # of the gaps that are, from which rows come by the clock
ONCHANGE_UNEVEN = 2.0  # of the 95th percentile of the gaps over the median, from which they do not
ONCHANGE_LEAST = 50  # readings of a column that say how it is written
ONCHANGE_SILENT = 0.03  # of the gaps that are longer than usual, from which they are looked at
STANDS = 0.8  # of what readings move from row to row, that they move over a silence
HEARTBEAT = 1800.0  # where none is stated and silences pile up nowhere [s], common practice, chosen
ONCHANGE_FULL = 0.99  # of the rows in which a column has a reading, that it is written as they are
ONCHANGE_SHORTEST = 120.0  # silence that may be a heartbeat [s]
ONCHANGE_LONGEST = 6 * 3600.0
PILED = 0.03  # within which silences are of one length
PILE = 8  # silences of one length, at least, that are a heartbeat
BEYOND = 0.1  # of those in it, that may be longer: outages
ONCHANGE_STEPS = (60, 120, 300)  # of the grid [s]


@dataclass(frozen=True)
class OnChange:
    """How such a log is held. heartbeat [s]

    Attributes
    ----------
    told : str
        by what it is known, in words, empty where it is assumed
    all_times : Seconds
        array, (n,) Of every row, in order [s].
    """

    heartbeat: float
    told: str
    all_times: Seconds


def uneven(times: Seconds) -> bool:
    """Whether the readings of a column come on change and not by the clock.

    Parameters
    ----------
    times : array, (n,)
        Its readings, in order [s].
    """
    gaps = np.diff(times)
    gaps = gaps[gaps > 0]
    if len(gaps) < ONCHANGE_LEAST:
        return False
    middle = float(np.median(gaps))
    regular = float(np.mean(np.abs(gaps - middle) <= ONCHANGE_ALIKE * middle))
    return regular < REGULAR and float(np.percentile(gaps, 95)) > ONCHANGE_UNEVEN * middle


def stands(times: Seconds, columns: Sequence[Floats]) -> bool:
    """Whether rows are lacking where things stand, and not by chance: over a silence the readings
    then move less than from one row to the next, and not more."""
    gaps = np.diff(times)
    middle = float(np.median(gaps[gaps > 0])) if (gaps > 0).any() else 0.0
    long = gaps > (1 + 2 * ONCHANGE_ALIKE) * middle
    if not middle or np.mean(long) < ONCHANGE_SILENT:
        return False
    ratios = []
    for values in columns:
        moved = np.abs(np.diff(values))
        known = np.isfinite(moved)
        over, within = moved[known & long], moved[known & ~long]
        if len(over) >= ONCHANGE_LEAST and len(within) >= ONCHANGE_LEAST and within.mean() > 0:
            ratios.append(float(over.mean() / within.mean()))
    return bool(ratios) and float(np.median(ratios)) < 1.0 and min(ratios) < STANDS


def on_change(times: Seconds, columns: Sequence[Floats], stated: float | None) -> OnChange | None:
    """How a log is held that is written on change; None for one that comes by the clock.

    Parameters
    ----------
    times : array, (n,)
        Of all rows, in order [s].
    columns : Sequence[Floats]
        readings of each, (n,), NaN where it has none.
    stated : float | None
        heartbeat as described [s].

    Source: common practice.
    """
    gaps = np.diff(times)
    by_clock = len(gaps) > 0 and gaps[0] > 0 and bool((gaps == gaps[0]).all())
    every = not by_clock and uneven(times)
    looked = []
    for values in columns:
        mask = np.isfinite(values)
        count = int(np.count_nonzero(mask))
        if count > ONCHANGE_LEAST:
            looked.append(every if count > ONCHANGE_FULL * len(times) else uneven(times[mask]))
    if not looked or (np.mean(looked) < 0.5 and (by_clock or not stands(times, columns))):
        return None
    if stated is not None:
        return OnChange(stated, "as described", times)
    found = _piled(np.diff(np.unique(times)))
    if found is None:
        return OnChange(HEARTBEAT, "", times)
    return OnChange(found, "where silences pile up", times)


def _piled(gaps: NDArray[Any]) -> float | None:
    """The length at which silences pile up: many of one length, and hardly any longer."""
    long = np.sort(gaps[(gaps >= ONCHANGE_SHORTEST) & (gaps <= ONCHANGE_LONGEST)]).astype(
        np.float64
    )
    for length in long[::-1]:
        inside = int(np.searchsorted(long, length * (1 + PILED), side="right")) - int(
            np.searchsorted(long, length * (1 - PILED))
        )
        beyond = len(gaps[gaps > length * (1 + PILED)])
        if inside >= PILE and beyond <= BEYOND * inside:
            return float(length)
    return None


def grid_step(times: Seconds) -> int:
    """The step of the grid for such a log [s]."""
    middle = float(np.median(np.diff(np.unique(times))))
    return next((s for s in ONCHANGE_STEPS if middle <= 1.5 * s), ONCHANGE_STEPS[-1])


def held(
    times: Seconds, values: Floats, how: OnChange, start: int, step: int, n: int, counter: bool
) -> tuple[Floats, float]:
    """One column on the grid, each value held until the next.

    Parameters
    ----------
    times, values : Seconds
        arrays, (k,) Its readings, in order of time.
    start, step, n : int
        of the grid [s].
    counter : bool
        a register, whose reading at each cell's beginning is taken; else the mean over the cell by
        time.

    Returns
    -------
    array, (n,); NaN where it is not known for half a cell. And the time held over silences longer
    than a cell [s].
    """
    known = np.isfinite(values)
    times, values = times[known], values[known]
    result = np.full(n, np.nan)
    if not len(times):
        return result, 0.0
    every = np.unique(how.all_times)
    gaps = np.diff(every)
    wide = gaps > how.heartbeat * (1 + PILED)
    dies, lives = every[:-1][wide] + how.heartbeat, every[1:][wide]
    edges = start + step * np.arange(n + 1, dtype=np.int64)
    if counter:
        k = np.searchsorted(times, edges[:-1], side="right") - 1
        good = (k >= 0) & (edges[:-1] <= times[-1] + how.heartbeat)
        good &= ~_between(edges[:-1], dies, lives)
        result[good] = values[k[good]]
        return result, 0.0
    last = min(float(times[-1]) + how.heartbeat, float(edges[-1]))
    marks = np.unique(np.concatenate([times, dies, lives, [last]]).astype(np.float64))
    marks = marks[marks <= last]
    place = np.searchsorted(times, marks[:-1], side="right") - 1
    here = np.where(place >= 0, values[np.maximum(place, 0)], np.nan)
    # Within a silence, and after it until the column's own next reading, nothing is known.
    here[_between(marks[:-1], dies, lives)] = np.nan
    if len(lives):
        after = np.searchsorted(lives, marks[:-1], side="right") - 1
        since = np.where(after >= 0, lives[np.maximum(after, 0)], -np.inf)
        here[(after >= 0) & (times[np.maximum(place, 0)] < since)] = np.nan
    length = np.diff(marks)
    fine = np.isfinite(here)
    total = np.concatenate([[0.0], np.cumsum(np.where(fine, here, 0.0) * length)])
    time = np.concatenate([[0.0], np.cumsum(np.where(fine, length, 0.0))])
    amount = np.diff(np.interp(edges, marks, total))
    seconds = np.diff(np.interp(edges, marks, time))
    good = seconds >= 0.5 * step
    result[good] = amount[good] / seconds[good]
    return result, float(length[fine & (length > step)].sum())


def _between(instants: NDArray[Any], dies: NDArray[Any], lives: NDArray[Any]) -> Bools:
    """Which instants lie in a silence, (k,)."""
    k = np.searchsorted(dies, instants, side="right") - 1
    inside: Bools = k >= 0
    if len(lives):
        inside &= instants < lives[np.maximum(k, 0)]
    return inside
