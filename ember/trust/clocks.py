"""Clocks that disagree: heat that comes long after, or before, the power that makes it."""

from typing import Any

import numpy as np

from ember.basis.clock import DAY, transitions
from ember.basis.codes import CheckCode
from ember.basis.periods import Period
from ember.basis.series import Floats, Span, filled, spans_of
from ember.description.installation import ClockShift
from ember.messages import words_of
from ember.trust.check import (
    Affects,
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import CheckContext, coarse

say = words_of(__name__)

CLOCKS_CELL = 300  # [s]
FURTHEST = 3 * 3600  # lags looked at [s]
LEAST_LAG = 10 * 60  # heat may follow by some minutes, common practice, chosen
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
        code=CheckCode.CLOCKS,
        soundness=Soundness.DOUBTFUL,
        sentence=say("sentence", sentence=found.sentence, said=context.said(holes)),
        spans=tuple(holes),
        remedy=say("remedy"),
        proposals=(),
        affects=(),
        picture=found.picture,
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
                        say("hour_missing"), Span(span.start + hole.start, span.start + hole.stop)
                    )
                )
    return holes


def _together(context: CheckContext) -> Check:
    """Heat against power, by the correlation of their changes at different lags."""
    trace = context.trace
    if context.unit is None or context.circuit is None or not context.unit.sampled:
        return not_checkable(CheckCode.CLOCKS, say("power_flow_delta"))
    if len(context.states.runs) < LEAST_STARTS:
        return not_checkable(
            CheckCode.CLOCKS, say("only_runs_record", runs=len(context.states.runs))
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
        say("heat_behind_power"),
        say("correlation_their_changes"),
        False,
        (series("lag", lags * cell / 60, match, "line"),),
    )
    lag = best * cell
    drifting = _drift(context, power, heat, cell)
    if drifting is not None:
        return drifting
    if peak < LEAST_MATCH:
        return not_checkable(CheckCode.CLOCKS, say("power_heat_change"))
    said = say("changes_heat_fit", lag=lag / 60)
    if abs(lag) < max(LEAST_LAG, cell + 1) or peak < BETTER * at_rest:
        return sound(CheckCode.CLOCKS, said, picture)
    side = say("ahead") if lag > 0 else say("behind")
    electric = tuple(
        m.channel
        for m in context.installation.electricity
        if m.name in context.meter_energies.electricity
    )
    return Check(
        code=CheckCode.CLOCKS,
        soundness=Soundness.DOUBTFUL,
        sentence=say("together_sentence", said=said),
        spans=(context.whole,),
        remedy=say("together_remedy"),
        proposals=(
            ClockShift(
                channels=electric,
                seconds=lag,
                reason=say("electricity_min_heat", lag=abs(lag) // 60, side=side),
            ),
        ),
        affects=(Affects.MOMENTS, Affects.COUNTS, Affects.CONDITIONS),
        picture=picture,
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
    faster = say("slow") if drift < 0 else say("fast")
    picture = Picture(
        "day",
        say("heat_behind_power"),
        False,
        (series("fortnight", x, y / 60), series("fit", x, (begin + drift * x) / 60, "line")),
    )
    # What heat takes to follow power is no fault of a clock.
    offset = begin if abs(begin) >= LEAST_LAG else 0.0
    return Check(
        code=CheckCode.CLOCKS,
        soundness=Soundness.DOUBTFUL,
        sentence=say(
            "drift_sentence", first=y[0] / 60, last=y[-1] / 60, drift=abs(drift), faster=faster
        ),
        spans=(context.whole,),
        remedy=say("drift_remedy"),
        proposals=(
            ClockShift(
                channels=electric,
                seconds=round(offset),
                drift=round(float(drift), 1),
                reason=say("clock_electricity_runs", drift=abs(drift)),
            ),
        ),
        affects=(Affects.MOMENTS, Affects.COUNTS, Affects.CONDITIONS),
        picture=picture,
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
