"""Hot water: from the valve, else from what the water does, held against the tank where it is
logged.

The valve turns to the tank, and back, while the compressor runs on or as it starts: within one to
three minutes flow and return then jump by what the two circuits differ. At the end they fall from
the hottest that the unit makes to what the house needs. A tank that grows warmer says so too, later
and less sharply.
"""

import numpy as np

from ember.basis.codes import KnownBy
from ember.basis.series import Bools, Floats, Span, Trace, edges_of, mask_of, spans_of
from ember.description.installation import Installation, WaterCircuit
from ember.messages import words_of
from ember.states.state import Known

say = words_of(__name__)

# Common practice, all of them; docs/methods.md says what each is for.
HOT_WATER_DETECTION_FALL = 3.0  # of flow and of return, as the valve turns back [K]
BREAK = 1.0  # of the return, as it turns to the tank [K]
NOISES = 8.0  # times the noise of the return, that either exceeds at least
HOT_WATER_DETECTION_ABOVE = 4.0  # of the flow above the house's, before the valve turns back [K]
NEAR_LINE = 2.0  # within which the flow is the house's [K]
# for which it may stay below that after the valve has turned [s]
HOT_WATER_DETECTION_BEFORE = 1200.0
HOT_WATER_DETECTION_LONGEST = 4 * 3600.0  # of a charge [s]
TURNING = 240.0  # for which a turn of the valve takes to be seen [s]
HOT_WATER_DETECTION_COARSEST = 360.0  # readings further apart do not show a turn [s]
TANK_RISE = 2.5 / 3600  # of the tank while it is heated [K/s]
HOT_WATER_DETECTION_LEAST_RISE = 0.7  # of the tank over a charge [K]
TANK_HALF = 300.0  # over which the tank's rise is taken, to either side [s]
PAUSE = 240.0  # of the compressor, within a charge [s]
BIN = 2.0  # of outdoor temperature, in which the house's flow is taken [K]
# outdoors, up to which a house is heated more than its water [degC]
HOT_WATER_DETECTION_MILD = 11.0
HOUSE = 30.0  # percentile of the flow that is the house's [%]


def by_water(
    installation: Installation, trace: Trace, circuit: WaterCircuit | None, on: Bools
) -> tuple[Bools, Known] | None:
    """Where hot water is made, (n,), and how it is known; None where neither water nor tank tell.

    Parameters
    ----------
    on : array, (n,)
        Where the compressor runs.

    Source: common practice.
    """
    names = pair_of(trace, circuit)
    tank = trace.get("tank_temp")
    charges: list[Span] = []
    if names is not None and trace.step <= HOT_WATER_DETECTION_COARSEST:
        charges = turns(trace, *names, installation.outdoor.channel, on)
    elif tank is None:
        return None
    if tank is None:
        words = say("inferred_flow_return")
        return mask_of(charges, len(on)), Known(KnownBy.WATER, words)
    rising = _rising(tank, trace.step) & on
    mask = _with_tank(charges, rising, tank, trace.step)
    words = say("inferred_tank_grows")
    if charges:
        words += say("one_jump_flow")
    return mask, Known(KnownBy.TANK, words)


def pair_of(trace: Trace, circuit: WaterCircuit | None) -> tuple[str, str] | None:
    """The channels of flow and return temperature, of a circuit or as they are logged."""
    names = ("flow_temp", "return_temp")
    if circuit is not None:
        names = (circuit.flow_temp, circuit.return_temp)
    return names if all(n in trace for n in names) else None


