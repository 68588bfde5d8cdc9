"""Electricity while nothing is made: standby, and pumps that never stop."""

import numpy as np

from ember.basis.codes import CheckCode, FindingCode, SourceCode, ViewCode
from ember.basis.quantity import Estimate, UncertaintyComponent
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding
from ember.messages import Source, words_of

say = words_of(__name__)

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
    lost = context.loss((watts - AT_REST_USUAL) * hours / 1000, 0.15, say("power_rest"))
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
        heater = (say("below_above", at_cold=at_cold, watts=watts),)
    return context.finding(
        FindingCode.HIGH_STANDBY,
        say("sentence", watts=watts),
        context.weight(measured.value - measured.U > context.limits.standby, lost),
        [
            context.evidence(
                say("power_rest") + (say("above_outdoors") if apart else ""),
                measured,
                context.limits.standby,
                ViewCode.RUNS,
                span=(first, first + 7200.0),
            )
        ],
        [
            Cause(say("cause_crankcase_base"), heater),
            Cause(say("cause_circulation_pump")),
            Cause(say("cause_other_loads"), *_other_loads(context)),
        ],
        say("next_check"),
        care("anybody"),
        context.costed(lost, say("basis_rest_above", at_rest_usual=AT_REST_USUAL)),
        care("mains"),
        say("clears", standby=context.limits.standby),
    )


def _other_loads(context: FindingContext) -> tuple[tuple[str, ...], tuple[str, ...]]:
    check = next((c for c in context.checks if c.code == CheckCode.OTHER_LOADS), None)
    if check is not None and check.unsound:
        return (say("check_other_loads"),), ()
    return (), (say("check_other_loads_found"),)


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
        lost = context.loss(seen.pump_energy, 0.05, say("pump_power"))
    return context.finding(
        FindingCode.PUMP_ALWAYS_ON,
        say("pump_always_on_sentence", pump_hours=seen.pump_hours, share=share),
        context.weight(True, lost),
        [
            context.evidence(
                say("share_time_pumps"),
                counted(share),
                context.limits.pump_idle,
                ViewCode.CONTROL,
            )
        ],
        [
            Cause(say("cause_pump_set")),
            Cause(say("cause_controller_needs")),
            Cause(say("cause_frost_protection")),
        ],
        say("pump_always_on_next_check"),
        care("anybody"),
        context.costed(lost, say("basis_pumps_while"))
        if lost
        else context.costed(None, say("basis_pump_no")),
        say("caution", pressure=care("pressure")),
        say("pump_always_on_clears", pump_idle=context.limits.pump_idle),
    )
