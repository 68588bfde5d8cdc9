"""Hot water: set too hot, reheated too often, set above what can be reached."""

import numpy as np

from ember.basis.codes import FindingCode, SourceCode, ViewCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.messages import Source, words_of
from ember.views.hot_water import WaterSeen

say = words_of(__name__)

HOT_WATER_USUAL = 50.0  # a usual set point [degC], common practice, agreed
PER_KELVIN = 0.027  # of the electricity of hot water for each kelvin, common practice, agreed
FEW_STAGES = 3
SLOPES = (0.015, 0.06)  # between which such a slope is believed
# standard uncertainty of a tank's probe against its mean [K], common practice, chosen
HOT_WATER_PROBE = 1.0
USUAL_RISE = 8.0  # of a charge [K], common practice
SMALL_RISE = 5.0  # of a charge [K]


def hot_water_too_hot(context: FindingContext) -> Finding | None:
    """A tank warmer than is usual."""
    seen = context.water
    if seen.warmest is None or seen.warmest <= context.limits.tank_hot:
        return None
    measured = Estimate(
        seen.warmest,
        "degC",
        (UncertaintyComponent(Source(SourceCode.TANK_PROBE), HOT_WATER_PROBE),),
    )
    spent = seen.total.electricity if seen.total else None
    lost = None
    if spent is not None:
        above = seen.warmest - HOT_WATER_USUAL
        kwh = spent.value * (1 - np.exp(-_per_kelvin(seen) * above))
        if seen.standing is not None and seen.total is not None and seen.total.cop is not None:
            cooled = seen.standing.watts / seen.standing.difference * above
            kwh += cooled * 24 * context.period.days / 1000 / max(seen.total.cop.value, 1.0)
        lost = context.loss(float(kwh), 0.3, "slope")
    top = [s for s in seen.stages if s.cop is not None]
    slope: tuple[str, ...] = ()
    if len(top) >= 2:
        slope = (
            say(
                "cop_by_temperature",
                cop=top[0].cop,
                low=top[0].low,
                cop_top=top[-1].cop,
                low_top=top[-1].low,
            ),
        )
    return context.finding(
        FindingCode.HOT_WATER_TOO_HOT,
        say("sentence", warmest=seen.warmest, hot_water_usual=HOT_WATER_USUAL),
        context.weight(
            measured.value - measured.U > context.limits.tank_hot - HOT_WATER_PROBE, lost
        ),
        [
            context.evidence(
                say("highest_tank_temperature"),
                measured,
                context.limits.tank_hot,
                ViewCode.HOT_WATER,
            )
        ],
        [
            Cause(say("cause_set_point"), slope),
            Cause(say("cause_tank_too")),
        ],
        say("next_check"),
        care("anybody"),
        context.costed(lost, say("basis_against_tank", hot_water_usual=HOT_WATER_USUAL)),
        care("hot_water"),
        say("clears", tank_hot=context.limits.tank_hot),
    )


def _per_kelvin(seen: WaterSeen) -> float:
    """By how much a kelvin of the tank changes the COP, as a share: from this unit's own charges,
    by stage of the tank, where there are enough."""
    stages = [s for s in seen.stages if s.cop is not None and s.cop > 0]
    if len(stages) < FEW_STAGES:
        return PER_KELVIN
    middle = np.array([(s.low + s.high) / 2 for s in stages])
    log = np.log([s.cop for s in stages if s.cop is not None])
    slope = np.polyfit(middle, log, 1, w=np.sqrt([s.electricity for s in stages]))[0]
    return float(np.clip(-slope, *SLOPES))


def hot_water_too_often(context: FindingContext) -> Finding | None:
    """Small charges all the time."""
    seen = context.water
    if seen.a_day is None or seen.a_day <= context.limits.charges_a_day:
        return None
    rise = None
    if seen.warmest is not None and seen.low is not None:
        rise = seen.warmest - seen.low
        if rise > SMALL_RISE:
            return None
    lost = None
    spent = seen.total.electricity if seen.total else None
    if spent is not None and rise is not None:
        # Always at the top of the tank instead of over the whole of a usual charge.
        higher = max((USUAL_RISE - rise) / 2, 0.0)
        lost = context.loss(spent.value * (1 - float(np.exp(-PER_KELVIN * higher))), 0.3, "slope")
        each = context.starts.loss_each
        if each is not None:
            excess = max(seen.a_day - context.limits.charges_a_day / 2, 0.0) * context.period.days
            lost += context.loss(each.median / 1000 * excess, 0.3, say("loss_start"))
    small = say("by_kelvin_each", rise=rise) if rise is not None else ""
    return context.finding(
        FindingCode.HOT_WATER_TOO_OFTEN,
        say("hot_water_too_often_sentence", a_day=seen.a_day, small=small),
        context.weight(True, lost) if lost else Weight.ADVISORY,
        [
            context.evidence(
                say("reheats_day"),
                counted(seen.a_day),
                context.limits.charges_a_day,
                ViewCode.HOT_WATER,
            )
        ],
        [
            Cause(say("cause_hysteresis_set")),
            Cause(say("cause_circulation_cools")),
            Cause(say("cause_probe_too")),
        ],
        say("hot_water_too_often_next_check"),
        care("anybody"),
        context.costed(lost, say("basis_starts_beyond"))
        if lost
        else context.costed(None, say("basis_start_costs")),
        care("hot_water"),
        say("hot_water_too_often_clears", charges_a_day=context.limits.charges_a_day),
    )


def hot_water_out_of_reach(context: FindingContext) -> Finding | None:
    """A set point above the highest flow temperature less the coil's approach."""
    seen = context.water
    if not seen.stalls_often or seen.reachable is None or seen.warmest is None:
        return None
    return context.finding(
        FindingCode.HOT_WATER_OUT_OF_REACH,
        say(
            "hot_water_out_of_reach_sentence",
            stalls=seen.stalls,
            count=seen.count,
            reachable=seen.reachable,
        ),
        Weight.ADVISORY,
        [
            context.evidence(
                say("charges_dwell_top"),
                counted(float(seen.stalls)),
                0.25 * seen.count,
                ViewCode.HOT_WATER,
            )
        ],
        [
            Cause(say("hot_water_out_of_reach_cause_set_point")),
            Cause(say("cause_coil_too")),
            Cause(say("cause_flow_limit")),
        ],
        say("hot_water_out_of_reach_next_check"),
        care("anybody"),
        context.costed(None, say("basis_not_worked")),
        care("hot_water"),
        say("hot_water_out_of_reach_clears"),
    )
