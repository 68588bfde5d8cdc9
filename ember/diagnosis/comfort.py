"""Rooms that are not held."""

import numpy as np

from ember.basis.clock import HOUR, local_from_utc
from ember.basis.codes import FindingCode, ViewCode
from ember.diagnosis.care import ANYBODY, COMFORT
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight

WAKING = (8, 22)  # local hours
COMFORT_COLD = 1.0  # below the set temperature or the median [K]
FAR_BELOW = 2.0  # the described temperature, from which people will not have chosen it (cp) [K]
HEATING_BELOW = 12.0  # outdoors: hours in which a house is heated [degC]
COMFORT_LEAST_HOURS = 200


def room_not_held(context: FindingContext) -> Finding | None:
    """The room more than 1 K below its usual temperature by day, mostly when it is cold."""
    of, inside = context.ran.hours.of, context.within.hours()
    instants = context.ran.hours.start + HOUR * np.arange(len(inside), dtype=np.int64)
    hour = local_from_utc(instants, context.analysis.zone) % 86_400 // HOUR
    use = inside & np.isfinite(of["room"]) & (of["outdoor"] < HEATING_BELOW)
    use &= (hour >= WAKING[0]) & (hour < WAKING[1])
    if use.sum() < COMFORT_LEAST_HOURS:
        return None
    room, outdoor = of["room"][use], of["outdoor"][use]
    usual, whose = float(np.percentile(room, 75)), "its usual"
    asked = context.installation.house.design_indoor
    if float(np.median(room)) < asked - FAR_BELOW:
        usual, whose = asked, "the described"
    below = room < usual - COMFORT_COLD
    share = float(below.mean())
    if share <= context.limits.room_below:
        return None
    rest = outdoor[~below]
    colder = len(rest) > 0 and float(np.median(outdoor[below])) < float(np.median(rest)) - 2.0
    seen = context.capacity
    limit: tuple[str, ...] = ()
    if seen.limit_hours >= 6:
        limit = (f"{seen.limit_hours} hours at the unit's limit",)
    reserve: tuple[str, ...] = ()
    if seen.run_fraction_cold is not None:
        words = f"it ran {seen.run_fraction_cold:.0%} of the coldest hours"
        if seen.run_fraction_cold < 0.9:
            reserve = (words,)
        else:
            limit = (*limit, words)
    return context.finding(
        FindingCode.ROOM_NOT_HELD,
        f"By day the room is more than 1 K below {whose} {usual:.1f} °C for {share:.0%} of the "
        f"time{', mostly when it is cold outdoors' if colder else ''}.",
        Weight.ACTION if colder and share > 1.5 * context.limits.room_below else Weight.ADVISORY,
        [
            context.evidence(
                "share of waking hours with the room too cold",
                counted(share),
                context.limits.room_below,
                ViewCode.CONTROL,
                span=context.coldest_day(),
            )
        ],
        [
            Cause(
                "a curve too low for the cold, or a limit of the flow temperature", reserve, limit
            ),
            Cause("too little capacity at that cold", limit, reserve),
            Cause("emitters too small in that room"),
            Cause("people who turn it down or air the room"),
        ],
        "Ask the people in the house; then raise the cold end of the curve by 2 K and watch.",
        ANYBODY,
        context.costed(None, "comfort has no price here"),
        COMFORT,
        f"Less than {context.limits.room_below:.0%} of the waking hours more than 1 K too cold.",
    )
