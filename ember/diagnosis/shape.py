"""Weak in a part of the conditions only: the frost band, small load, high flow temperature."""

import numpy as np

from ember.basis.codes import FindingCode, ViewCode
from ember.basis.quantity import Estimate, exact
from ember.basis.series import Bools
from ember.comparison.parts import FROST, HIGH_FLOW, ShapePart
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext
from ember.diagnosis.finding import Cause, Evidence, Finding
from ember.messages import words_of

say = words_of(__name__)

SHAPE_SURE = 3.0  # times its standard error, from which an effect of a part alone is believed
SHAPE_MOSTLY = 0.5  # of the difference that the part must explain alone


def _weak(context: FindingContext, part: ShapePart | None) -> bool:
    """Whether a part is weak against the rest, and is so by itself."""
    if part is None or part.ratio.value >= context.limits.uneven:
        return False
    own = part.alone < -SHAPE_SURE * part.alone_se and part.alone < SHAPE_MOSTLY * (
        part.ratio.value - 1
    )
    return own and part.inside.ratio.value < context.limits.below_rated + 0.05


def _sure(context: FindingContext, part: ShapePart) -> bool:
    return part.ratio.value + part.ratio.U < context.limits.uneven + 0.02


def _lost(context: FindingContext, part: ShapePart, mask: Bools | None) -> Estimate:
    """Electricity that the part would not have needed at the ratio of the rest [kWh].

    Parameters
    ----------
    mask : Bools | None
        segments of which all running is taken to lack the same, None: the compared running
        alone.
    """
    short = exact(1.0, "") - part.ratio
    compared = part.inside.measured.electricity.value
    if mask is None:
        return short.scaled(compared, "kWh")
    return context.lacking(compared, mask, short)


def _between(context: FindingContext, name: str, low: float, high: float) -> Bools:
    """Segments whose mean of a temperature lies between two values [degC]."""
    sums = context.analysis.segments.sums
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = sums[name] / sums[f"{name} known"]
    found: Bools = (mean >= low) & (mean <= high)
    return found


def _evidence(context: FindingContext, part: ShapePart) -> list[Evidence]:
    return [
        context.evidence(
            say("performance_ratio_over", name=part.name),
            part.ratio,
            context.limits.uneven,
            ViewCode.RATING,
            above=False,
        ),
        context.evidence(
            say("performance_ratio", name=part.name),
            part.inside.ratio,
            context.limits.below_rated,
            ViewCode.RATING,
            above=False,
        ),
    ]


def _finding(
    context: FindingContext,
    code: FindingCode,
    part: ShapePart,
    sentence: str,
    causes: list[Cause],
    check: str,
    who: str,
    caution: str,
    mask: Bools | None = None,
) -> Finding:
    lost = _lost(context, part, mask)
    return context.finding(
        code,
        sentence,
        context.weight(_sure(context, part), lost),
        _evidence(context, part),
        causes,
        check,
        who,
        context.costed(lost, say("basis_running_against", name=part.name)),
        caution,
        say("clears", name=part.name, uneven=1 - context.limits.uneven),
    )


def below_in_frost(context: FindingContext) -> Finding | None:
    """Below rated in the frost band only."""
    part = context.parts.frost
    if not _weak(context, part):
        return None
    assert part is not None
    said = context.defrosts.said
    odd = tuple(s.words for s in said)
    return _finding(
        context,
        FindingCode.BELOW_RATED_IN_FROST,
        part,
        say("worse_between_than", worse=1 - part.ratio.value),
        [
            Cause(say("cause_frost_stays"), odd),
            Cause(
                say("cause_defrosts_too"),
                odd,
                () if odd else (say("their_intervals_ends"),),
            ),
            Cause(say("cause_exhaust_air")),
        ],
        say("look_coil_just"),
        say("looking_anyone_cleaning"),
        care("ice"),
        _between(context, "outdoor", *FROST),
    )


def below_at_part_load(context: FindingContext) -> Finding | None:
    """Below rated at small load only."""
    part = context.parts.small_load
    if not _weak(context, part):
        return None
    assert part is not None
    minutes = context.runs.minutes
    short = (say("half_runs_shorter", minutes=minutes),) if minutes else ()
    return _finding(
        context,
        FindingCode.BELOW_RATED_AT_PART_LOAD,
        part,
        say("worse_small_load", worse=1 - part.ratio.value),
        [
            Cause(
                say("cause_cycling_between"),
                short if minutes and minutes < 20 else (),
                short if minutes and minutes >= 20 else (),
            ),
            Cause(say("cause_unit_larger")),
            Cause(say("cause_fans_pumps")),
        ],
        say("watch_mild_day"),
        care("anybody"),
        care("mains", "refrigerant"),
    )


def below_at_high_flow(context: FindingContext) -> Finding | None:
    """Below rated at high flow temperature only."""
    part = context.parts.high_flow
    if not _weak(context, part):
        return None
    assert part is not None
    seen = context.inside.whole
    water = seen.approach_water if seen else None
    gauges = (say("condensing_above_flow", water=water),) if water is not None else ()
    return _finding(
        context,
        FindingCode.BELOW_RATED_AT_HIGH_FLOW,
        part,
        say("worse_warm_flow", worse=1 - part.ratio.value),
        [
            Cause(say("cause_condenser_transfers"), gauges),
            Cause(say("cause_curve_steeper")),
            Cause(say("cause_compressor_near")),
        ],
        say("lower_curve_week"),
        say("inside_unit", anybody=care("anybody"), technician=care("technician").lower()),
        care("mains", "refrigerant"),
        _between(context, "flow", HIGH_FLOW, 99.0),
    )
