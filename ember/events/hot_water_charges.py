"""Hot water: each charge of the tank, by stage of its temperature."""

from dataclasses import dataclass

import numpy as np

from ember.basis.series import Bools, Floats, Ints, Span, edges_of, mask_of
from ember.events.cells import CellArrays, at, means, sums
from ember.metering.resolution import step_of
from ember.states.state import State

STAGES = np.arange(10.0, 71.0, 5.0)  # [degC]
HOT_WATER_CHARGES_TOGETHER = 1200.0  # a pause of the compressor within a charge is no longer [s]
HOT_WATER_CHARGES_SHORTEST = 300.0  # [s]
HOT_WATER_CHARGES_SLOW = 1 / 3  # of the charge's mean rise: slower, and it dwells
DWELL_OVER = 600.0  # over which the rise is taken [s]
STALL = 900.0  # a dwell at the top as long is a stall [s], common practice, chosen
COIL_APPROACH = 10.0  # of the tank below the highest flow temperature [K], common practice
PASTEURISED = 58.0  # [degC]
ABOVE_USUAL = 5.0  # [K]
HOT_WATER_CHARGES_ABOUT = 1800.0  # before and after a charge, in which a draw shows [s]
JUST = 600.0  # before a charge, in which a draw shows that calls for it [s]
SETTLE = 300.0  # over which the tank is averaged [s]
LOSES = 0.6 / 3600  # of a tank by itself, at most [K/s], common practice, chosen
LAGS = 0.7  # of the rise before and after, below which it does, common practice, chosen
# during a charge, that the tank falls only where water is drawn [K], common practice, chosen
DIP = 0.3


@dataclass(frozen=True)
class HotWaterCharges:
    """Every charge of the tank, arrays (k,) and (k, s) for the stages between `STAGES`.

    Attributes
    ----------
    start, stop : Ints
        cells.
    low, high : Floats
        tank at its beginning and at its warmest [degC].
    heat, electricity : Floats
        of the unit [J]
    heater : Floats
        of resistance heaters meanwhile [J].
    by_heat, by_electricity : Floats
        the same by stage of tank temperature.
    flow : Floats
        the highest [degC].
    outdoor : Floats
        mean [degC].
    defrosts : Ints
        how many in it.
    dwell : Floats
        at the top, the tank hardly growing warmer [s].
    whole : Ints
        whether neither its begin nor its end is cut by a gap.
    begin, end : Floats
        mean of the tank by all its probes before and after [degC]
    drawn : Ints
        whether water was drawn in it or about it, 1 or 0, −1 where that is not known
    unseen : Floats
        power of draws that would not have shown, as a fall of the tank [K/s].
    """

    start: Ints
    stop: Ints
    low: Floats
    high: Floats
    heat: Floats
    electricity: Floats
    heater: Floats
    by_heat: Floats
    by_electricity: Floats
    flow: Floats
    outdoor: Floats
    defrosts: Ints
    dwell: Floats
    whole: Ints
    begin: Floats
    end: Floats
    drawn: Ints
    unseen: Floats

    def __len__(self) -> int:
        return len(self.start)


def charges(cells: CellArrays) -> HotWaterCharges:
    """The table of charges. Source: dwell and stages, common practice."""
    state, step, n = cells.states.state, cells.step, len(cells)
    edges = edges_of(state == State.HOT_WATER)
    gaps = edges[1:-1].reshape(-1, 2)
    close = gaps[(gaps[:, 1] - gaps[:, 0]) * step <= HOT_WATER_CHARGES_TOGETHER]
    heating = sums((state == State.HEATING).astype(np.float64), close[:, 0], close[:, 1])
    close = close[heating == 0]
    joined = (state == State.HOT_WATER) | mask_of([Span(a, b) for a, b in close.tolist()], n)
    edges = edges_of(joined)
    start, stop = edges[::2], edges[1::2]
    long = (stop - start) * step >= HOT_WATER_CHARGES_SHORTEST
    start, stop = start[long], stop[long]
    before = at(state.astype(np.float64), start - 1)
    after = at(state.astype(np.float64), stop)
    whole = (start > 0) & (stop < n) & (before != State.UNKNOWN) & (after != State.UNKNOWN)
    low = at(cells.tank, start)
    high = _most(cells.tank, start, stop)
    frosts = np.array([d.start for d in cells.states.defrosts], np.int64)
    by_heat, by_electricity = _by_stage(cells, start, stop)
    return HotWaterCharges(
        start,
        stop,
        low,
        high,
        sums(cells.heat, start, stop),
        sums(cells.electricity, start, stop),
        sums(cells.heater, start, stop),
        by_heat,
        by_electricity,
        _most(cells.flow, start, stop),
        means(cells.outdoor, start, stop),
        (np.searchsorted(frosts, stop) - np.searchsorted(frosts, start)).astype(np.int64),
        _dwell(cells, start, stop, low, high),
        whole.astype(np.int64),
        *_drawn(cells, start, stop),
    )


