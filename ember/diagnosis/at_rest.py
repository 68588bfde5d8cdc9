"""Electricity while nothing is made: standby, and pumps that never stop."""

import numpy as np

from ember.basis.codes import CheckCode, FindingCode, SourceCode, ViewCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.diagnosis.care import ANYBODY, CARE_PRESSURE, MAINS
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding
from ember.messages import Source

AT_REST_USUAL = 15.0  # standby of a unit [W], common practice
AT_REST_MOSTLY = 0.3  # of the limit, where the pump hardly ever rests
AT_REST_LEAST_HOURS = 100.0  # at rest


def high_standby(context: FindingContext) -> Finding | None:
    """Power at rest above the limit, in weather in which no crankcase heater is needed."""
    of, inside = context.ran.hours.of, context.within.hours()
    resting = inside & (of["standby"] >= 1200.0) & np.isfinite(of["resting_energy"])
    mild = resting & (of["outdoor"] > 8.0)
    apart = mild.sum() >= AT_REST_LEAST_HOURS / 2
    here = mild if apart else resting
    if here.sum() < AT_REST_LEAST_HOURS / 2:
        return None
    watts = float(of["resting_energy"][here].sum() / of["standby"][here].sum())
    if watts <= context.limits.standby:
        return None
    hours = float(of["standby"][inside].sum()) / 3600
    lost = context.loss((watts - AT_REST_USUAL) * hours / 1000, 0.15, "power at rest")
    share = context.used.u / context.used.value if context.used and context.used.value else 0.02
    measured = Estimate(
        watts,
        "watt",
        (UncertaintyComponent(Source(SourceCode.ELECTRICITY_METER), watts * 2 * share),),
    )
    first = float(context.ran.hours.start + 3600 * int(here.argmax()))
    cold = resting & (of["outdoor"] < 3.0)
    heater: tuple[str, ...] = ()
    if apart and cold.sum() > 24:
        at_cold = float(of["resting_energy"][cold].sum() / of["standby"][cold].sum())
        heater = (f"{at_cold:.0f} W below 3 °C, {watts:.0f} W above 8 °C",)
    return context.finding(
        FindingCode.HIGH_STANDBY,
        f"{watts:.0f} W while the unit rests; 5 to 20 W is usual.",
        context.weight(measured.value - measured.U > context.limits.standby, lost),
        [
            context.evidence(
                "power at rest" + (" above 8 °C outdoors" if apart else ""),
                measured,
                context.limits.standby,
                ViewCode.RUNS,
                span=(first, first + 7200.0),
            )
        ],
        [
            Cause("a crankcase or base-pan heater that never switches off", heater),
            Cause("a circulation pump or a gateway on the unit's circuit"),
            Cause("other loads on the meter", *_other_loads(context)),
        ],
        "With the unit at rest, switch off one consumer after another and read the meter.",
        ANYBODY,
        context.costed(lost, f"at rest above {AT_REST_USUAL:.0f} W"),
        MAINS,
        f"Power at rest at or below {context.limits.standby:g} W.",
    )


def _other_loads(context: FindingContext) -> tuple[tuple[str, ...], tuple[str, ...]]:
    check = next((c for c in context.checks if c.code == CheckCode.OTHER_LOADS), None)
    if check is not None and check.unsound:
        return ("the check for other loads found some: the readings cannot tell them apart",), ()
    return (), ("the check for other loads found none",)


def pump_always_on(context: FindingContext) -> Finding | None:
    """Pumps running with nothing made."""
    seen = context.control
    share = seen.pump_share
    of, inside = context.ran.hours.of, context.within.hours()
    rested = float(of["standby"][inside].sum()) / 3600
    if share is None or seen.pump_hours < AT_REST_LEAST_HOURS:
        return None
    mostly = seen.pump_hours > rested  # of the time without heat the pump runs more than it rests
    if share <= context.limits.pump_idle * (AT_REST_MOSTLY if mostly else 1.0):
        return None
    lost = None
    if seen.pump_energy is not None:
        lost = context.loss(seen.pump_energy, 0.05, "pump's power")
    return context.finding(
        FindingCode.PUMP_ALWAYS_ON,
        f"Pumps ran for {seen.pump_hours:,.0f} h with nothing made, {share:.0%} of the time.",
        context.weight(True, lost),
        [
            context.evidence(
                "share of the time with pumps running and nothing made",
                counted(share),
                context.limits.pump_idle,
                ViewCode.CONTROL,
            )
        ],
        [
            Cause("a pump set to run always, or with the heating season"),
            Cause("a controller that needs it to read the return temperature"),
            Cause("frost protection in a circuit outdoors"),
        ],
        "Look for the pump's mode in the controller; a pump that is started now and then is "
        "enough for a reading.",
        ANYBODY,
        context.costed(lost, "of pumps while nothing is made")
        if lost
        else context.costed(None, "the pump has no meter of its own"),
        f"{CARE_PRESSURE} Leave frost protection as it is.",
        f"Less than {context.limits.pump_idle:.0%} of the time.",
    )
