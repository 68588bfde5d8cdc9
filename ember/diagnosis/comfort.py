"""Rooms that are not held."""

import numpy as np

from ember.basis.clock import HOUR, local_from_utc
from ember.basis.codes import FindingCode, ViewCode
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.messages import words_of

say = words_of(__name__)

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
    usual, whose = float(np.median(room)), say("its_usual")
    asked = context.installation.house.design_indoor
    if float(np.median(room)) < asked - FAR_BELOW:
        usual, whose = asked, say("described")
    below = room < usual - COMFORT_COLD
    share = float(below.mean())
    if share <= context.limits.room_below:
        return None
    rest = outdoor[~below]
    colder = len(rest) > 0 and float(np.median(outdoor[below])) < float(np.median(rest)) - 2.0
    seen = context.capacity
    limit: tuple[str, ...] = ()
    if seen.limit_hours >= 6:
        limit = (say("hours_unit_limit", limit_hours=seen.limit_hours),)
    reserve: tuple[str, ...] = ()
    if seen.run_fraction_cold is not None:
        words = say("ran_coldest_hours", run_fraction_cold=seen.run_fraction_cold)
        if seen.run_fraction_cold < 0.9:
            reserve = (words,)
        else:
            limit = (*limit, words)
    return context.finding(
        FindingCode.ROOM_NOT_HELD,
        say(
            "sentence",
            whose=whose,
            usual=usual,
            share=share,
            mostly=say("when_cold") if colder else "",
        ),
        Weight.ACTION if colder and share > 1.5 * context.limits.room_below else Weight.ADVISORY,
        [
            context.evidence(
                say("share_waking_hours"),
                counted(share),
                context.limits.room_below,
                ViewCode.CONTROL,
                span=context.coldest_day(),
            )
        ],
        [
            Cause(say("cause_curve_too"), reserve, limit),
            Cause(say("cause_too_little"), limit, reserve),
            Cause(say("cause_emitters_too")),
            Cause(say("cause_people_who")),
        ],
        say("next_check"),
        care("anybody"),
        context.costed(None, say("basis_comfort_no")),
        care("comfort"),
        say("clears", room_below=context.limits.room_below),
    )