def _most(values: Floats | None, starts: Ints, stops: Ints) -> Floats:
    if values is None or not len(starts):
        return np.full(len(starts), np.nan)
    edges = np.column_stack([starts, stops]).ravel()
    most: Floats = np.fmax.reduceat(np.append(values, -np.inf), edges)[::2]
    return np.where(np.isfinite(most), most, np.nan)


def _by_stage(cells: CellArrays, start: Ints, stop: Ints) -> tuple[Floats, Floats]:
    """Heat and electricity of each charge by stage of tank temperature, (k, s) each [J]."""
    count, stages = len(start), len(STAGES) - 1
    nothing = np.full((count, stages), np.nan)
    if cells.tank is None or cells.electricity is None or not count:
        return nothing, nothing
    index = np.flatnonzero(
        mask_of([Span(a, b) for a, b in zip(start, stop, strict=True)], len(cells))
    )
    charge = np.searchsorted(start, index, side="right") - 1
    tank = cells.tank[index]
    stage = np.clip(np.searchsorted(STAGES, np.nan_to_num(tank), side="right") - 1, 0, stages - 1)
    label = charge * stages + stage
    known = np.isfinite(tank) & np.isfinite(cells.electricity[index])
    if cells.heat is not None:
        known &= np.isfinite(cells.heat[index])

    def table(values: Floats | None) -> Floats:
        if values is None:
            return nothing
        total = np.bincount(label[known], values[index][known], count * stages)
        return total.astype(np.float64).reshape(count, stages)

    return table(cells.heat), table(cells.electricity)


def _drawn(cells: CellArrays, start: Ints, stop: Ints) -> tuple[Floats, Floats, Ints, Floats]:
    """Mean of the tank before and after each charge [degC], whether water was drawn, and the fall
    of draws that would not have shown [K/s].

    A draw shows where the tank falls in the half hour before or after faster than it loses by
    itself, or falls or lags during the charge, defrosts apart. Source: common practice.
    """
    count = len(start)
    nothing = np.full(count, np.nan)
    if cells.tank_mean is None:
        return nothing, nothing, np.full(count, -1, np.int64), nothing
    temp, step = cells.tank_mean, cells.step
    seen = step_of(temp)
    wide, half = max(1, round(HOT_WATER_CHARGES_ABOUT / step)), max(1, round(SETTLE / step))
    defrosts = cells.states.state == State.DEFROST
    drawn = np.full(count, -1, np.int64)
    mean = _Means(temp)
    begin, end = mean.of(start - half, start + 1), mean.of(stop - 1, stop + half)
    before = mean.of(start - wide - half, start - wide + 1) - begin
    after = end - mean.of(stop + half + wide - half, stop + half + wide + 1)
    # A draw that has only just begun, and by which the charge was called for.
    short = max(1, round(JUST / step))
    just = temp[np.maximum(start - short, 0)] - temp[np.minimum(start, len(temp) - 1)]
    told = np.isfinite(begin) & np.isfinite(end) & np.isfinite(before) & np.isfinite(after)
    called = just > LOSES * JUST + seen
    falls = np.maximum(before, after) > LOSES * HOT_WATER_CHARGES_ABOUT + seen
    dips = _dips(mean, defrosts, start, stop, half, seen)
    drawn[told] = (falls | called | dips)[told]
    return begin, end, drawn, np.full(count, LOSES + seen / HOT_WATER_CHARGES_ABOUT)


