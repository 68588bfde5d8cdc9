"""Weak in a part of the conditions only: the frost band, small load, high flow temperature."""

import numpy as np

from ember.basis.codes import FindingCode, ViewCode
from ember.basis.quantity import Estimate, exact
from ember.basis.series import Bools
from ember.comparison.parts import FROST, HIGH_FLOW, ShapePart
from ember.diagnosis.care import ANYBODY, CARE_REFRIGERANT, ICE, TECHNICIAN
from ember.diagnosis.context import FindingContext
from ember.diagnosis.finding import Cause, Evidence, Finding

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
    """Electricity that the part would not have needed at the ratio of the rest [kWh]; mask :
    segments of which all running is taken to lack the same, None: the compared running alone."""
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
            f"performance ratio at {part.name} over that of the rest",
            part.ratio,
            context.limits.uneven,
            ViewCode.RATING,
            above=False,
        ),
        context.evidence(
            f"performance ratio at {part.name}",
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
        context.costed(lost, f"of the running at {part.name}, against the ratio of the rest"),
        caution,
        f"The ratio at {part.name} within {1 - context.limits.uneven:.0%} of the rest.",
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
        f"{1 - part.ratio.value:.0%} worse between −4 and +4 °C than elsewhere: the frost band.",
        [
            Cause("frost that stays on the coil: blocked, dirty, or badly cleared", odd),
            Cause(
                "defrosts too rare or too short",
                odd,
                () if odd else ("their intervals and ends look usual",),
            ),
            Cause("exhaust air or splash water that reaches the coil"),
        ],
        "Look at the coil just before and after a defrost in damp weather near 0 °C; watch one "
        "from start to end.",
        "Looking: anyone. Cleaning: with the unit isolated. Sensors and settings of the defrost: "
        "a certified technician.",
        ICE,
        _between(context, "outdoor", *FROST),
    )


def below_at_part_load(context: FindingContext) -> Finding | None:
    """Below rated at small load only."""
    part = context.parts.small_load
    if not _weak(context, part):
        return None
    assert part is not None
    minutes = context.runs.minutes
    short = (f"half of the runs are shorter than {minutes:.0f} min",) if minutes else ()
    return _finding(
        context,
        FindingCode.BELOW_RATED_AT_PART_LOAD,
        part,
        f"{1 - part.ratio.value:.0%} worse at small load than at larger: weak at part load.",
        [
            Cause(
                "cycling between starts",
                short if minutes and minutes < 20 else (),
                short if minutes and minutes >= 20 else (),
            ),
            Cause("a unit larger than the house needs at most times"),
            Cause("fans or pumps at full speed whatever the load"),
        ],
        "Watch a mild day: compressor speed, fan and pump against the heat that is asked for.",
        ANYBODY,
        CARE_REFRIGERANT,
    )


def below_at_high_flow(context: FindingContext) -> Finding | None:
    """Below rated at high flow temperature only."""
    part = context.parts.high_flow
    if not _weak(context, part):
        return None
    assert part is not None
    seen = context.inside.whole
    water = seen.approach_water if seen else None
    gauges = (f"condensing {water:.1f} K above the flow",) if water is not None else ()
    return _finding(
        context,
        FindingCode.BELOW_RATED_AT_HIGH_FLOW,
        part,
        f"{1 - part.ratio.value:.0%} worse with warm flow than with cooler: weak at high flow "
        "temperature.",
        [
            Cause("a condenser that transfers badly: scaled, or too little flow", gauges),
            Cause("a curve steeper than the house needs; hot water set too hot"),
            Cause("the compressor near the edge of its range"),
        ],
        "Lower the curve by 2 K for a week and watch the rooms; then look at strainer and flow.",
        f"{ANYBODY} Inside the unit: {TECHNICIAN.lower()}",
        CARE_REFRIGERANT,
        _between(context, "flow", HIGH_FLOW, 99.0),
    )
