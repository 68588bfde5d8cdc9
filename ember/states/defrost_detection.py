"""Defrosts: from a flag, from the water, or from the air of an indoor unit."""

from collections.abc import Sequence

import numpy as np

from ember.basis.codes import KnownBy
from ember.basis.series import Bools, Floats, Ints, Span, Trace, spans_of
from ember.description.installation import AirCircuit, Installation, UnitKind, WaterCircuit
from ember.messages import words_of
from ember.states.hot_water_detection import pair_of
from ember.states.state import Basis, Known

say = words_of(__name__)

# Common practice, all of them; docs/methods.md says what each is for.
DELTA = -0.5  # flow minus return [K]
DEFROST_DETECTION_LONGEST = 1200.0  # a longer negative ΔT is no defrost [s]
DEFROST_DETECTION_WARMEST = 12.0  # outdoor temperature above which no coil frosts [degC]
DEFROST_DETECTION_FALL = 1.5  # by which the flow temperature falls at least [K]
DEFROST_DETECTION_COARSEST = 180.0  # readings further apart miss some [s]
TURNED = 90.0  # of a negative ΔT that the valve's turn alone may make [s]
MOVED = 0.15  # by which the power changes in a defrost at least, as a share of that before it
RUNNING = 0.5  # of a defrost in which the compressor runs, at least
STUCK_RANGE = 15.0  # that the other moves meanwhile [K]
STUCK = 6 * 3600.0  # for which a sensor that has not moved says nothing [s]
CHANGE_OVER = 240.0  # for which the valve's turning may turn ΔT round as well [s]
DEFROST_DETECTION_BEFORE = 300.0  # within which the unit ran, and the flow was warm, before it [s]
RISE_LEFT = 0.15  # of its usual rise over the room that supply air keeps at most

Found = tuple[list[Span], Basis, Known]


def defrosts(
    installation: Installation,
    trace: Trace,
    water: WaterCircuit | None,
    air: AirCircuit | None,
    on: Bools,
    young: Bools,
    switches: Ints,
    power: Floats | None = None,
) -> Found:
    """Each defrost, and how it is known.

    Parameters
    ----------
    water, air : WaterCircuit | None
        the circuit whose temperatures tell them.
    on : array, (n,)
        Where the compressor runs.
    young : Bools
        where a run has just begun.
    switches : Ints
        cells in which the valve turns between heating and hot water.
    power : array, (n,)
        Of the unit's meter [W], None where it is not known cell by cell.

    Source: reversed heat flow for minutes in cold air, common practice.
    """
    if "defrost_on" in trace:
        return (
            spans_of(trace["defrost_on"] > 0.5),
            Basis.FLAG,
            Known(KnownBy.FLAG, say("flag_defrost")),
        )
    if installation.unit.kind == UnitKind.GROUND_SOURCE:
        return [], Basis.INFERRED, Known(KnownBy.NONE_THERE, say("none_ground_source"))
    names = pair_of(trace, water)
    if names is not None and air is None:
        rate = trace[water.flow_rate] if water is not None else None
        found = _by_water(installation, trace, names, rate, on, young, switches, power)
        return (
            found,
            Basis.INFERRED,
            Known(KnownBy.WATER, say("inferred_delta_negative")),
        )
    if air is not None:
        found = _by_air(installation, trace, air, on, young)
        return (
            found,
            Basis.INFERRED,
            Known(KnownBy.AIR, say("inferred_supply_air")),
        )
    why = say("not_known_neither")
    return [], Basis.NOT_KNOWN, Known(KnownBy.NOTHING, why)


