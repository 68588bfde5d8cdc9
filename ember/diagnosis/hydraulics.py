"""Water: ΔT too wide or too narrow, two pumps that fight, a buffer that mixes."""

import numpy as np

from ember.basis.codes import FindingCode, SourceCode, ViewCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.diagnosis.care import CARE_PRESSURE, HEATING
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.messages import Source
from ember.views.control import CONTROL_FULL, LoadBand

HYDRAULICS_USUAL = 5.0  # ΔT [K], common practice
SENSORS = 0.15  # standard uncertainty of a ΔT [K], common practice
HYDRAULICS_STEADY = 1.15  # between the flows of all loads, for it to count as unchanging
FAR = 0.4  # of the capacity, from which full load may be told from the largest load seen
FIGHTING_HOURS = 24  # with a swinging flow
HYDRAULICS_OFTEN = 0.25  # of the running hours
LEAST_SWING_STARTS = 1.0  # starts an hour of running


def _strongest(context: FindingContext) -> LoadBand | None:
    return context.control.load[-1] if context.control.load else None


def _delta(value: float, scaled: float = 1.0) -> Estimate:
    return Estimate(
        value, "kelvin", (UncertaintyComponent(Source(SourceCode.SENSOR_PAIR), SENSORS * scaled),)
    )


def _at_full(context: FindingContext, band: LoadBand) -> tuple[float, str] | None:
    """ΔT at the largest load, or what it would be at full load: with a flow that does not change
    it grows with the heat."""
    size, loads = context.installation.unit.capacity_kw, context.control.load
    if band.delta is None or not band.load:
        return None
    water = [b.water for b in loads if b.water]
    steady = len(water) > 2 and max(water) < HYDRAULICS_STEADY * min(water)
    if steady and size and FAR * size < band.load < size:
        return band.delta * size / band.load, "at full load, from the largest seen"
    return band.delta, "at the largest load"


def wide_delta(context: FindingContext) -> Finding | None:
    """Too little flow: ΔT wide at large load."""
    band = _strongest(context)
    found = _at_full(context, band) if band is not None else None
    if band is None or found is None or band.delta is None:
        return None
    delta, words = found
    if delta <= context.limits.delta_wide:
        return None
    measured = _delta(delta, delta / band.delta)
    # The mean water stays what the emitters need; the flow lies half the excess above it.
    per_kelvin = context.control.per_kelvin or 0.025
    kwh = sum(
        (b.load or 0.0)
        / (b.cop or 3.0)
        * b.hours
        * per_kelvin
        * max((b.delta or 0.0) - HYDRAULICS_USUAL, 0.0)
        for b in context.control.load
    )
    lost = context.loss(kwh / 2, 0.35, "what a kelvin saves")
    return context.finding(
        FindingCode.DELTA_TOO_WIDE,
        f"ΔT {words} is {delta:.1f} K: too little flow (4 to 8 K is usual).",
        context.weight(measured.value - measured.U > context.limits.delta_wide, lost),
        [context.evidence(f"ΔT {words}", measured, context.limits.delta_wide, ViewCode.CONTROL)],
        [
            Cause("a dirty strainer, or a valve half shut"),
            Cause("narrow primary pipes: 22 mm copper carries about 5 to 6 kW at 5 K"),
            Cause("the pump's speed set too low"),
        ],
        "Clean the strainer, look at the pump's setting, then measure the pipe to the first "
        "branch.",
        HEATING,
        context.costed(lost, "of a flow warmer by half of what ΔT is too wide"),
        CARE_PRESSURE,
        f"ΔT at full load at or below {context.limits.delta_wide:g} K.",
    )