def turns(trace: Trace, flow: str, back: str, outdoor: str, on: Bools) -> list[Span]:
    """Charges between two turns of the valve, or a start or stop of the compressor and a turn.

    Parameters
    ----------
    flow, back, outdoor : str
        channels of the temperatures.
    """
    step, n = trace.step, len(on)
    f, r = _bridged(trace[flow]), _bridged(trace[back])
    dr, df = _moved(r), _moved(f)
    noise = _noise(r)
    line = _house_line(f, trace.get(outdoor), on)
    hot = f > line + HOT_WATER_DETECTION_ABOVE
    fall = (dr < -max(HOT_WATER_DETECTION_FALL, NOISES * noise)) & (
        df < -max(HOT_WATER_DETECTION_FALL, NOISES * noise)
    )
    wide = max(1, round(TURNING / step))
    # Where it is hot and then falls; or where the compressor stops and it is hot.
    drop = -np.diff(r, prepend=r[:1])
    falls = [_steepest(drop, Span(s.start, min(s.stop + 1, n))) for s in spans_of(fall)]
    stops = edges_of(_joined(on, round(PAUSE / step)))[1::2]
    before = round(HOT_WATER_DETECTION_BEFORE / step)
    most = round(HOT_WATER_DETECTION_LONGEST / step)
    ends = sorted({*falls, *stops.tolist()})
    least = max(BREAK, NOISES * noise)
    turn = _sudden(r)
    found: list[Span] = []
    turned = set(falls)
    last = 0
    for end in ends:
        if not hot[max(0, end - wide) : end].any():
            last = max(last, end - wide)
            continue
        begin, seen = _begin(end, last, f, line, turn, on, least, before, most, wide)
        # A run that ends hot may be heating: only a turn of the valve at its begin says it is not.
        if end - begin > 1 and (seen or end in turned):
            found.append(Span(begin, min(end, n)))
        last = end
    return found


def _begin(
    end: int,
    last: int,
    f: Floats,
    line: Floats,
    turn: Floats,
    on: Bools,
    least: float,
    before: int,
    most: int,
    wide: int,
) -> tuple[int, bool]:
    """The cell in which a charge that ends at `end` began, and whether the valve's turn was seen:
    back to where the flow leaves the house's line, and from there to the turn or the compressor's
    start."""
    low = max(last, end - most, 0)
    near = f[low:end] < line[low:end] + NEAR_LINE
    near[max(0, len(near) - wide) :] = False  # the turn back itself
    # A dip of some minutes, of a defrost, is no way back to the house.
    cold = [s for s in spans_of(near) if len(s) > 2 * wide or s.start == 0]
    cross = low + (cold[-1].stop if cold else 0)
    first = max(low, cross - before)
    window = turn[first : max(end - wide, cross + 1)]
    starts = edges_of(on[first : cross + 1])[::2]
    most_sudden = float(window.max()) if len(window) else 0.0
    if most_sudden >= least:
        # The first that is nearly as sudden as any: a defrost within the charge comes later.
        near_first = np.flatnonzero(window >= max(least, 0.5 * most_sudden))[0]
        peak = window[near_first : near_first + wide + 1]
        at = first + int(near_first) + int(np.argmax(peak))
        began = [first + int(s) for s in starts if abs(first + int(s) - at) <= wide]
        return min([at, *began]), True
    if len(starts) and starts[-1] > 0:
        return first + int(starts[-1]), False
    return cross, False


def _steepest(values: Floats, span: Span) -> int:
    return span.start + int(np.nanargmax(np.nan_to_num(values[span.start : span.stop], nan=-1.0)))


def _moved(values: Floats) -> Floats:
    """Change of a temperature over two cells around each, (n,); 0 where it is not known."""
    moved = np.zeros(len(values))
    if len(values) > 2:
        moved[1:-1] = values[2:] - values[:-2]
    return np.nan_to_num(moved, copy=False)


def _sudden(values: Floats) -> Floats:
    """How much a temperature changes over two cells beyond what it does before and after, (n,)."""
    sudden = np.zeros(len(values))
    if len(values) > 6:
        inner = values[4:-2] - values[2:-4]
        around = 0.5 * ((values[6:] - values[4:-2]) + (values[2:-4] - values[:-6]))
        sudden[3:-3] = np.abs(inner - around)
    return np.nan_to_num(sudden, copy=False)


def _noise(values: Floats) -> float:
    """Standard deviation of what changes from cell to cell and back."""
    sample = values[:200_000]
    bend = sample[2:] - 2 * sample[1:-1] + sample[:-2]
    bend = bend[np.isfinite(bend)]
    # Of white noise the bend has √6 times its deviation; of two cells apart √2 remain.
    return float(1.48 * np.median(np.abs(bend)) / 6**0.5 * 2**0.5) if len(bend) else 0.0


