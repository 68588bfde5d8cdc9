"""Capacity: less than rated at the limit, or less than the house needs, or far more."""

from ember.basis.codes import FindingCode, ViewCode
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.diagnosis.refrigerant import weak_unit
from ember.messages import words_of

say = words_of(__name__)

LONG_RUN = 30.0  # minutes, median of the runs, with which size does no harm, common practice
REACHED = 0.95  # of the limit, by hot-water charges, from which the unit has its capacity


def capacity_short(context: FindingContext) -> Finding | None:
    """Less heat than rated when the unit ran at its limit."""
    seen = context.capacity
    limit = context.limits.capacity
    if seen.over_rated is None or seen.over_rated.value + seen.over_rated.U >= limit:
        return None
    charges = seen.charges_over_rated
    if charges is not None and charges >= REACHED * limit:
        return None  # it gave its rated heat at other times: it had reserve
    where = say("about_outdoors", outdoor_limit=seen.outdoor_limit) if seen.outdoor_limit else ""
    lost = None
    if context.water.heaters is not None:
        spent = context.water.heaters.value
        lost = context.loss(spent * 0.6, 0.2, say("cop_heat_not"))
    return context.finding(
        FindingCode.CAPACITY_SHORT,
        say("sentence", share=seen.over_rated.value, where=where),
        Weight.ACTION if charges is not None else Weight.ADVISORY,
        [
            context.evidence(
                say("heat_over_rated", limit_hours=seen.limit_hours),
                seen.over_rated,
                limit,
                ViewCode.RATING,
                above=False,
                span=context.coldest_day(),
            )
        ],
        (
            *weak_unit(context),
            Cause(
                say("cause_heater_switched"),
                (),
                (say("when_heating_hot", charges=charges),) if charges is not None else (),
            ),
        ),
        say("next_check"),
        say("who", technician=care("technician").lower()),
        context.costed(lost, say("basis_heaters_stood")),
        care("comfort", "mains", "refrigerant"),
        say("clears", limit=limit),
    )


def oversized(context: FindingContext) -> Finding | None:
    """Rated capacity far above what the house needs at the design temperature."""
    seen, unit = context.capacity, context.installation.unit
    if not seen.at_design or not seen.rated_design:
        return None
    ratio = seen.rated_design / seen.at_design
    if ratio < context.limits.oversized:
        return None
    below = None
    if unit.minimum_output_kw is not None and seen.days:
        days_below = [d for d in seen.days if d[1] < unit.minimum_output_kw]
        below = len(days_below) / len(seen.days)
    minutes = context.runs.minutes
    if below is None or below < 0.3 or minutes is None or minutes > LONG_RUN:
        return None
    return context.finding(
        FindingCode.OVERSIZED,
        say("oversized_sentence", ratio=ratio, design=seen.design, below=below),
        Weight.ADVISORY,
        [
            context.evidence(
                say("rated_capacity_over"),
                counted(ratio),
                context.limits.oversized,
                ViewCode.RATING,
            ),
            context.evidence(
                say("share_days_load"),
                counted(below),
                0.3,
                ViewCode.RATING,
            ),
        ],
        [
            Cause(say("cause_chosen_rule")),
            Cause(say("cause_capacity_limit")),
        ],
        say("oversized_next_check"),
        say("oversized_who"),
        context.costed(None, say("basis_costs_counted")),
        care("comfort"),
        say("oversized_clears", oversized=context.limits.oversized),
    )


def low_limit(context: FindingContext) -> Finding | None:
    """Colder outdoors than the unit runs: resistance heat must do it."""
    limit = context.installation.unit.low_outdoor_limit
    of, inside = context.ran.hours.of, context.within.hours()
    if limit is None:
        return None
    below = inside & (of["outdoor"] < limit)
    hours = float(below.sum())
    if hours < 3:
        return None
    off = below & (of["on"] < 900.0)
    if off.sum() < 0.5 * hours:
        return None
    heater = float(of["heater"][below].sum()) / 3.6e6
    lost = context.loss(heater * 0.5, 0.3, say("cop_cold")) if heater > 0 else None
    first = context.ran.hours.start + 3600 * int(below.argmax())
    return context.finding(
        FindingCode.LOW_OUTDOOR_LIMIT,
        say("low_limit_sentence", hours=hours, limit=limit),
        context.weight(True, lost) if lost is not None else Weight.ADVISORY,
        [
            context.evidence(
                say("hours_below_limit"),
                counted(float(off.sum()), "h"),
                3.0,
                ViewCode.RUNNING,
                span=(float(first), float(first + 86_400)),
            )
        ],
        [
            Cause(say("cause_limit_set")),
            Cause(say("cause_unit_not")),
        ],
        say("low_limit_next_check"),
        say("low_limit_who"),
        context.costed(lost, say("basis_heaters_below")),
        care("comfort"),
        say("low_limit_clears"),
    )