def narrow_delta(context: FindingContext) -> Finding | None:
    """Too much flow: ΔT narrow at full load."""
    band, size = _strongest(context), context.installation.unit.capacity_kw
    if (
        band is None
        or band.delta is None
        or size is None
        or (band.load or 0.0) < CONTROL_FULL * size
    ):
        return None
    if band.delta >= context.limits.delta_narrow:
        return None
    return context.finding(
        FindingCode.DELTA_TOO_NARROW,
        f"ΔT at full load is {band.delta:.1f} K: more flow than is needed.",
        Weight.ADVISORY,
        [
            context.evidence(
                "ΔT at full load",
                _delta(band.delta),
                context.limits.delta_narrow,
                ViewCode.CONTROL,
                above=False,
            )
        ],
        [Cause("a pump at its highest fixed speed"), Cause("a pump far too large")],
        "Lower the pump's speed until ΔT at full load is about 5 K.",
        HEATING,
        context.costed(None, "what the pump would save is not worked out"),
        CARE_PRESSURE,
        f"ΔT at full load at or above {context.limits.delta_narrow:g} K.",
    )


def fighting_pumps(context: FindingContext) -> Finding | None:
    """Two pumps in series: the unit's flow swings, and it stops and starts."""
    of, inside = context.ran.hours.of, context.within.hours()
    swing = of["swing"]
    known = inside & np.isfinite(swing)
    if known.sum() < FIGHTING_HOURS:
        return None
    swings = known & (swing > context.limits.swing)
    share = float(swings.sum() / known.sum())
    if swings.sum() < FIGHTING_HOURS or share < HYDRAULICS_OFTEN:
        return None
    middle = float(np.median(swing[known]))
    first = float(context.ran.hours.start + 3600 * int(swings.argmax()))
    on = float(of["on"][inside].sum()) / 3600
    rate = float(of["starts"][inside].sum()) / on if on else 0.0
    often = (f"{rate:.1f} starts in each hour of running",) if rate > LEAST_SWING_STARTS else ()
    return context.finding(
        FindingCode.PUMPS_FIGHTING,
        f"The flow swings by {middle:.0%} within the hour in {share:.0%} of the hours: two pumps "
        "may work against each other.",
        Weight.ACTION if middle > context.limits.swing else Weight.ADVISORY,
        [
            context.evidence(
                "swing of the flow over its mean, median of the hours",
                counted(middle),
                context.limits.swing,
                ViewCode.RUNNING,
                span=(first, first + 7200.0),
            )
        ],
        [
            Cause("two pumps in series without a separator", often),
            Cause("zone valves that open and close all the time"),
            Cause("a ΔT control that hunts"),
        ],
        "Count the pumps and who drives them; switch one to fixed speed for a day and watch the "
        "flow.",
        HEATING,
        context.costed(None, "what it costs shows in starts and in ΔT"),
        CARE_PRESSURE,
        f"Swing below {context.limits.swing:.0%} in three hours of four.",
    )


def blending(context: FindingContext) -> Finding | None:
    """A buffer that mixes: the unit must run hotter than the emitters get."""
    seen = context.control.buffer
    if seen is None or seen.blending < context.limits.blending:
        return None
    lost = None if seen.cost is None else context.loss(seen.cost, 0.25, "what a kelvin saves")
    gain: tuple[str, ...] = ()
    if seen.minutes is not None:
        gain = (f"runs of {seen.minutes:.0f} min (median) are what it gives",)
    return context.finding(
        FindingCode.BUFFER_BLENDING,
        f"The buffer mixes: the unit makes {seen.blending:.1f} K more than the emitters get.",
        context.weight(True, lost),
        [
            context.evidence(
                "primary less secondary flow temperature",
                _delta(seen.blending),
                context.limits.blending,
                ViewCode.CONTROL,
            )
        ],
        [
            Cause("the secondary pump moves more water than the unit's", (), gain),
            Cause("a separator where a straight circuit would do", (), gain),
        ],
        "Match the flows on both sides, or try the circuit without the separator for two weeks "
        "and compare run lengths.",
        HEATING,
        context.costed(lost, "of a flow warmer by what is mixed away"),
        CARE_PRESSURE,
        f"Less than {context.limits.blending:g} K between primary and secondary flow.",
    )
