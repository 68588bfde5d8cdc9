"""Starts: how long a run takes to settle, and what that costs."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ember.basis.series import Floats, Ints
from ember.events.cells import CellArrays, windows
from ember.events.runs import Runs
from ember.states.detection import DETECTION_START_UP
from ember.states.state import State

STARTS_SHOWN = 1800.0  # of each run is laid over the others [s]
SETTLED_FROM = 900.0  # the COP of a run has settled from here [s], common practice
SETTLED_LEAST = 420.0  # so much of it is needed [s]
STARTS_SMOOTH = 180.0  # over which a COP is taken in the search for 90 % [s]
NEARLY = 0.9  # of the settled COP
STARTS_COARSEST = 120  # readings further apart show no start [s]


@dataclass(frozen=True)
class Starts:
    """Every start that was seen, arrays (k,) and (k, m).

    Attributes
    ----------
    run : Ints
        index of its run.
    power, heat : NDArray[np.float32]
        means over each cell of the first half hour [W], NaN once the run stops, defrosts or changes
        its mode.
    settled : Floats
        COP from a quarter of an hour on.
    to_90 : Floats
        until the COP stays at 90 % of that [s].
    loss : Floats
        E − Q ÷ settled COP over the first ten minutes [J]. NaN where a run was too short to tell.
    by_like : Ints
        whether `settled` was taken from runs of the same mode at like outdoor temperature, because
        this one never settled.
    """

    step: int
    run: Ints
    power: NDArray[np.float32]
    heat: NDArray[np.float32]
    settled: Floats
    to_90: Floats
    loss: Floats
    by_like: Ints

    def __len__(self) -> int:
        return len(self.run)


def start_loss(electricity: Floats, heat: Floats, settled: Floats) -> Floats:
    """What a start costs: the electricity beyond what its heat takes at the settled COP.

    Parameters
    ----------
    electricity, heat : Floats
        arrays, (k,) Over the start [J].
    settled : array, (k,)
        COP.

    Returns
    -------
    array, (k,)  [J].

    Source: common practice.
    """
    with np.errstate(invalid="ignore", divide="ignore"):
        result: Floats = np.where(settled > 0, electricity - heat / settled, np.nan)
    return result


def starts(cells: CellArrays, table: Runs) -> Starts | None:
    """The starts of a record; None where heat or power is not known cell by cell, or too coarsely.

    Source: settling and start loss, common practice.
    """
    step = cells.step
    if cells.heat is None or cells.electricity is None or step > STARTS_COARSEST:
        return None
    cooling = table.mode == State.COOLING
    run = np.flatnonzero((table.begun > 0) & ~cooling)
    first, length = table.start[run], round(STARTS_SHOWN / step)
    power = windows(cells.electricity, first, length) / step
    heat = windows(cells.heat, first, length) / step
    # Only while the run goes on in the mode in which it began.
    state = windows(cells.states.state.astype(np.float64), first, length)
    young = round(DETECTION_START_UP / step)
    begins = np.where(
        (state[:, : young + 1] == State.HOT_WATER).any(axis=1), State.HOT_WATER, State.HEATING
    )
    same = (state == State.START_UP) | (state == begins[:, None])
    lasting = np.logical_and.accumulate(same, axis=1)
    power[~lasting] = np.nan
    heat[~lasting] = np.nan

    settled = _settled(power, heat, step)
    own = np.isfinite(settled)
    like = _by_like(settled, begins, table.outdoor[run])
    settled = np.where(own, settled, like)
    inside = slice(0, young)
    with np.errstate(invalid="ignore"):
        used = np.nansum(power[:, inside], axis=1) * step
        given = np.nansum(heat[:, inside], axis=1) * step
    unknown = np.isnan(power[:, 0])
    loss = np.where(unknown, np.nan, start_loss(used, given, settled))
    to_90 = np.where(own, _to_90(power, heat, settled, step), np.nan)
    return Starts(
        step=step,
        run=run,
        power=power.astype(np.float32),
        heat=heat.astype(np.float32),
        settled=settled,
        to_90=to_90,
        loss=loss,
        by_like=(~own & np.isfinite(settled)).astype(np.int64),
    )


def _settled(power: Floats, heat: Floats, step: int) -> Floats:
    late = slice(round(SETTLED_FROM / step), None)
    known = np.isfinite(power[:, late]) & np.isfinite(heat[:, late])
    over = np.where(known, heat[:, late], 0.0).sum(axis=1)
    under = np.where(known, power[:, late], 0.0).sum(axis=1)
    enough = known.sum(axis=1) * step >= SETTLED_LEAST
    with np.errstate(invalid="ignore", divide="ignore"):
        result: Floats = np.where(enough & (under > 0), over / under, np.nan)
    return result


def _by_like(settled: Floats, mode: Ints, outdoor: Floats) -> Floats:
    """The median settled COP of the same mode within bands of 3 K outdoors; NaN where none is."""
    result = np.full(len(settled), np.nan)
    band = np.where(np.isfinite(outdoor), np.floor(np.nan_to_num(outdoor) / 3), 999)
    key = mode * 10_000 + band.astype(np.int64)
    for one in np.unique(key).tolist():
        here = key == one
        known = settled[here & np.isfinite(settled)]
        if len(known) >= 3:
            result[here] = np.median(known)
    return result


def _to_90(power: Floats, heat: Floats, settled: Floats, step: int) -> Floats:
    """When the COP over three minutes first stays at 90 % of the settled one [s]."""
    per = max(1, round(STARTS_SMOOTH / step))
    k, m = power.shape
    if m < 2 * per:
        return np.full(k, np.nan)

    def rolling(values: Floats) -> Floats:
        total = np.cumsum(np.nan_to_num(values), axis=1)
        padded = np.concatenate([np.zeros((k, 1)), total], axis=1)
        moved: Floats = padded[:, per:] - padded[:, :-per]
        return moved

    over, under = rolling(heat), rolling(power)
    with np.errstate(invalid="ignore", divide="ignore"):
        good = (under > 0) & (over / under >= NEARLY * settled[:, None])
    # It stays so through the next three minutes as well.
    stays = good[:, : -per or None].copy()
    for shift in range(1, per + 1):
        stays &= good[:, shift : shift + stays.shape[1]]
    found = stays.any(axis=1)
    result: Floats = np.where(found, (stays.argmax(axis=1) + per / 2) * step, np.nan)
    return result


@dataclass(frozen=True)
class Overlay:
    """Starts laid over one another, by minutes since the start.

    Attributes
    ----------
    minutes : Floats
        array, (m,).
    instantaneous, since_start : Floats
        COP, median and quartiles, each (3, m); what a display would read at the moment, and what
        the run has made since it began.
    power, heat : Floats
        medians [W], (m,).
    count : Ints
        how many starts there are at each minute.
    """

    minutes: Floats
    instantaneous: Floats
    since_start: Floats
    power: Floats
    heat: Floats
    count: Ints


LEAST_SHOWN = 3  # starts, for a median to be drawn


def overlay(found: Starts, pick: Ints) -> Overlay:
    """Some of the starts laid over one another.

    Parameters
    ----------
    pick : Ints
        array, (p,)  Indices.
    """
    power = found.power[pick].astype(np.float64)
    heat = found.heat[pick].astype(np.float64)
    with np.errstate(invalid="ignore", divide="ignore"):
        moment = np.where(power > 20.0, heat / power, np.nan)
        since = np.cumsum(heat, axis=1) / np.cumsum(power, axis=1)
    count = np.isfinite(power).sum(axis=0)
    shown = count >= LEAST_SHOWN
    minutes = (np.arange(found.power.shape[1]) + 0.5) * found.step / 60

    def spread(values: Floats) -> Floats:
        result = np.full((3, values.shape[1]), np.nan)
        if shown.any():
            result[:, shown] = np.nanpercentile(values[:, shown], [25, 50, 75], axis=0)
        return result

    return Overlay(minutes, spread(moment), spread(since), spread(power)[1], spread(heat)[1], count)
