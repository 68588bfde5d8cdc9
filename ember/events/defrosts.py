"""Defrosts: what each took, how it ended, and whether the air asked for it."""

from dataclasses import dataclass
from enum import IntEnum

import numpy as np

from ember.basis.series import Floats, Ints
from ember.events.cells import CellArrays, at, means, sums
from ember.events.frost import SAFETY, Frost, frost, potentials_of
from ember.states.detection import RECOVERY
from ember.states.state import State

DEFROSTS_STEADY = 1200.0  # before a defrost, over which the COP is taken [s]
RECOVERED = 0.9  # of the COP before it
WATCHED = 900.0  # after a defrost, in which the COP comes back [s]
# a defrost later than this after another has nothing to do with it [s]
DEFROSTS_TOGETHER = 12 * 3600.0
LIMIT_FROM = 480.0  # a time limit is hardly shorter [s]
DEFROSTS_FEW = 8  # defrosts from which nothing is concluded


class How(IntEnum):
    """How a defrost ended."""

    NOT_KNOWN = 0
    TEMPERATURE = 1
    TIME_LIMIT = 2

    @property
    def words(self) -> str:
        """For people."""
        return self.name.lower().replace("_", " ")


AFTER = (720.0, 1320.0)  # after a defrost: settled, and hardly any new frost [s]
CLEAN = 3 * 3600.0  # after the last defrost, from which nothing is left of its ice [s]
MILDEST = 7.0  # outdoors, up to which running is looked at for it [degC]


@dataclass(frozen=True)
class Defrosts:
    """Every defrost of a record, arrays (d,).

    Attributes
    ----------
    start, stop : Ints
        cells.
    electricity, taken : Floats
        of the defrost
    taken : Floats
        heat drawn back, positive [J].
    recovery : Floats
        electricity of the recovery beyond what its heat takes at the COP before [J].
    cop : Floats
        over the twenty minutes before.
    cost : Floats
        electricity that would not have been needed without it [J].
    back_after : Floats
        until the COP is back at 90 % [s].
    interval : Floats
        since the end of the one before [s]
    running : Floats
        of that with the unit running; NaN where that is long ago.
    outdoor, humidity : Floats
        means over the interval, else at its start.
    potential : Floats
        mean while running [kg/kg]
    load : Floats
        potential × time [kg/kg·s]
    surely : Floats
        mean potential where the approach is larger by what it may err.
    ended : Ints
        code of How.
    after_expected, after_used : Floats
        electricity by the rated table and as measured, of the compared running AFTER its end [J]
    clean_expected, clean_used : Floats
        of that long before it, with nothing left on the coil of the one before; 0 where there is
        none.
    """

    start: Ints
    stop: Ints
    electricity: Floats
    taken: Floats
    recovery: Floats
    cop: Floats
    cost: Floats
    back_after: Floats
    interval: Floats
    running: Floats
    outdoor: Floats
    humidity: Floats
    potential: Floats
    load: Floats
    surely: Floats
    ended: Ints
    after_expected: Floats
    after_used: Floats
    clean_expected: Floats
    clean_used: Floats

    def __len__(self) -> int:
        return len(self.start)


def defrost_cost(electricity: Floats, taken: Floats, recovery: Floats, cop: Floats) -> Floats:
    """Electricity of a defrost, of the heat taken back, and of the recovery, each counted once.

    Parameters
    ----------
    electricity : array, (d,)
        Of the defrost itself [J].
    taken : Floats
        heat drawn back, positive [J].
    recovery : Floats
        of the recovery beyond what its heat takes at the COP before [J].
    cop : array, (d,)
        Before it.

    Returns
    -------
    array, (d,)  [J].

    Source: common practice.
    """
    with np.errstate(invalid="ignore", divide="ignore"):
        result: Floats = electricity + np.where(cop > 0, taken / cop, np.nan) + recovery
    return result


def defrosts(cells: CellArrays) -> tuple[Defrosts, Frost | None, Floats | None]:
    """The table of defrosts, what they teach of the coil, and the frosting potential of each cell
    in which the unit runs, (n,) [kg/kg]; None where humidity is not known."""
    spans = cells.states.defrosts
    step = cells.step
    start = np.array([span.start for span in spans], np.int64)
    stop = np.array([span.stop for span in spans], np.int64)
    found = frost(cells, start, stop)
    electricity = sums(cells.electricity, start, stop)
    taken = -sums(cells.heat, start, stop)
    cop = _cop_before(cells, start, stop)
    on = cells.states.on.astype(np.float64)
    recovery = _recovery(cells, start, stop, cop, on)

    interval, running, first = _intervals(cells, start, stop, on)
    near = np.isfinite(interval)
    outdoor = np.where(near, means(cells.outdoor, first, start), at(cells.outdoor, start))
    humidity = np.where(near, means(cells.humidity, first, start), at(cells.humidity, start))
    nothing = np.full(len(start), np.nan)
    potential = load = surely = nothing
    grows = None
    if found is not None:
        grows, colder = potentials_of(cells, found, (0.0, SAFETY))
    if grows is not None and len(start):
        load = np.where(near, sums(grows, first, start) * step, np.nan)
        most = sums(colder, first, start) * step
        with np.errstate(invalid="ignore", divide="ignore"):
            potential = np.where(running > 0, load / running, np.nan)
            surely = np.where(running > 0, most / running, np.nan)
    return (
        Defrosts(
            start,
            stop,
            electricity,
            taken,
            recovery,
            cop,
            defrost_cost(electricity, taken, recovery, cop),
            _back_after(cells, stop, cop),
            interval,
            running,
            outdoor,
            humidity,
            potential,
            load,
            surely,
            _how(stop - start, step, cells),
            *_about(cells, start, stop),
        ),
        found,
        grows,
    )


