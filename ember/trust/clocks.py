"""Clocks that disagree: heat that comes long after, or before, the power that makes it."""

from typing import Any

import numpy as np

from ember.clock import transitions
from ember.installation import ClockShift
from ember.period import Period
from ember.trace import Floats, Span, spans_of
from ember.trust.check import (
    Check,
    Picture,
    Soundness,
    Touches,
    not_checkable,
    series,
    sound,
)
from ember.trust.seen import Seen, coarse, filled

NAME = "clocks"
CELL = 300  # [s]
FURTHEST = 3 * 3600  # lags looked at [s]
LEAST_LAG = 10 * 60  # heat may follow by some minutes, common practice
LEAST_MATCH = 0.2  # correlation of the changes
BETTER = 1.25  # by which another lag must fit better than none
LEAST_STARTS = 12


def clocks(seen: Seen) -> Check:
    """Whether heat and power change at the same time, and whether an hour is missing where the
    clocks change. Source: cross-correlation; limits common practice."""
    found = _together(seen)
    holes = _missing_hours(seen)
    if found.unsound or not holes:
        return found
    return Check(
        NAME,
        Soundness.DOUBTFUL,
        f"{found.sentence} An hour without readings where the clocks change: {seen.said(holes)}. A "
        "logger that keeps wall-clock time loses or doubles it.",
        tuple(holes),
        "Say in Set up which clock the log keeps, and import it again; or let the logger keep UTC.",
        (),
        (),
        found.picture,
    )


def _missing_hours(seen: Seen) -> list[Period]:
    """Holes of about an hour in everything that is logged, within an hour of a change of clocks."""
    trace, holes = seen.trace, []
    since, _ = transitions(seen.zone, trace.start, trace.stop)
    for instant in since[1:].tolist():
        span = Span(trace.cell(instant - 3 * 3600), trace.cell(instant + 3 * 3600))
        known = np.zeros(len(span), np.bool_)
        for values in trace.channels.values():
            known |= np.isfinite(values[span.start : span.stop])
        for hole in spans_of(~known):
            length = len(hole) * trace.step
            if 3000 <= length <= 4200 and hole.start > 0 and hole.stop < len(span):
                holes.append(
                    seen.period(
                        "hour missing", Span(span.start + hole.start, span.start + hole.stop)
                    )
                )
    return holes


def _together(seen: Seen) -> Check:
    """Heat against power, by the correlation of their changes at different lags."""
    trace = seen.trace
    if seen.unit is None or seen.circuit is None or not seen.unit.sampled:
        return not_checkable(NAME, "Power and flow × ΔT are not both logged.")
    if len(seen.states.runs) < LEAST_STARTS:
        return not_checkable(NAME, f"Only {len(seen.states.runs)} runs in the record.")
    per, _ = seen.clock(CELL)
    cell = per * trace.step
    power = _change(coarse(np.where(seen.left_out, np.nan, seen.unit.energy), per))
    heat = _change(coarse(np.maximum(seen.streams.heat[seen.circuit.name].energy, 0.0), per))
    most = round(FURTHEST / cell)
    lags = np.arange(-most, most + 1)
    match = _correlation(power, heat, lags)
    best = int(lags[np.argmax(match)])
    at_rest = float(max(match[most], match[most + 1]))
    peak = float(match.max())
    picture = Picture(
        "heat behind power [min]", "correlation of their changes", False,
        (series("lag", lags * cell / 60, match, "line"),),
    )  # fmt: skip
    lag = best * cell
    if peak < LEAST_MATCH:
        return not_checkable(NAME, "Power and heat change too little together to compare clocks.")
    said = f"Changes of heat fit those of power best {lag / 60:.0f} min later."
    if abs(lag) < max(LEAST_LAG, cell + 1) or peak < BETTER * at_rest:
        return sound(NAME, said, picture)
    side = "ahead of" if lag > 0 else "behind"
    electric = tuple(
        m.channel for m in seen.installation.electricity if m.name in seen.streams.electricity
    )
    return Check(
        NAME,
        Soundness.DOUBTFUL,
        f"{said} Heat follows power within some minutes; two clocks disagree.",
        (seen.whole,),
        "Move the electricity to the heat, or the other way round: which clock is right, the "
        "logger or the change of summer time tells. COPs of runs and states are wrong until then.",
        (
            ClockShift(
                channels=electric, seconds=lag,
                reason=f"electricity {abs(lag) // 60} min {side} the heat",
            ),
        ),
        (Touches.MOMENTS, Touches.COUNTS, Touches.CONDITIONS),
        picture,
    )  # fmt: skip


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
