"""Hot water: set too hot, reheated too often, set above what can be reached."""

import numpy as np

from ember.basis.codes import FindingCode, SourceCode, ViewCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.diagnosis.care import ANYBODY, CARE_WATER
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.messages import Source
from ember.views.hot_water import WaterSeen

HOT_WATER_USUAL = 50.0  # a usual set point [degC], common practice
PER_KELVIN = 0.027  # of the electricity of hot water for each kelvin, common practice
FEW_STAGES = 3
SLOPES = (0.015, 0.06)  # between which such a slope is believed
# standard uncertainty of a tank's probe against its mean [K], common practice
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
            f"COP {top[0].cop:.1f} from {top[0].low:.0f} °C, {top[-1].cop:.1f} from "
            f"{top[-1].low:.0f} °C",
        )
    return context.finding(
        FindingCode.HOT_WATER_TOO_HOT,
        f"The tank is heated to {seen.warmest:.0f} °C; about {HOT_WATER_USUAL:.0f} °C is "
        "usual where local "
        "rules allow it.",
        context.weight(
            measured.value - measured.U > context.limits.tank_hot - HOT_WATER_PROBE, lost
        ),
        [
            context.evidence(
                "highest tank temperature of a charge, median",
                measured,
                context.limits.tank_hot,
                ViewCode.HOT_WATER,
            )
        ],
        [
            Cause("a set point left from a boiler", slope),
            Cause("a tank too small for what is drawn, made up by temperature"),
        ],
        "Ask how much is drawn and what the local rules ask; lower by 2 K at a time.",
        ANYBODY,
        context.costed(lost, f"against a tank of {HOT_WATER_USUAL:.0f} °C"),
        CARE_WATER,
        f"Charges to {context.limits.tank_hot:g} °C or less, pasteurisation apart.",
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
            lost += context.loss(each.median / 1000 * excess, 0.3, "loss of a start")
    small = f", by {rise:.0f} K each" if rise is not None else ""
    return context.finding(
        FindingCode.HOT_WATER_TOO_OFTEN,
        f"The tank is reheated {seen.a_day:.1f} times a day{small}.",
        context.weight(True, lost) if lost else Weight.ADVISORY,
        [
            context.evidence(
                "reheats a day",
                counted(seen.a_day),
                context.limits.charges_a_day,
                ViewCode.HOT_WATER,
            )
        ],
        [
            Cause("a hysteresis set too small"),
            Cause("circulation that cools the tank"),
            Cause("a probe too high or too low in the tank"),
        ],
        "Widen the hysteresis or give hot water its hours; look whether a circulation pump runs.",
        ANYBODY,
        context.costed(lost, "of starts beyond half the limit, and of heating the top")
        if lost
        else context.costed(None, "what a start costs is not known from these readings"),
        CARE_WATER,
        f"{context.limits.charges_a_day:g} reheats a day or fewer.",
    )


def hot_water_out_of_reach(context: FindingContext) -> Finding | None:
    """A set point above the highest flow temperature less the coil's approach."""
    seen = context.water
    if not seen.stalls_often or seen.reachable is None or seen.warmest is None:
        return None
    return context.finding(
        FindingCode.HOT_WATER_OUT_OF_REACH,
        f"{seen.stalls} of {seen.count} charges dwell at the top: the tank can reach about "
        f"{seen.reachable:.0f} °C with this flow temperature.",
        Weight.ADVISORY,
        [
            context.evidence(
                "charges that dwell at the top",
                counted(float(seen.stalls)),
                0.25 * seen.count,
                ViewCode.HOT_WATER,
            )
        ],
        [
            Cause("a set point above what is reachable"),
            Cause("a coil too small or scaled"),
            Cause("a flow limit of the controller"),
        ],
        "Lower the set point to a few kelvin below what is reached, where local rules allow it.",
        ANYBODY,
        context.costed(None, "not worked out"),
        CARE_WATER,
        "Fewer than a quarter of the charges with a dwell at the top.",
    )
