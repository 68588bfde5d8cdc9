"""A resistance heater within the unit's own meter, told by its steps.

A heater is a step of the power with an equal step of the heat (none where it sits outside the heat
meter), while nothing else changes: no start, no turn of the valve, no defrost, no step of the
compressor, whose heat changes by its COP times as much.
"""

from dataclasses import dataclass

import numpy as np

from ember.basis.series import Bools, Floats, Ints
from ember.states.state import Running, State

# All common practice:
HEATER_DETECTION_STEP = 800.0  # from one reading to the next, the least that is a heater [W]
HEATER_DETECTION_AROUND = 180.0  # over which heat and power are taken about the steps [s]
HEATER_DETECTION_QUIET = 240.0  # from a start, a defrost, a turn of the valve [s]
HEATER_DETECTION_EQUAL = (0.6, 1.5)  # of heat over power, that is a heater's within its errors
OUTSIDE = 0.25  # of heat over power, that is none: the heater sits behind the heat meter
PART = 0.6  # of a heater's least step, that is still one
LEAST_STEPS = 4
HEATER_DETECTION_COARSEST = 300  # readings further apart show no steps [s]
HEATER_DETECTION_LEAST_RUNNING = 5.0  # percentile of the power that is the least while running [%]
SURELY = 0.9  # of the heater's size above that, that the power must reach to hold it


@dataclass(frozen=True)
class HeaterSeen:
    """size : of the heater [W]. mask : array, (n,)  Where it works, or may and nothing tells.
    level : array, (n,)  Its power where it surely works [W], 0 elsewhere."""

    size: float
    mask: Bools
    level: Floats


def heater_seen(
    power: Floats,
    heat: Floats | None,
    states: Running,
    outdoor: Floats | None,
    step: int,
) -> HeaterSeen | None:
    """A heater in a unit's power; None where none is seen.

    Parameters
    ----------
    power, heat : Floats
        arrays, (n,) Of the meters that hold it [W].
    outdoor : array, (n,)
        [degC].

    Source: energy balance; limits common practice.
    """
    if heat is None or step > HEATER_DETECTION_COARSEST:
        return None
    calm = _calm(states, max(1, round(HEATER_DETECTION_QUIET / step)))
    jump = np.diff(power, prepend=np.nan)
    with np.errstate(invalid="ignore"):
        steps = calm & (np.abs(jump) >= HEATER_DETECTION_STEP)
    at = np.flatnonzero(steps)
    if len(at) < LEAST_STEPS:
        return None
    share = _share(power, heat, at, max(1, round(HEATER_DETECTION_AROUND / step)))
    heating = HEATER_DETECTION_EQUAL[0] < share < HEATER_DETECTION_EQUAL[1]
    if not heating and abs(share) >= OUTSIDE:
        return None
    sizes = np.abs(jump[at])
    least = float(np.percentile(sizes, 20))
    size = float(np.median(sizes))
    level, told = _levels(at, jump, states, PART * least)
    on: Bools = (level > PART * least) & states.on
    ran = power[states.on & np.isfinite(power)]
    bottom = float(np.percentile(ran, HEATER_DETECTION_LEAST_RUNNING))
    with np.errstate(invalid="ignore"):
        open_: Bools = states.on & ~told & (power >= SURELY * least + bottom)
        if outdoor is not None and on.any():
            known = outdoor[on & np.isfinite(outdoor)]
            if len(known):  # weather in which it has never been seen at work: there it rests
                open_ &= ~(outdoor > float(known.max()) + 1.0)
    return HeaterSeen(size, on | open_, np.where(on, level, 0.0))


def _share(power: Floats, heat: Floats, at: Ints, cells: int) -> float:
    """How much of the power's steps the heat follows: slope of heat on power about the steps."""
    n = len(power)
    near = np.unique(np.clip(at[:, None] + np.arange(-2 * cells, 2 * cells + 1), 0, n - 1))
    p, q = _smoothed(power, cells)[near], _smoothed(heat, cells)[near]
    # Each step against the level of its own neighbourhood.
    label = np.cumsum(np.diff(near, prepend=near[0]) > 1)
    good = np.isfinite(p) & np.isfinite(q)
    if not good.any():
        return np.inf
    p, q, label = p[good], q[good], label[good]
    count = np.maximum(np.bincount(label), 1)
    p = p - (np.bincount(label, p) / count)[label]
    q = q - (np.bincount(label, q) / count)[label]
    over, under = np.bincount(label, p * q), np.bincount(label, p * p)
    moved = under > 0
    if not moved.any():
        return np.inf
    # The middle of the places, each by how much moves there: one spike tells nothing.
    slope, weight = over[moved] / under[moved], under[moved]
    order = np.argsort(slope)
    half = np.searchsorted(np.cumsum(weight[order]), 0.5 * weight.sum())
    return float(slope[order][min(int(half), len(order) - 1)])


def _smoothed(values: Floats, cells: int) -> Floats:
    """Means of `cells` about each, (n,)."""
    total = np.concatenate([[0.0], np.cumsum(np.nan_to_num(values))])
    at = np.arange(len(values))
    first, last = np.maximum(at - cells // 2, 0), np.minimum(at + cells // 2 + 1, len(values))
    result: Floats = (total[last] - total[first]) / (last - first)
    return result


def _levels(at: Ints, jump: Floats, states: Running, least: float) -> tuple[Floats, Bools]:
    """The heater's power in each cell from its steps, between starts, stops, defrosts and turns;
    and the pieces in which there was a step."""
    n = len(jump)
    state = np.where(states.state == State.START_UP, State.HEATING, states.state)
    edges = np.concatenate([[0], np.flatnonzero(state[1:] != state[:-1]) + 1, [n]])
    steps = np.zeros(n)
    use = at[np.abs(jump[at]) >= least]
    steps[use] = jump[use]
    total = np.cumsum(steps)
    # Within a piece it rests where the sum of its steps is lowest.
    lowest = np.minimum.reduceat(total, edges[:-1])
    length = np.diff(edges)
    level: Floats = total - np.repeat(lowest, length)
    moved = np.add.reduceat((steps != 0).astype(np.int64), edges[:-1]) > 0
    told: Bools = np.repeat(moved, length)
    level[~told] = 0.0
    return level, told


def _calm(states: Running, around: int) -> Bools:
    """Where neither start nor stop, turn of the valve nor defrost is near, (n,)."""
    state = states.state
    busy = (state != State.HEATING) & (state != State.HOT_WATER)
    busy[1:] |= state[1:] != state[:-1]
    ill = np.concatenate([[0], np.cumsum(busy)])
    at = np.arange(len(state))
    first, last = np.maximum(at - around, 0), np.minimum(at + 2, len(state))
    result: Bools = ill[last] == ill[first]
    return result
