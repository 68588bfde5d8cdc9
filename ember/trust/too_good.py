"""A COP beyond the rated table: a boundary or unit mistake, or a phase without a clamp."""

from ember.basis.codes import CheckCode
from ember.description.installation import Factor, part_load_is_better
from ember.messages import NotAvailable, words_of
from ember.trust.check import (
    Affects,
    Check,
    Picture,
    Soundness,
    not_checkable,
    series,
    sound,
)
from ember.trust.context import SummedContext
from ember.trust.ratios import named

say = words_of(__name__)

TOO_GOOD_LEAST_HOURS = 24.0  # of compared running, common practice, chosen
# within which a ratio is called near a usual mistake: units differ from their table
TOO_GOOD_WIDE = 0.12


def beyond_table(context: SummedContext) -> Check:
    """Whether the unit does better than its table at the same conditions by more than any unit.

    Source: limits of the description, common practice.
    """
    comparison = context.comparison
    if comparison is None or comparison.hours < TOO_GOOD_LEAST_HOURS:
        why = (
            context.promise.reason.sentence
            if isinstance(context.promise, NotAvailable)
            else say("too_little_comparable")
        )
        return not_checkable(CheckCode.BEYOND_TABLE, say("there_no_comparison", why=why))
    ratio, thresholds = comparison.ratio, context.installation.thresholds
    part_load = part_load_is_better(context.installation)
    most = thresholds.too_good_part_load if part_load else thresholds.too_good
    said = say("measured_cop_rated", ratio=ratio, most=most)
    at, heat, _, rated = context.compared_days
    picture = Picture(
        "day",
        say("heat_electricity_rated"),
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
        hint = say("near_would", factor=mistake[0], meaning=mistake[1])
        if mistake[0] in (1.5, 2.0, 3.0) and context.unit is not None:
            channel = next(
                m.channel for m in context.installation.electricity if m.name == context.unit.name
            )
            proposals = (
                Factor(
                    channel=channel,
                    factor=mistake[0],
                    U=0.02 if mistake[0] == 2.0 else 0.05,
                    reason=say("electricity", factor=mistake[0], meaning=mistake[1]),
                ),
            )
    return Check(
        code=CheckCode.BEYOND_TABLE,
        soundness=Soundness.DOUBTFUL,
        sentence=said + hint + say("no_unit_does"),
        spans=(context.whole,),
        remedy=say("remedy"),
        proposals=proposals,
        affects=(Affects.HEAT, Affects.ELECTRICITY),
        picture=picture,
    )
