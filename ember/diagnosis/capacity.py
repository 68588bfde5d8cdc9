"""Capacity: less than rated at the limit, or less than the house needs, or far more."""

from ember.basis.codes import FindingCode, ViewCode
from ember.diagnosis.care import CARE_REFRIGERANT, COMFORT, TECHNICIAN
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.diagnosis.refrigerant import weak_unit

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
    where = f" at about {seen.outdoor_limit:.0f} °C outdoors" if seen.outdoor_limit else ""
    lost = None
    if context.water.heaters is not None:
        spent = context.water.heaters.value
        lost = context.loss(spent * 0.6, 0.2, "COP of the heat not made")
    return context.finding(
        FindingCode.CAPACITY_SHORT,
        f"At its limit it gives {seen.over_rated.value:.0%} of the rated capacity{where}.",
        Weight.ACTION if charges is not None else Weight.ADVISORY,
        [
            context.evidence(
                f"heat over rated capacity in {seen.limit_hours} hours at the limit",
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
                "a heater that is switched on too early, so that the unit throttles",
                (),
                (f"when heating hot water it gives {charges:.0%} of the rated capacity",)
                if charges is not None
                else (),
            ),
        ),
        "A full-load test on a cold day: capacity, superheat, and the coil's state.",
        f"The test: anyone with the meter. The refrigerant circuit: {TECHNICIAN.lower()}",
        context.costed(lost, "of heaters that stood in for it, less what a heat pump would need"),
        f"{COMFORT} {CARE_REFRIGERANT}",
        f"{limit:.0%} of the rated capacity at the limit.",
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
        f"{ratio:.1f} times what the house needs at {seen.design:.0f} °C; on {below:.0%} of the "
        "days its least output is too much, and it must cycle.",
        Weight.ADVISORY,
        [
            context.evidence(
                "rated capacity over the load at the design temperature",
                counted(ratio),
                context.limits.oversized,
                ViewCode.RATING,
            ),
            context.evidence(
                "share of days with a load below the least output",
                counted(below),
                0.3,
                ViewCode.RATING,
            ),
        ],
        [
            Cause("chosen by a rule of thumb, or for a house that was insulated since"),
            Cause("a capacity limit in the controller not set"),
        ],
        "See whether output can be limited in the controller; a larger buffer or wider hysteresis "
        "lengthens the runs.",
        "Settings: whoever looks after the controller.",
        context.costed(None, "what it costs is counted under cycling"),
        COMFORT,
        f"Runs of 20 minutes and more in mild weather, or a limit of the output that "
        f"brings the ratio below {context.limits.oversized:g}.",
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
    lost = context.loss(heater * 0.5, 0.3, "COP at that cold") if heater > 0 else None
    first = context.ran.hours.start + 3600 * int(below.argmax())
    return context.finding(
        FindingCode.LOW_OUTDOOR_LIMIT,
        f"{hours:.0f} h below its limit of {limit:g} °C, in which the unit stood still and "
        "resistance heat took over.",
        context.weight(True, lost) if lost is not None else Weight.ADVISORY,
        [
            context.evidence(
                "hours below the limit with the unit off",
                counted(float(off.sum()), "h"),
                3.0,
                ViewCode.RUNNING,
                span=(float(first), float(first + 86_400)),
            )
        ],
        [
            Cause("a limit set higher than the unit needs"),
            Cause("a unit not made for this climate"),
        ],
        "Compare the setting with the maker's range; lower it if it may be lowered.",
        "Settings of the limit: whoever looks after the controller.",
        context.costed(lost, "of heaters below the limit, half of it, as a heat pump might need"),
        COMFORT,
        "No hour below the limit with the unit off, or the limit known and accepted.",
    )
