"""Water: ΔT too wide or too narrow, two pumps that fight, a buffer that mixes."""

import numpy as np

from ember.basis.codes import FindingCode, SourceCode, ViewCode
from ember.basis.practice import KELVIN_SAVES
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.messages import Source, words_of
from ember.views.control import CONTROL_FULL, LoadBand

say = words_of(__name__)

HYDRAULICS_USUAL = 5.0  # ΔT [K], common practice, agreed
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
        return band.delta * size / band.load, say("full_load_largest")
    return band.delta, say("largest_load")


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
    per_kelvin = context.control.per_kelvin or KELVIN_SAVES
    kwh = sum(
        (b.load or 0.0)
        / (b.cop or 3.0)
        * b.hours
        * per_kelvin
        * max((b.delta or 0.0) - HYDRAULICS_USUAL, 0.0)
        for b in context.control.load
    )
    lost = context.loss(kwh / 2, 0.35, say("kelvin_saves"))
    return context.finding(
        FindingCode.DELTA_TOO_WIDE,
        say("sentence", words=words, delta=delta),
        context.weight(measured.value - measured.U > context.limits.delta_wide, lost),
        [context.evidence(f"ΔT {words}", measured, context.limits.delta_wide, ViewCode.CONTROL)],
        [
            Cause(say("cause_dirty_strainer")),
            Cause(say("cause_narrow_primary")),
            Cause(say("cause_pump_speed")),
        ],
        say("next_check"),
        care("heating"),
        context.costed(lost, say("basis_flow_warmer")),
        care("pressure"),
        say("clears", delta_wide=context.limits.delta_wide),
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
        say("narrow_delta_sentence", delta=band.delta),
        Weight.ADVISORY,
        [
            context.evidence(
                say("delta_full_load"),
                _delta(band.delta),
                context.limits.delta_narrow,
                ViewCode.CONTROL,
                above=False,
            )
        ],
        [Cause(say("cause_pump_highest")), Cause(say("cause_pump_far"))],
        say("narrow_delta_next_check"),
        care("heating"),
        context.costed(None, say("basis_pump_would")),
        care("pressure"),
        say("narrow_delta_clears", delta_narrow=context.limits.delta_narrow),
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
    often = (say("starts_each_hour", rate=rate),) if rate > LEAST_SWING_STARTS else ()
    return context.finding(
        FindingCode.PUMPS_FIGHTING,
        say("fighting_pumps_sentence", middle=middle, share=share),
        Weight.ACTION if middle > context.limits.swing else Weight.ADVISORY,
        [
            context.evidence(
                say("swing_flow_over"),
                counted(middle),
                context.limits.swing,
                ViewCode.RUNNING,
                span=(first, first + 7200.0),
            )
        ],
        [
            Cause(say("cause_two_pumps"), often),
            Cause(say("cause_zone_valves")),
            Cause(say("cause_delta_control")),
        ],
        say("fighting_pumps_next_check"),
        care("heating"),
        context.costed(None, say("basis_costs_shows")),
        care("pressure"),
        say("fighting_pumps_clears", swing=context.limits.swing),
    )


def blending(context: FindingContext) -> Finding | None:
    """A buffer that mixes: the unit must run hotter than the emitters get."""
    seen = context.control.buffer
    if seen is None or seen.blending < context.limits.blending:
        return None
    lost = None if seen.cost is None else context.loss(seen.cost, 0.25, say("kelvin_saves"))
    gain: tuple[str, ...] = ()
    if seen.minutes is not None:
        gain = (say("runs_min_median", minutes=seen.minutes),)
    return context.finding(
        FindingCode.BUFFER_BLENDING,
        say("blending_sentence", blending=seen.blending),
        context.weight(True, lost),
        [
            context.evidence(
                say("primary_less_secondary"),
                _delta(seen.blending),
                context.limits.blending,
                ViewCode.CONTROL,
            )
        ],
        [
            Cause(say("cause_secondary_pump"), (), gain),
            Cause(say("cause_separator_where"), (), gain),
        ],
        say("blending_next_check"),
        care("heating"),
        context.costed(lost, say("blending_basis_flow_warmer")),
        care("pressure"),
        say("blending_clears", blending=context.limits.blending),
    )