def _dips(
    mean: "_Means", defrosts: Bools, start: Ints, stop: Ints, half: int, seen: float
) -> Bools:
    """Whether the tank falls, or lags between two rises, within each charge, defrosts apart, (k,).

    Parameters
    ----------
    half : int
        cells of the blocks whose means are compared.
    seen : float
        step of the probe [K].
    """
    blocks = np.maximum(stop - start, 0) // half
    charge = np.repeat(np.arange(len(start)), blocks)
    nth = np.arange(len(charge)) - np.repeat(np.cumsum(blocks) - blocks, blocks)
    first = start[charge] + nth * half
    within = mean.of(first, first + half)
    before = np.concatenate([[0], np.cumsum(defrosts)])
    calm = before[first + half] > before[first]
    # From each block to the next of the same charge.
    pair = np.flatnonzero(nth[1:] > 0)
    rise, of, at = within[pair + 1] - within[pair], charge[pair], nth[pair]
    dip = rise < -(DIP + seen)
    inner = np.flatnonzero((at[1:-1] > 0) & (of[2:] == of[1:-1])) + 1
    # Between two that rise on, one that lags.
    dip[inner] |= rise[inner] < LAGS * np.minimum(rise[inner - 1], rise[inner + 1]) - seen
    near = calm[pair] | calm[pair + 1]
    near[at > 0] |= calm[pair[at > 0] - 1]  # the coil is cold yet
    dip &= ~near & (at > 0)
    found: Bools = np.bincount(of[dip], minlength=len(start)) > 0
    return found


class _Means:
    """Means of any stretches of an array, (n,), from its running sums."""

    def __init__(self, values: Floats) -> None:
        known = np.isfinite(values)
        # About its middle, so that the sums lose no digits over a year.
        self.middle = float(values[known].mean()) if known.any() else 0.0
        self.sums = np.concatenate([[0.0], np.cumsum(np.where(known, values - self.middle, 0.0))])
        self.lost = np.concatenate([[0], np.cumsum(~known)])

    def of(self, first: Ints, stop: Ints) -> Floats:
        """Of cells first … stop − 1 each, (k,); NaN where one is unknown or lies outside."""
        last = len(self.sums) - 1
        inside = (first >= 0) & (stop <= last) & (stop > first)
        a, b = np.clip(first, 0, last), np.clip(stop, 0, last)
        whole = inside & (self.lost[b] == self.lost[a])
        with np.errstate(invalid="ignore", divide="ignore"):
            mean: Floats = self.middle + (self.sums[b] - self.sums[a]) / (b - a)
        return np.where(whole, mean, np.nan)


def _dwell(cells: CellArrays, start: Ints, stop: Ints, low: Floats, high: Floats) -> Floats:
    """Time at the end of each charge in which the tank hardly grows warmer [s]."""
    result = np.full(len(start), np.nan)
    if cells.tank is None:
        return result
    half = max(1, round(DWELL_OVER / 2 / cells.step))
    for k, (a, b) in enumerate(zip(start.tolist(), stop.tolist(), strict=True)):
        length, rise = b - a, high[k] - low[k]
        if not np.isfinite(rise) or rise < 2.0:
            continue
        slow = HOT_WATER_CHARGES_SLOW * rise / length
        at_end = 0
        for cell in range(b - 1, a + half, -half):
            if cells.tank[cell] - cells.tank[max(a, cell - half)] > slow * half:
                break
            at_end += half
        result[k] = at_end * cells.step
    return result


def pasteurisations(found: HotWaterCharges) -> np.ndarray:
    """Which charges were for hygiene, (k,): to 58 degC or more, and well above what is usual."""
    known = found.high[np.isfinite(found.high)]
    if not len(known):
        return np.zeros(len(found), np.bool_)
    usual = float(np.median(known))
    with np.errstate(invalid="ignore"):
        mask: np.ndarray = (found.high >= PASTEURISED) & (found.high > usual + ABOVE_USUAL)
    return mask
