"""A COP beyond the rated table: a boundary or unit mistake, or a phase without a clamp."""

from ember.basis.codes import CheckCode
from ember.description.installation import Factor, part_load_is_better
from ember.messages import NotAvailable
from ember.trust.check import (
    Affects,
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import CheckContext
from ember.trust.ratios import named

TOO_GOOD_LEAST_HOURS = 24.0  # of compared running, common practice
# within which a ratio is called near a usual mistake: units differ from their table
TOO_GOOD_WIDE = 0.12


def beyond_table(context: CheckContext) -> Check:
    """Whether the unit does better than its table at the same conditions by more than any unit.

    Source: limits of the description, common practice.
    """
    comparison = context.comparison
    if comparison is None or comparison.hours < TOO_GOOD_LEAST_HOURS:
        why = (
            context.promise.reason.sentence
            if isinstance(context.promise, NotAvailable)
            else "too little comparable running"
        )
        return not_checkable(
            CheckCode.BEYOND_TABLE, f"There is no comparison with a rated table: {why}."
        )
    ratio, thresholds = comparison.ratio, context.installation.thresholds
    part_load = part_load_is_better(context.installation)
    most = thresholds.too_good_part_load if part_load else thresholds.too_good
    said = f"Measured COP is {ratio} of the rated one; up to {most:g} is possible."
    at, heat, _, rated = context.compared_days
    picture = Picture(
        "day",
        "heat ÷ (electricity × rated COP)",
        True,
        (series("day", at, heat / rated),),
        (("limit", most),),
    )
    if ratio.value - ratio.U <= most:
        return sound(CheckCode.BEYOND_TABLE, said, picture)
    mistake = named(ratio.value, TOO_GOOD_WIDE)
    hint = ""
    proposals: tuple[Factor, ...] = ()
    if mistake is not None:
        hint = f" It is near {mistake[0]:g}, which would be {mistake[1]}."
        if mistake[0] in (1.5, 2.0, 3.0) and context.unit is not None:
            channel = next(
                m.channel for m in context.installation.electricity if m.name == context.unit.name
            )
            proposals = (
                Factor(
                    channel=channel,
                    factor=mistake[0],
                    U=0.02 if mistake[0] == 2.0 else 0.05,
                    reason=f"electricity × {mistake[0]:g}: {mistake[1]}",
                ),
            )
    return Check(
        CheckCode.BEYOND_TABLE,
        Soundness.DOUBTFUL,
        said + hint + " No unit does that.",
        (context.whole,),
        "Look for heat counted without its electricity, a leg or phase not clamped, one of two "
        "rate registers not read, a wrong pulse value. Work at the meter is for an electrician.",
        proposals,
        (Affects.HEAT, Affects.ELECTRICITY),
        picture,
    )
