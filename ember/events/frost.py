"""Frosting potential: how much more water the outdoor air holds than it can at the coil."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.basis.series import Floats, Ints
from ember.events.cells import CellArrays
from ember.messages import words_of
from ember.properties.moist_air import humidity_ratio
from ember.states.state import State

say = words_of(__name__)

STANDARD = 101_325.0  # [Pa]
USUAL_APPROACH = 9.0  # of the coil below the air, flat out [K], common practice
CANDIDATES = np.arange(3.0, 14.1, 0.5)  # [K]
FROST_ABOVE = np.arange(0.0, 6.1, 0.5)  # of the coil over the evaporating temperature [K]
LEAST_INTERVALS = 20  # to learn from
FROST_EVEN = 0.35  # quartile range over median of a potential that explains the intervals
FROST_CLEARLY = 0.8  # of the unevenness of the intervals in time, for frost to explain them
FROST_STRIDE = 300.0  # between the cells of which it is learned [s]
FROST_WARMEST = 12.0  # [degC]
FROST_LONGEST = 12 * 3600.0  # between two defrosts that belong together [s]
SAFETY = 2.0  # by which a learned approach may err [K]
LEAST_POTENTIAL = 0.15e-3  # below which air does not frost a coil within hours [kg/kg]


@dataclass(frozen=True)
class Frost:
    """How a unit's coil frosts.

    Attributes
    ----------
    approach : float
        of the coil below the air at full heat from the source, or above the evaporating temperature
        where that is logged [K]
    learned : bool
        whether from this unit's own defrosts, else common practice.
    full : float
        that heat [W].
    load : float | None
        potential × time between two of its defrosts, the median [kg/kg·s]; None where it is not
        known.
    by : str
        in words.
    """

    approach: float
    learned: bool
    full: float
    load: float | None
    by: str


def frosting_potential(
    outdoor: Floats, humidity: Floats, coil: Floats, pressure: float = STANDARD
) -> Floats:
    """Water that the air could leave on the coil per dry air.

    Parameters
    ----------
    outdoor : array, (n,)
        Air [degC].
    humidity : array, (n,)
        Relative [%].
    coil : array, (n,)
        Its surface [degC].
    pressure : float
        of the air [Pa].

    Returns
    -------
    array, (n,)  Humidity ratio of the air minus that of saturation over ice at the coil [kg/kg];
    0 where the coil is not below 0 degC or not below the dew point.

    Source: ASHRAE Fundamentals ch. 1 for the ratios; treatment common practice.
    """
    return _left_on(humidity_ratio(outdoor, humidity, pressure), coil, pressure)


def _left_on(held: Floats, coil: Floats, pressure: float = STANDARD) -> Floats:
    """The same of air that holds so much water [kg/kg]."""
    result = np.zeros(len(coil))
    cold = np.flatnonzero(coil < 0.0)
    saturated = humidity_ratio(coil[cold], np.full(len(cold), 100.0), pressure)
    result[cold] = np.maximum(held[cold] - saturated, 0.0)
    return result


def source_full(cells: CellArrays) -> float:
    """The usual full value of the heat taken from the air [W]; 0 where it is not known.

    Where heat is not measured the power stands for it.
    """
    settled = np.flatnonzero(cells.states.state == State.HEATING)
    sample = _taken(cells, settled[:: max(1, len(settled) // 20_000)])
    sample = sample[np.isfinite(sample)]
    return max(float(np.percentile(sample, 95)), 0.0) if len(sample) else 0.0


def source_share(cells: CellArrays, index: Ints, full: float) -> Floats:
    """Heat taken from the air as a share of its usual full value, of some cells, (k,).

    Parameters
    ----------
    full : float
        that value [W], from `source_full`.
    """
    return np.clip(_taken(cells, index) / full, 0.0, 1.3) if full else np.full(len(index), np.nan)


def _taken(cells: CellArrays, index: Ints) -> Floats:
    """Heat taken from the air in some cells, (k,) [W]."""
    if cells.electricity is None:
        return np.full(len(index), np.nan)
    if cells.heat is None:
        return cells.electricity[index] / cells.step
    return (cells.heat[index] - cells.electricity[index]) / cells.step


def frost(cells: CellArrays, starts: Ints, stops: Ints) -> Frost | None:
    """What the unit's own defrosts teach of its coil; None where humidity or temperature lacks.

    Parameters
    ----------
    starts, stops : Ints
        arrays, (d,) Cells of the defrosts.

    A defrost on demand begins when enough frost has grown, so the approach under which the
    potential summed between defrosts is most alike is the unit's own. Where none makes it alike
    (defrosts by the clock, few of them) the usual approach is taken and said to be.

    Source: common practice.
    """
    if cells.humidity is None or cells.outdoor is None:
        return None
    full = source_full(cells)
    gauged = cells.evaporating is not None
    if not full and not gauged:
        return None
    usual = Frost(
        0.0 if gauged else USUAL_APPROACH,
        False,
        full,
        None,
        say("logged_evaporating_temperature")
        if gauged
        else say("usual_approach", usual_approach=USUAL_APPROACH),
    )
    first, _, index, label = _between(cells, starts, stops)
    if len(first) < LEAST_INTERVALS:
        return usual
    by_time = unevenness(np.bincount(label, minlength=len(first)).astype(np.float64))
    outdoor = cells.outdoor[index]
    held = humidity_ratio(outdoor, cells.humidity[index], STANDARD)
    share = source_share(cells, index, full)
    candidates = FROST_ABOVE if gauged else CANDIDATES
    best: tuple[float, float, float] | None = None
    for approach in candidates.tolist():
        if cells.evaporating is not None:
            coil = cells.evaporating[index] + approach
        else:
            coil = outdoor - approach * share
        weight = np.nan_to_num(_left_on(held, coil))
        summed = np.bincount(label, weight, len(first)).astype(np.float64)
        spread = unevenness(summed)
        if best is None or spread < best[0]:
            best = spread, approach, float(np.median(summed))
    # Defrosts by the clock are as even in time as in frost; at the edge nothing was found.
    if best is None or best[0] > min(FROST_EVEN, FROST_CLEARLY * by_time):
        return usual
    if best[1] == candidates[-1] or (best[1] == candidates[0] and not gauged):
        return usual
    stride = max(1, round(FROST_STRIDE / cells.step)) * cells.step
    how = (
        say("logged_evaporating_temperature_coil", best=best[1])
        if gauged
        else say("approach", best=best[1])
    )
    return Frost(
        best[1],
        True,
        full,
        best[2] * stride,
        say("learned_own_intervals", how=how, first=len(first)),
    )


def unevenness(values: Floats) -> float:
    """Quartile range over median; infinite where the median is 0."""
    low, median, high = np.percentile(values, [25, 50, 75])
    return float((high - low) / median) if median > 0 else np.inf


def potentials_of(
    cells: CellArrays, found: Frost, further: Sequence[float] = (0.0,)
) -> list[Floats]:
    """The potential in each cell in which the unit draws heat from cold air, (n,) [kg/kg], for a
    coil at each approach beyond the learned [K]."""
    assert cells.outdoor is not None and cells.humidity is not None
    state = cells.states.state
    drawing = (
        (state >= State.START_UP) & (state <= State.HOT_WATER) & (cells.outdoor < FROST_WARMEST)
    )
    at = np.flatnonzero(drawing)
    outdoor = cells.outdoor[at]
    held = humidity_ratio(outdoor, cells.humidity[at], STANDARD)
    if cells.evaporating is not None:
        share, surface = np.ones(len(at)), cells.evaporating[at] + 2 * found.approach
    else:
        share, surface = np.nan_to_num(source_share(cells, at, found.full), nan=1.0), outdoor
    results = []
    for more in further:
        coil = surface - (found.approach + more) * share
        result = np.zeros(len(cells))
        result[at] = np.nan_to_num(_left_on(held, coil))
        results.append(result)
    return results


def _between(cells: CellArrays, starts: Ints, stops: Ints) -> tuple[Ints, Ints, Ints, Ints]:
    """Intervals between defrosts that belong together: first and last cell, and the cells in
    which heat was drawn (one in `STRIDE`) with the interval of each."""
    first, last = stops[:-1], starts[1:]
    near = (last - first) * cells.step <= FROST_LONGEST
    first, last = first[near], last[near]
    stride = max(1, round(FROST_STRIDE / cells.step))
    every = np.arange(0, len(cells), stride)
    state = cells.states.state[every]
    every = every[(state >= State.START_UP) & (state <= State.HOT_WATER)]
    label = np.searchsorted(first, every, side="right") - 1
    inside = (label >= 0) & (every < last[np.maximum(label, 0)]) if len(first) else label >= 0
    return first, last, every[inside], label[inside]