def _cop_before(cells: CellArrays, start: Ints, stop: Ints) -> Floats:
    """COP of the settled part of the twenty minutes before each, as far as no other defrost or
    start lies in them; the median of all where there is none."""
    if cells.heat is None or cells.electricity is None or not len(start):
        return np.full(len(start), np.nan)
    low = np.maximum(start - round(DEFROSTS_STEADY / cells.step), 0)
    after = stop[:-1] + round(RECOVERY / cells.step)
    low[1:] = np.maximum(low[1:], np.minimum(after, start[1:]))
    state = cells.states.state
    settled = ((state == State.HEATING) | (state == State.HOT_WATER)).astype(np.float64)
    over = sums(np.nan_to_num(cells.heat) * settled, low, start)
    under = sums(np.nan_to_num(cells.electricity) * settled, low, start)
    with np.errstate(invalid="ignore", divide="ignore"):
        cop = np.where(under > 0, over / under, np.nan)
    if np.isnan(cop).any() and np.isfinite(cop).any():
        cop = np.where(np.isnan(cop), np.nanmedian(cop), cop)
    return cop


def _about(cells: CellArrays, start: Ints, stop: Ints) -> tuple[Floats, Floats, Floats, Floats]:
    """Expected and measured electricity soon after each, and long after the one before it."""
    nothing = np.zeros(len(start))
    if cells.expected is None or cells.electricity is None or not len(start):
        return nothing, nothing, nothing, nothing
    fits = (cells.expected > 0) & np.isfinite(cells.expected) & np.isfinite(cells.electricity)
    if cells.outdoor is not None:
        with np.errstate(invalid="ignore"):
            fits &= cells.outdoor < MILDEST
    expected = np.where(fits, cells.expected, 0.0)
    used = np.where(fits, cells.electricity, 0.0)
    after = np.append(start[1:], len(cells))
    first = np.minimum(stop + round(AFTER[0] / cells.step), after)
    last = np.minimum(stop + round(AFTER[1] / cells.step), after)
    before = np.append(0, stop[:-1])
    clean = np.minimum(before + round(CLEAN / cells.step), start)
    return (
        sums(expected, first, last),
        sums(used, first, last),
        sums(expected, clean, start),
        sums(used, clean, start),
    )


def _recovery(cells: CellArrays, start: Ints, stop: Ints, cop: Floats, on: Floats) -> Floats:
    """Electricity of the minutes after each beyond what their heat takes at the COP before [J]."""
    if cells.heat is None or cells.electricity is None or not len(start):
        return np.full(len(start), np.nan)
    end = np.minimum(stop + round(RECOVERY / cells.step), len(cells))
    end[:-1] = np.minimum(end[:-1], start[1:])
    used, given = (sums(v * on, stop, end) for v in (cells.electricity, cells.heat))
    with np.errstate(invalid="ignore", divide="ignore"):
        lost: Floats = used - given / cop
    return lost


def _intervals(
    cells: CellArrays, start: Ints, stop: Ints, on: Floats
) -> tuple[Floats, Floats, Ints]:
    """Since the defrost before: time, time with the unit running [s], and the first cell."""
    interval, running = np.full(len(start), np.nan), np.full(len(start), np.nan)
    first = start.copy()
    if len(start) < 2:
        return interval, running, first
    apart = (start[1:] - stop[:-1]).astype(np.float64) * cells.step
    unknown = sums((cells.states.state == State.UNKNOWN).astype(np.float64), stop[:-1], start[1:])
    near = (apart <= DEFROSTS_TOGETHER) & (unknown == 0)
    interval[1:] = np.where(near, apart, np.nan)
    running[1:] = np.where(near, sums(on, stop[:-1], start[1:]) * cells.step, np.nan)
    first[1:] = np.where(near, stop[:-1], start[1:])
    return interval, running, first


def _back_after(cells: CellArrays, stop: Ints, cop: Floats) -> Floats:
    """Until the COP of single minutes is back at 90 % of the one before [s]; NaN where it is not
    within a quarter of an hour."""
    if cells.heat is None or cells.electricity is None or not len(stop):
        return np.full(len(stop), np.nan)
    length = max(1, round(WATCHED / cells.step))
    index = np.minimum(stop[:, None] + np.arange(length), len(cells) - 1)
    with np.errstate(invalid="ignore", divide="ignore"):
        good = cells.heat[index] >= RECOVERED * cop[:, None] * cells.electricity[index]
        good &= cells.electricity[index] > 0
    found: Floats = np.where(good.any(axis=1), (good.argmax(axis=1) + 1.0) * cells.step, np.nan)
    return found


def _how(length: Ints, step: int, cells: CellArrays) -> Ints:
    """How each ended. Many at one longest length of eight minutes or more end by a time limit."""
    how = np.full(len(length), How.NOT_KNOWN, np.int64)
    if step > COARSEST_FOR_LENGTH or len(length) < DEFROSTS_FEW:
        return how
    longest = int(np.percentile(length, 99.5))  # hardly one is longer, if it is a limit
    at_limit = length >= longest - 1
    if longest * step >= LIMIT_FROM and np.mean(length >= longest) >= 0.1:
        how[:] = np.where(at_limit, How.TIME_LIMIT, How.TEMPERATURE)
    else:
        how[:] = How.TEMPERATURE
    return how


COARSEST_FOR_LENGTH = 60  # readings further apart do not tell lengths [s]
