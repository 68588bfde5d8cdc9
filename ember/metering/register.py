"""Registers to increments: never a negative kWh, never smeared below the readings but where these
lie hours apart, and then with its error."""

import numpy as np

from ember.basis.registers import falls, smallest_step
from ember.basis.series import Floats, Span

REGISTER_LONGEST = 1.5  # native intervals between two readings before the time between is a hole
REGISTER_APART = 7  # stretches between two that are taken to err alike
REGISTER_MOST = 200e3  # a rise faster than this is a wrong reading [W], common practice, chosen


def increments(
    register: Floats, step: int, native: float, net: bool = False
) -> tuple[Floats, tuple[Span, ...], float]:
    """Energy of each cell from the readings of a register.

    Parameters
    ----------
    register : array, (n,)
        Reading at the beginning of each cell [J]; NaN where not read.
    step : int
        length of a cell [s].
    native : float
        usual time between two readings [s].
    net : bool
        it may count net heat, see `falls`.

    Returns
    -------
    energy : array, (n,)  [J]. Between two readings the increment stands in the last cell and
        zero before; NaN where a register fell (reset, rollover, change of meter), rose
        impossibly fast, or was not read yet or any more.
    holes : stretches between two readings much further apart than usual: known only as a whole.
    smallest : the smallest step of the register seen [J].
    """
    n = len(register)
    energy = np.full(n, np.nan)
    at = np.flatnonzero(np.isfinite(register))
    if len(at) < 2:
        return energy, (), 0.0
    if len(at) == n:
        np.subtract(register[1:], register[:-1], out=energy[:-1])
        rise, cells = energy[:-1], None
        bad = falls(register, net) | (rise > REGISTER_MOST * step)
    else:
        rise, cells = np.diff(register[at]), np.diff(at)
        energy[at[0] : at[-1]] = 0.0
        energy[at[1:] - 1] = rise
        bad = falls(register[at], net) | (rise > REGISTER_MOST * step * cells)
    for k in np.flatnonzero(bad):
        energy[at[k] : at[k + 1]] = np.nan
    holes: tuple[Span, ...] = ()
    if cells is not None:
        wide = np.flatnonzero((cells > max(1.0, REGISTER_LONGEST * native / step)) & ~bad)
        holes = tuple(Span(int(at[k]), int(at[k + 1])) for k in wide)
    return energy, holes, smallest_step(rise)


def spread(energy: Floats) -> Floats:
    """Each step of a register shared out over the time since the step before.

    Parameters
    ----------
    energy : array, (n,)
        As `increments` gives it: an increment in one cell, zero before it [J].

    Returns
    -------
    array, (n,)  The same sum over each stretch from step to step [J]; after the last one zero,
    NaN where nothing is known.
    """
    n = len(energy)
    shared = np.where(np.isfinite(energy), 0.0, np.nan)
    at = np.flatnonzero(energy > 0)
    if not len(at):
        return shared
    # A stretch begins after the step before it, or after what is not known.
    index = np.arange(n)
    unknown = np.maximum.accumulate(np.where(np.isfinite(energy), -1, index))
    first = np.maximum(np.concatenate([[-1], at[:-1]]), unknown[at]) + 1
    each = energy[at] / (at + 1 - first)
    for k in range(len(at)):
        shared[first[k] : at[k] + 1] = each[k]
    return shared


def shared_out(energy: Floats, register: Floats) -> tuple[Floats, list[Floats]]:
    """Energy between readings that lie far apart, even over the time between them.

    Parameters
    ----------
    energy : array, (n,)
        As `increments` gives it [J].
    register : array, (n,)
        Its readings.

    Returns
    -------
    energy : array, (n,)  With the same sum between any two readings [J].
    tilts : arrays, (n,)  What is wrong with a part of such a stretch if its power falls from the
        double to nothing over it [J]; the sum over a whole stretch is zero. Each holds every
        seventh stretch, so that those cut at either end of a period err by themselves.
    """
    at = np.flatnonzero(np.isfinite(register))
    tilts = [np.zeros(len(energy)) for _ in range(REGISTER_APART)]
    if len(at) < 2:
        return energy, tilts
    cells = np.diff(at)
    total = np.add.reduceat(energy[: at[-1]], at[:-1])
    even = np.full(len(energy), np.nan)
    each = np.repeat(total / cells, cells)
    inside = slice(at[0], at[-1])
    even[inside] = each
    along = np.arange(at[0], at[-1]) - np.repeat(at[:-1], cells) + 0.5
    tilt = np.nan_to_num(each * (1 - 2 * along / np.repeat(cells, cells)))
    stretch = np.repeat(np.arange(len(cells)), cells) % REGISTER_APART
    for k, mine in enumerate(tilts):
        mine[inside] = np.where(stretch == k, tilt, 0.0)
    return even, tilts