def _bridged(values: Floats) -> Floats:
    """A single missing cell taken from the one before."""
    hole = np.isnan(values)
    if not hole.any():
        return values
    alone = hole.copy()
    alone[1:] &= ~hole[:-1]
    alone[0] = False
    result = values.copy()
    at = np.flatnonzero(alone)
    result[at] = values[at - 1]
    return result


def _house_line(flow: Floats, outdoor: Floats | None, on: Bools) -> Floats:
    """Flow temperature of heating at each cell's outdoor temperature, (n,)."""
    use = on & np.isfinite(flow)
    if not use.any():
        return np.full(len(flow), np.inf)
    usual = float(np.percentile(flow[use][:: max(1, use.sum() // 50_000)], HOUSE))
    if outdoor is None:
        return np.full(len(flow), usual)
    known = use & np.isfinite(outdoor)
    key = np.floor(outdoor[known] / BIN).astype(np.int64)
    bins, values = [], []
    for one in np.unique(key).tolist():
        here = flow[known][key == one]
        if len(here) >= 60:
            bins.append((one + 0.5) * BIN)
            values.append(float(np.percentile(here[:: max(1, len(here) // 5_000)], HOUSE)))
    if len(bins) < 2:
        return np.full(len(flow), usual)
    # In warm weather hot water may be all that is made: there the last mild line holds.
    mild = [v for b, v in zip(bins, values, strict=True) if b <= HOT_WATER_DETECTION_MILD]
    falling = np.array(
        [
            min(v, mild[-1]) if mild and b > HOT_WATER_DETECTION_MILD else v
            for b, v in zip(bins, values, strict=True)
        ]
    )
    filled = np.where(np.isfinite(outdoor), outdoor, bins[len(bins) // 2])
    line: Floats = np.interp(filled, bins, falling)
    return line


def _joined(on: Bools, most: int) -> Bools:
    """Running with pauses of up to `most` cells in it."""
    edges = edges_of(on)
    if len(edges) < 4:
        return on
    gaps = edges[1:-1].reshape(-1, 2)
    short = gaps[gaps[:, 1] - gaps[:, 0] <= most]
    return on | mask_of([Span(a, b) for a, b in short.tolist()], len(on))


def _rising(tank: Floats, step: int) -> Bools:
    half = max(1, round(TANK_HALF / step))
    rising: Bools = np.zeros(len(tank), np.bool_)
    if len(tank) > 2 * half:
        slope = (tank[2 * half :] - tank[: -2 * half]) / (2 * half * step)
        rising[half:-half] = slope > TANK_RISE
    return rising


def _with_tank(charges: list[Span], rising: Bools, tank: Floats, step: int) -> Bools:
    """Charges in which the tank grows warmer, and what else makes it warmer while the unit runs."""
    n = len(tank)
    half = max(1, round(TANK_HALF / step))
    sure = []
    for span in charges:
        inside = tank[span.start : min(span.stop + 2, n)]
        known = inside[np.isfinite(inside)]
        # A tank that is drawn from at first ends no warmer than it began, but than it was.
        least = int(np.argmin(known)) if len(known) else 0
        if not len(known) or known[least:].max() - known[least] >= HOT_WATER_DETECTION_LEAST_RISE:
            sure.append(span)
    mask = mask_of(sure, n)
    for edge in spans_of(rising):
        if mask[max(0, edge.start - half) : min(n, edge.stop + half)].any():
            # Where the turn itself hardly shows, the tank says when it began.
            seen = edge.start + int(np.argmax(mask[edge.start : edge.stop]))
            if mask[seen] and seen - edge.start > 2 * half:
                mask[edge.start + half // 2 : seen] = True
            continue
        # No turn was seen: the rise itself, without what its slope was taken over.
        inner = Span(edge.start + half // 2, max(edge.start + half // 2, edge.stop - half))
        part = tank[edge.start : edge.stop]
        if len(inner) and np.nanmax(part) - np.nanmin(part) >= 2 * HOT_WATER_DETECTION_LEAST_RISE:
            mask[inner.start : inner.stop] = True
    return mask
