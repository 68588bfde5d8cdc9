"""Cells: what the tables of runs, starts, defrosts and hot water are made from."""

from dataclasses import dataclass

import numpy as np

from ember.basis.series import Floats, Ints
from ember.states.state import Running


@dataclass(frozen=True)
class CellArrays:
    """One record, cell by cell; what is not logged or metered is None.

    Attributes
    ----------
    start, step : int
        of the grid [s].
    heat, electricity : Floats | None
        arrays, (n,) Of each cell at the level of comparison [J].
    expected : Floats | None
        electricity by the rated table at that level, 0 where nothing is compared [J].
    heater, pump : Floats | None
        arrays, (n,) Electricity of resistance heaters, of distribution pumps [J].
    outdoor, flow, back, tank, room, secondary, evaporating : Floats | None
        arrays, (n,) Temperatures [degC]
    back : Floats | None
        of the return
    secondary : Floats | None
        of the flow behind a buffer.
    tank_mean : Floats | None
        of the tank by all its probes.
    humidity : Floats | None
        array, (n,) Relative, outdoors [%].
    sun : Floats | None
        array, (n,) Global radiation on the level [W/m2].
    water : Floats | None
        array, (n,) Volume flow [m3/s].
    """

    start: int
    step: int
    states: Running
    heat: Floats | None
    electricity: Floats | None
    heater: Floats | None = None
    pump: Floats | None = None
    outdoor: Floats | None = None
    humidity: Floats | None = None
    flow: Floats | None = None
    back: Floats | None = None
    water: Floats | None = None
    tank: Floats | None = None
    tank_mean: Floats | None = None
    room: Floats | None = None
    secondary: Floats | None = None
    evaporating: Floats | None = None
    sun: Floats | None = None
    expected: Floats | None = None

    def __len__(self) -> int:
        return len(self.states.state)


def sums(values: Floats | None, starts: Ints, stops: Ints) -> Floats:
    """Σ of values over spans in order that do not overlap, (k,); NaN where one is unknown."""
    count = len(starts)
    if values is None:
        return np.full(count, np.nan)
    if not count:
        return np.empty(0)
    edges = np.column_stack([starts, stops]).ravel()
    # reduceat takes no index at the very end, and gives the element itself where two are equal.
    begun = edges[: np.searchsorted(edges, len(values))]
    total = np.zeros(count)
    if len(begun):
        total[: -(-len(begun) // 2)] = np.add.reduceat(values, begun)[::2]
    total[stops <= starts] = 0.0
    return total


def means(values: Floats | None, starts: Ints, stops: Ints) -> Floats:
    """Means of what is known over spans in order that do not overlap, (k,); else NaN."""
    if values is None:
        return np.full(len(starts), np.nan)
    known = np.isfinite(values)
    if known.all():
        total, count = sums(values, starts, stops), (stops - starts).astype(np.float64)
    else:
        total = sums(np.where(known, values, 0.0), starts, stops)
        count = sums(known.astype(np.float64), starts, stops)
    with np.errstate(invalid="ignore", divide="ignore"):
        result: Floats = np.where(count > 0, total / count, np.nan)
    return result


def at(values: Floats | None, cells: Ints) -> Floats:
    """The values of single cells, (k,); NaN where there are none."""
    if values is None or not len(values):
        return np.full(len(cells), np.nan)
    result: Floats = values[np.clip(cells, 0, len(values) - 1)].astype(np.float64)
    return result


def windows(values: Floats | None, starts: Ints, length: int) -> Floats:
    """`length` cells of values from each start on, (k, length); NaN beyond the record."""
    if values is None:
        return np.full((len(starts), length), np.nan)
    index = starts[:, None] + np.arange(length)
    inside = (index >= 0) & (index < len(values))
    taken: Floats = np.where(inside, values[np.clip(index, 0, len(values) - 1)], np.nan)
    return taken