def little_flow(flow: Floats) -> float:
    """A flow below which the pump rests [m3/s]: a tenth of the usual, of a sample."""
    sample = flow[:: max(1, len(flow) // 20_000)]
    sample = sample[sample > 0]
    return 0.1 * float(np.median(sample)) if len(sample) else np.inf


def _cold_enough(installation: Installation, trace: Trace, mask: Bools) -> Bools:
    if installation.outdoor.channel in trace:
        mask &= ~(trace[installation.outdoor.channel] > DEFROST_DETECTION_WARMEST)
    return mask


def _by_water(
    installation: Installation,
    trace: Trace,
    names: tuple[str, str],
    flow_rate: Floats | None,
    on: Bools,
    young: Bools,
    switches: Ints,
    power: Floats | None,
) -> list[Span]:
    """Defrosts told by the water.

    Parameters
    ----------
    names : tuple[str, str]
        channels of flow and return temperature.
    flow_rate : Floats | None
        array, (n,)  [m3/s], or None.
    """
    step = trace.step
    flow_temp, return_temp = trace[names[0]], trace[names[1]]
    cold = flow_temp - return_temp < DELTA
    if flow_rate is not None:
        cold &= ~(flow_rate <= little_flow(flow_rate))
    cold = _cold_enough(installation, trace, cold) & ~young
    if cold.any():
        cold &= ~_still(return_temp, flow_temp, step)
    back = max(1, round(DEFROST_DETECTION_BEFORE / step))
    turning = max(1, round(CHANGE_OVER / step))
    found = []
    every = spans_of(_joined(cold, on, step))
    fell = _fall(flow_temp, every, back) >= DEFROST_DETECTION_FALL
    for span, falls in zip(every, fell.tolist(), strict=True):
        if len(span) * step > DEFROST_DETECTION_LONGEST or not falls:
            continue
        k = int(np.searchsorted(switches, span.start + 1)) - 1
        turned = k >= 0 and span.stop - switches[k] <= turning
        if turned and (len(span) * step <= TURNED or not _moved(power, span, back)):
            continue  # over before the valve's turning has settled
        ran = on[max(0, span.start - back) : span.start + 1].any()
        # It takes the compressor; a still one may leave the return warmer than the flow.
        if ran and on[span.start : span.stop].mean() >= RUNNING:
            found.append(span)
    return found


def _fall(flow_temp: Floats, spans: Sequence[Span], back: int) -> Floats:
    """By how much the water is colder at its coldest in each span than at its warmest from `back`
    cells before it to its first, (k,) [K]; NaN where nothing is known."""
    start = np.array([span.start for span in spans], np.int64)
    stop = np.array([span.stop for span in spans], np.int64)
    before = flow_temp[np.maximum(start[:, None] - np.arange(back + 1), 0)]
    edges = np.column_stack([start, stop]).ravel()
    least = np.fmin.reduceat(np.append(flow_temp, np.nan), edges)[::2] if len(spans) else start
    fall: Floats = np.fmax.reduce(before, axis=1) - least
    return fall


def _moved(power: Floats | None, span: Span, back: int) -> bool:
    """Whether the power changes with a defrost, as it does when the unit reverses."""
    if power is None:
        return False
    before = np.nanmedian(power[max(0, span.start - back) : max(1, span.start)])
    within = power[span.start : span.stop]
    return bool(np.nanmax(np.abs(within - before)) > MOVED * abs(before))


def _still(values: Floats, other: Floats, step: int) -> Bools:
    """Where a reading has not moved at all for long, though the other has by much, (n,)."""
    change = np.flatnonzero(np.diff(values, prepend=np.nan) != 0)
    length = np.diff(np.append(change, len(values)))
    stuck = length * step > STUCK
    for k in np.flatnonzero(stuck).tolist():
        part = other[change[k] : change[k] + length[k]]
        stuck[k] = bool(np.nanmax(part) - np.nanmin(part) > STUCK_RANGE) if len(part) else False
    mask: Bools = np.repeat(stuck, length)
    return mask


def _joined(cold: Bools, on: Bools, step: int) -> Bools:
    """The same with single cells between two filled, which noise has torn."""
    if step > 120:
        return cold
    filled = cold.copy()
    filled[1:-1] |= cold[:-2] & cold[2:] & on[1:-1]
    return filled


def _by_air(
    installation: Installation, trace: Trace, air: AirCircuit, on: Bools, young: Bools
) -> list[Span]:
    step = trace.step
    rise = trace[air.supply_temp] - trace[air.return_temp]
    usual = rise[:: max(1, len(rise) // 20_000)][on[:: max(1, len(rise) // 20_000)]]
    usual = usual[usual > 0]
    if not len(usual):
        return []
    cold = (rise < min(1.0, RISE_LEFT * float(np.median(usual)))) & on
    cold = _cold_enough(installation, trace, cold) & ~young
    back = max(1, round(DEFROST_DETECTION_BEFORE / step))
    return [
        span
        for span in spans_of(cold)
        if len(span) * step <= DEFROST_DETECTION_LONGEST
        and on[max(0, span.start - back) : span.start + 1].all()
        and rise[max(0, span.start - back)] > 1.0
        and on[min(span.stop, len(on) - 1)]  # the fall at the end of a run is none
    ]
