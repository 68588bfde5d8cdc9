"""Clocks that disagree: heat that comes long after, or before, the power that makes it."""

from typing import Any

import numpy as np

from ember.basis.clock import DAY, transitions
from ember.basis.codes import CheckCode
from ember.basis.periods import Period
from ember.basis.series import Floats, Span, spans_of
from ember.description.installation import ClockShift
from ember.trust.check import (
    Affects,
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import CheckContext, coarse, filled

CLOCKS_CELL = 300  # [s]
FURTHEST = 3 * 3600  # lags looked at [s]
LEAST_LAG = 10 * 60  # heat may follow by some minutes, common practice
LEAST_MATCH = 0.2  # correlation of the changes
BETTER = 1.25  # by which another lag must fit better than none
LEAST_STARTS = 12
WINDOW = 14 * DAY  # in which the lag is taken by itself, to see whether it grows [s]
LEAST_WINDOWS = 4


def clocks(context: CheckContext) -> Check:
    """Whether heat and power change at the same time, and whether an hour is missing where the
    clocks change. Source: cross-correlation; limits common practice."""
    found = _together(context)
    holes = _missing_hours(context)
    if found.unsound or not holes:
        return found
    return Check(
        CheckCode.CLOCKS,
        Soundness.DOUBTFUL,
        f"{found.sentence} An hour without readings where the clocks change: "
        f"{context.said(holes)}. A "
        "logger that keeps wall-clock time loses or doubles it.",
        tuple(holes),
        "Say in Set up which clock the log keeps, and import it again; or let the logger keep UTC.",
        (),
        (),
        found.picture,
    )


def _missing_hours(context: CheckContext) -> list[Period]:
    """Holes of about an hour in everything that is logged, within an hour of a change of clocks."""
    trace, holes = context.trace, []
    since, _ = transitions(context.zone, trace.start, trace.stop)
    for instant in since[1:].tolist():
        span = Span(trace.cell(instant - 3 * 3600), trace.cell(instant + 3 * 3600))
        known = np.zeros(len(span), np.bool_)
        for values in trace.channels.values():
            known |= np.isfinite(values[span.start : span.stop])
        for hole in spans_of(~known):
            length = len(hole) * trace.step
            if 3000 <= length <= 4200 and hole.start > 0 and hole.stop < len(span):
                holes.append(
                    context.period(
                        "hour missing", Span(span.start + hole.start, span.start + hole.stop)
                    )
                )
    return holes


def _together(context: CheckContext) -> Check:
    """Heat against power, by the correlation of their changes at different lags."""
    trace = context.trace
    if context.unit is None or context.circuit is None or not context.unit.sampled:
        return not_checkable(CheckCode.CLOCKS, "Power and flow × ΔT are not both logged.")
    if len(context.states.runs) < LEAST_STARTS:
        return not_checkable(
            CheckCode.CLOCKS, f"Only {len(context.states.runs)} runs in the record."
        )
    per, _ = context.clock(CLOCKS_CELL)
    cell = per * trace.step
    power = _change(coarse(np.where(context.left_out, np.nan, context.unit.energy), per))
    heat = _change(
        coarse(np.maximum(context.meter_energies.heat[context.circuit.name].energy, 0.0), per)
    )
    most = round(FURTHEST / cell)
    lags = np.arange(-most, most + 1)
    match = _correlation(power, heat, lags)
    best = int(lags[np.argmax(match)])
    at_rest = float(max(match[most], match[most + 1]))
    peak = float(match.max())
    picture = Picture(
        "heat behind power [min]",
        "correlation of their changes",
        False,
        (series("lag", lags * cell / 60, match, "line"),),
    )
    lag = best * cell
    drifting = _drift(context, power, heat, cell)
    if drifting is not None:
        return drifting
    if peak < LEAST_MATCH:
        return not_checkable(
            CheckCode.CLOCKS, "Power and heat change too little together to compare clocks."
        )
    said = f"Changes of heat fit those of power best {lag / 60:.0f} min later."
    if abs(lag) < max(LEAST_LAG, cell + 1) or peak < BETTER * at_rest:
        return sound(CheckCode.CLOCKS, said, picture)
    side = "ahead of" if lag > 0 else "behind"
    electric = tuple(
        m.channel
        for m in context.installation.electricity
        if m.name in context.meter_energies.electricity
    )
    return Check(
        CheckCode.CLOCKS,
        Soundness.DOUBTFUL,
        f"{said} Heat follows power within some minutes; two clocks disagree.",
        (context.whole,),
        "Move the electricity to the heat, or the other way round: which clock is right, the "
        "logger or the change of summer time tells. COPs of runs and states are wrong until then.",
        (
            ClockShift(
                channels=electric,
                seconds=lag,
                reason=f"electricity {abs(lag) // 60} min {side} the heat",
            ),
        ),
        (Affects.MOMENTS, Affects.COUNTS, Affects.CONDITIONS),
        picture,
    )


def _drift(context: CheckContext, power: Floats, heat: Floats, cell: int) -> Check | None:
    """A lag that grows over the record: one of two clocks runs fast or slow. None where it does
    not, or where the lags of single fortnights are not to be seen."""
    per = round(WINDOW / cell)
    most = round(FURTHEST / cell)
    lags = np.arange(-most, most + 1)
    at, found = [], []
    for first in range(0, len(power) - per // 2, per):
        part = slice(first, first + per)
        match = _correlation(power[part], heat[part], lags)
        k = int(np.argmax(match))
        if match[k] < LEAST_MATCH or not 0 < k < len(lags) - 1:
            continue
        # The top of a parabola through the three highest.
        low, top, high = match[k - 1 : k + 2]
        between = 0.5 * (low - high) / (low - 2 * top + high)
        at.append((first + per / 2) * cell / DAY)
        found.append((lags[k] + between) * cell)
    if len(at) < LEAST_WINDOWS:
        return None
    x, y = np.array(at), np.array(found)
    drift, begin = np.polyfit(x, y, 1)
    left = float(np.median(np.abs(y - begin - drift * x)))
    length = len(power) * cell / DAY
    if abs(drift) * length < LEAST_LAG or left > 0.2 * abs(drift) * length:
        return None
    electric = tuple(
        m.channel
        for m in context.installation.electricity
        if m.name in context.meter_energies.electricity
    )
    faster = "slow" if drift < 0 else "fast"
    picture = Picture(
        "day",
        "heat behind power [min]",
        False,
        (series("fortnight", x, y / 60), series("fit", x, (begin + drift * x) / 60, "line")),
    )
    # What heat takes to follow power is no fault of a clock.
    offset = begin if abs(begin) >= LEAST_LAG else 0.0
    return Check(
        CheckCode.CLOCKS,
        Soundness.DOUBTFUL,
        f"Heat follows power {y[0] / 60:.0f} min later at first and {y[-1] / 60:.0f} min later at "
        f"the end: one of two clocks runs {abs(drift):.0f} s a day {faster}.",
        (context.whole,),
        "Straighten the clock of the electricity, or set it once more and say since when. COPs of "
        "runs and states are wrong until then.",
        (
            ClockShift(
                channels=electric,
                seconds=round(offset),
                drift=round(float(drift), 1),
                reason=f"clock of the electricity runs {abs(drift):.0f} s a day off",
            ),
        ),
        (Affects.MOMENTS, Affects.COUNTS, Affects.CONDITIONS),
        picture,
    )


def _change(values: Floats) -> Floats:
    return filled(np.diff(values))


def _correlation(x: Floats, y: Floats, lags: Any) -> Floats:
    """Σ x(t)·y(t + lag), normalised, by the fast Fourier transform."""
    size = 1 << int(len(x) + lags[-1]).bit_length()
    spectrum = np.conj(np.fft.rfft(x, size)) * np.fft.rfft(y, size)
    product = np.fft.irfft(spectrum, size)
    scale = float(np.sqrt((x @ x) * (y @ y))) or 1.0
    result: Floats = product[lags] / scale
    return result
