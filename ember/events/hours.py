"""Hours: means and sums of each hour of a record, from which control and season are read."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ember.basis.clock import HOUR
from ember.basis.series import Bools, Floats, Ints, filled
from ember.events.cells import CellArrays
from ember.states.state import State


@dataclass(frozen=True)
class Hours:
    """Every hour of a record, in UTC; the first may be cut.

    Attributes
    ----------
    start : int
        instant of the first [s].
    of : Mapping[str, Floats]
        name → array, (h,), NaN where nothing is known: outdoor, humidity, room, tank, sun :
        means. Of settled heating alone: settled, time [s]; flow, back, secondary [degC], water
        [m3/s], means; heat, electricity [J]. Times [s] in a state: on, hot_water, cooling,
        pump_only, standby (off too), unknown. pump_energy : of the pump while nothing is made,
        resting_energy : of the unit at rest [J]. starts, defrosts : how many begin. frost :
        potential × time while running [kg/kg·s]. evaporating, condensing, superheat,
        subcooling, discharge, efficiency : of settled running, where logged.
    """

    start: int
    of: Mapping[str, Floats]

    def __len__(self) -> int:
        return len(self.of["on"])

    def between(self, start: float, stop: float) -> Bools:
        """The hours that begin in start ≤ t < stop [s], (h,)."""
        instants = self.start + HOUR * np.arange(len(self))
        mask: Bools = (instants >= start - HOUR / 2) & (instants < stop - HOUR / 2)
        return mask


def hours(cells: CellArrays, refrigerant: Mapping[str, Floats] | None = None) -> Hours:
    """The table of hours, without that of frost.

    Parameters
    ----------
    refrigerant : Mapping[str, Floats] | None
        name → array, (n,).
    """
    step = cells.step
    first, label, edges = _each(cells)
    count, length = len(edges), np.diff(edges, append=len(cells)).astype(np.float64)
    state = cells.states.state
    settled = (state == State.HEATING) & ~cells.states.recovery
    of: dict[str, Floats] = {}

    def total(values: Floats | Bools) -> Floats:
        found: Floats = np.add.reduceat(values, edges, dtype=np.float64)
        return found

    def known(values: Floats, where: Bools | None = None) -> Floats:
        """Sums of what is known."""
        whole = filled(values)
        return total(whole if where is None else whole * where)

    def mean(values: Floats | None, where: Bools | None = None) -> Floats:
        if values is None:
            return np.full(count, np.nan)
        if filled(values) is values:  # all is known
            cells = length if where is None else of["settled"] / step
        else:
            finite = np.isfinite(values)
            cells = total(finite if where is None else finite & where)
        with np.errstate(invalid="ignore", divide="ignore"):
            found: Floats = known(values, where) / cells
        return found

    for name in ("outdoor", "humidity", "room", "tank", "sun"):
        of[name] = mean(getattr(cells, name))
    of["settled"] = total(settled) * step
    for name in ("flow", "back", "secondary", "water"):
        of[name] = mean(getattr(cells, name), settled)
    for name in ("heat", "electricity"):
        values = getattr(cells, name)
        of[name] = np.full(count, np.nan) if values is None else known(values, settled)
    for name, values in (
        ("given", cells.heat),
        ("used", cells.electricity),
        ("heater", cells.heater),
    ):
        of[name] = np.full(count, np.nan) if values is None else known(values)
    of["swing"] = _swing(
        cells.water, cells.states.on & (state != State.DEFROST), label, count, step
    )
    resting = (state == State.OFF) | (state == State.STANDBY)
    in_state = np.bincount(label * len(State) + state, minlength=count * len(State))
    each = in_state.reshape(count, len(State)).astype(np.float64) * step
    of["on"] = total(cells.states.on) * step
    of["hot_water"], of["cooling"] = each[:, State.HOT_WATER], each[:, State.COOLING]
    of["pump_only"], of["unknown"] = each[:, State.PUMP_OVERRUN], each[:, State.UNKNOWN]
    of["standby"] = each[:, State.OFF] + each[:, State.STANDBY]
    idle = state == State.PUMP_OVERRUN
    for name, values, where in (
        ("pump_energy", cells.pump, idle),
        ("resting_energy", cells.electricity, resting),
    ):
        of[name] = np.full(count, np.nan) if values is None else known(values, where)
    for name, spans in (("starts", cells.states.runs), ("defrosts", cells.states.defrosts)):
        at = np.array([span.start for span in spans], np.int64)
        of[name] = np.bincount(label[at], minlength=count).astype(np.float64)
    for name, values in (refrigerant or {}).items():
        of[name] = mean(values, settled)
    return Hours(first, of)


def with_frost(table: Hours, cells: CellArrays, frosting: Floats | None) -> Hours:
    """The table of hours with that of frost.

    Parameters
    ----------
    frosting : array, (n,)
        Potential in each cell [kg/kg].
    """
    grown = np.full(len(table), np.nan)
    if frosting is not None:
        _, _, edges = _each(cells)
        grown = np.add.reduceat(frosting, edges) * cells.step
    return Hours(table.start, {**table.of, "frost": grown})


def _each(cells: CellArrays) -> tuple[int, Ints, Ints]:
    """When the first hour begins [s], the hour of each cell, (n,), and the first cell of each,
    (h,): of those that have any."""
    first = cells.start // HOUR * HOUR
    hours = -(-(cells.start - first + cells.step * len(cells)) // HOUR)
    begins = np.arange(hours, dtype=np.int64) * HOUR + first
    edges = np.maximum(-(-(begins - cells.start) // cells.step), 0)
    length = np.diff(edges, append=len(cells))
    edges = edges[length > 0]  # of coarse cells some hours have none
    label = np.repeat(np.arange(len(edges)), length[length > 0])
    return first, label, edges


FIVE = 300  # [s]
LEAST_PIECES = 5  # five-minute means in an hour, for a swing to be told


def _swing(water: Floats | None, where: Bools, label: Ints, count: int, step: int) -> Floats:
    """Standard deviation over mean of the flow's five-minute means in each hour, (h,)."""
    if water is None or step > FIVE:
        return np.full(count, np.nan)
    per = max(1, FIVE // step)
    n = len(water) // per * per
    known = (where & np.isfinite(water))[:n].reshape(-1, per)
    with np.errstate(invalid="ignore", divide="ignore"):
        piece = np.where(known, water[:n].reshape(-1, per), 0.0).sum(axis=1) / known.sum(axis=1)
    full = known.all(axis=1)
    at = label[:n].reshape(-1, per)[:, 0]
    pieces = np.bincount(at, full, count)
    piece = np.where(full, piece, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.bincount(at, piece, count) / pieces
        square = np.bincount(at, piece**2, count) / pieces
        swing = np.sqrt(np.maximum(square - mean**2, 0.0)) / mean
    found: Floats = np.where(pieces >= LEAST_PIECES, swing, np.nan)
    return found
