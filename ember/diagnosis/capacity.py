"""Capacity: less than rated at the limit, or less than the house needs, or far more."""

from ember.basis.codes import FindingCode, ViewCode
from ember.diagnosis.care import COMFORT, REFRIGERANT, TECHNICIAN
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.diagnosis.ground import Ground, counted
from ember.diagnosis.refrigerant import weak_unit

LONG_RUN = 30.0  # minutes, median of the runs, with which size does no harm, common practice
REACHED = 0.95  # of the limit, by hot-water lifts, from which the unit has its capacity


def capacity_short(ground: Ground) -> Finding | None:
    """Less heat than rated when the unit ran at its limit."""
    seen = ground.capacity
    limit = ground.limits.capacity
    if seen.over_rated is None or seen.over_rated.value + seen.over_rated.U >= limit:
        return None
    lifts = seen.lifts_over_rated
    if lifts is not None and lifts >= REACHED * limit:
        return None  # it gave its rated heat at other times: it had reserve
    where = f" at about {seen.outdoor_limit:.0f} °C outdoors" if seen.outdoor_limit else ""
    lost = None
    if ground.water.heaters is not None:
        spent = ground.water.heaters.value
        lost = ground.loss(spent * 0.6, 0.2, "COP of the heat not made")
    return ground.finding(
        FindingCode.CAPACITY_SHORT,
        f"At its limit it gives {seen.over_rated.value:.0%} of the rated capacity{where}.",
        Weight.ACT if lifts is not None else Weight.LOOK,
        [ground.evidence(
            f"heat over rated capacity in {seen.limit_hours} hours at the limit", seen.over_rated,
            limit, ViewCode.RATING, above=False, span=ground.coldest_day(),
        )],
        (*weak_unit(ground), Cause(
            "a heater that is switched on too early, so that the unit throttles", (),
            (f"when heating hot water it gives {lifts:.0%} of the rated capacity",)
            if lifts is not None else (),
        )),
        "A full-load test on a cold day: capacity, superheat, and the coil's state.",
        f"The test: anyone with the meter. The refrigerant circuit: {TECHNICIAN.lower()}",
        ground.costed(lost, "of heaters that stood in for it, less what a heat pump would need"),
        f"{COMFORT} {REFRIGERANT}", f"{limit:.0%} of the rated capacity at the limit.",
    )  # fmt: skip


def oversized(ground: Ground) -> Finding | None:
    """Rated capacity far above what the house needs at the design temperature."""
    seen, unit = ground.capacity, ground.installation.unit
    if not seen.at_design or not seen.rated_design:
        return None
    ratio = seen.rated_design / seen.at_design
    if ratio < ground.limits.oversized:
        return None
    below = None
    if unit.minimum_output_kw is not None and seen.days:
        days_below = [d for d in seen.days if d[1] < unit.minimum_output_kw]
        below = len(days_below) / len(seen.days)
    minutes = ground.runs.minutes
    if below is None or below < 0.3 or minutes is None or minutes > LONG_RUN:
        return None
    return ground.finding(
        FindingCode.OVERSIZED,
        f"{ratio:.1f} times what the house needs at {seen.design:.0f} °C; on {below:.0%} of the "
        "days its least output is too much, and it must cycle.",
        Weight.LOOK,
        [
            ground.evidence(
                "rated capacity over the load at the design temperature", counted(ratio),
                ground.limits.oversized, ViewCode.RATING,
            ),
            ground.evidence(
                "share of days with a load below the least output", counted(below), 0.3, ViewCode.RATING
            ),
        ],
        [Cause("chosen by a rule of thumb, or for a house that was insulated since"),
         Cause("a capacity limit in the controller not set")],
        "See whether output can be limited in the controller; a larger buffer or wider hysteresis "
        "lengthens the runs.",
        "Settings: whoever looks after the controller.",
        ground.costed(None, "what it costs is counted under cycling"),
        COMFORT, f"Runs of 20 minutes and more in mild weather, or a limit of the output that "
        f"brings the ratio below {ground.limits.oversized:g}.",
    )  # fmt: skip


def low_limit(ground: Ground) -> Finding | None:
    """Colder outdoors than the unit runs: resistance heat must do it."""
    limit = ground.installation.unit.low_outdoor_limit
    of, inside = ground.ran.hours.of, ground.within.hours()
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
    lost = ground.loss(heater * 0.5, 0.3, "COP at that cold") if heater > 0 else None
    first = ground.ran.hours.start + 3600 * int(below.argmax())
    return ground.finding(
        FindingCode.LOW_OUTDOOR_LIMIT,
        f"{hours:.0f} h below its limit of {limit:g} °C, in which the unit stood still and "
        "resistance heat took over.",
        ground.weight(True, lost) if lost is not None else Weight.LOOK,
        [ground.evidence(
            "hours below the limit with the unit off", counted(float(off.sum()), "h"), 3.0,
            ViewCode.RUNNING, span=(float(first), float(first + 86_400)),
        )],
        [Cause("a limit set higher than the unit needs"),
         Cause("a unit not made for this climate")],
        "Compare the setting with the maker's range; lower it if it may be lowered.",
        "Settings of the limit: whoever looks after the controller.",
        ground.costed(lost, "of heaters below the limit, half of it, as a heat pump might need"),
        COMFORT, "No hour below the limit with the unit off, or the limit known and accepted.",
    )  # fmt: skip
