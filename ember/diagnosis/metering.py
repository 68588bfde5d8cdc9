"""Each fault of the metering that a check found, and a COP that is too good."""

from ember.basis.codes import CheckCode, FindingCode, ViewCode
from ember.comparison.performance_ratio import VerdictKind
from ember.description.installation import part_load_is_better
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.messages import words_of
from ember.trust import Affects, Check, Soundness

say = words_of(__name__)

GRAVE = {Affects.HEAT, Affects.ELECTRICITY, Affects.CONDITIONS}
# Usual causes of what each check finds, the likeliest first; common practice.
CAUSES = {
    CheckCode.SWAPPED_SENSORS: ("usual_sensors_their_columns",),
    CheckCode.CLOCKS: ("usual_two_loggers_clocks", "usual_local_time_taken"),
    CheckCode.RATE_REGISTERS: ("usual_one_two_rate",),
    CheckCode.OTHER_LOADS: ("usual_something_else_circuit", "usual_unit_standby_heater"),
    CheckCode.FLOW_READING: ("usual_air_water", "usual_flow_sensor_too"),
    CheckCode.PAIR_OFFSET: ("usual_two_sensors_never", "usual_sensor_badly_seated"),
    CheckCode.STUCK_READINGS: ("usual_sensor_cable_logger",),
    CheckCode.CONSUMERS: ("usual_heater_behind_meter",),
    CheckCode.REGISTER_AGAINST_FLOW: (
        "usual_unit_phase_pulse",
        "usual_antifreeze_calculator_does",
        "usual_sensor_wrong_place",
    ),
    CheckCode.CONTROLLER_AGAINST_METER: ("usual_controller_estimates_map", "usual_ill_meter"),
    CheckCode.GLYCOL: ("usual_calculator_set_water",),
    CheckCode.YIELD_AS_HEAT: ("usual_display_counts_outdoors",),
    CheckCode.PHYSICAL_BOUND: ("usual_heat_without_electricity", "usual_unit_phase_mistake"),
    CheckCode.BEYOND_TABLE: (
        "usual_phase_without_clamp",
        "usual_another_boundary_each",
        "usual_table_another_unit",
    ),
    CheckCode.SPIKES: ("usual_loose_cable", "usual_interference", "usual_logger_slips"),
    CheckCode.RESOLUTION: ("usual_logger_rounds", "usual_sensor_coarse_steps"),
    CheckCode.COUNTER_RESETS: ("usual_meter_changed_set", "usual_register_rolled_over"),
    CheckCode.GAPS: ("usual_logger_power_network",),
    CheckCode.OUTDOOR_SENSOR: ("usual_sun_sensor", "usual_warm_exhaust_wall"),
}
TOO_GOOD = frozenset({CheckCode.PHYSICAL_BOUND, CheckCode.BEYOND_TABLE})


def metering_faults(context: FindingContext) -> list[Finding]:
    """One finding for each kind of fault that a check found in the period."""
    period = context.period
    found: dict[FindingCode, Finding] = {}
    for check in context.checks:
        here = [s for s in check.spans if s.start < period.stop and s.stop > period.start]
        if check.unsound and (here or not check.spans):
            made = _finding(context, check)
            found.setdefault(made.code, made)  # two checks may say that a COP is too good
    return list(found.values())


def grave(check: Check) -> bool:
    """Whether a verdict may rest on it."""
    return check.unsound and bool(GRAVE & set(check.affects))


def _finding(context: FindingContext, check: Check) -> Finding:
    spans = check.spans
    span = (spans[0].start, spans[0].stop) if spans else None
    effect = check.effect
    evidence = []
    if effect is not None and effect.cop_now is not None and effect.cop_then is not None:
        evidence.append(
            context.evidence(
                say("cop_logged_against"),
                effect.cop_now,
                effect.cop_then.value,
                ViewCode.TRUST,
                above=effect.cop_now.value > effect.cop_then.value,
                span=span,
            )
        )
    else:
        days = sum(s.stop - s.start for s in spans) / 86_400
        evidence.append(
            context.evidence(
                say("days_touches"), counted(days, "d"), 0.0, ViewCode.TRUST, span=span
            )
        )
    electric = Affects.ELECTRICITY in check.affects
    code = FindingCode.COP_TOO_GOOD
    if check.code not in TOO_GOOD:
        code = FindingCode(f"metering_{check.code}")
    return context.finding(
        code,
        check.sentence,
        Weight.ACTION if grave(check) or check.soundness == Soundness.BROKEN else Weight.ADVISORY,
        evidence,
        [Cause(say(usual)) for usual in CAUSES[check.code]],
        check.remedy or say("see_trust"),
        care("electrician") if electric else care("heating"),
        context.costed(None, say("basis_fault_metering")),
        care("mains") if electric else care("pressure"),
        say("clears", name=check.name),
        True,
    )


def too_good(context: FindingContext) -> Finding | None:
    """A performance ratio that no unit has: heat counted without its electricity, or a unit."""
    comparison = context.compared.comparison
    if context.verdict.kind != VerdictKind.TOO_GOOD or comparison is None:
        return None
    variable = part_load_is_better(context.installation)
    limit = context.limits.too_good_part_load if variable else context.limits.too_good
    return context.finding(
        FindingCode.COP_TOO_GOOD,
        say("sentence", better=comparison.ratio.value - 1),
        Weight.ACTION,
        [context.evidence(say("performance_ratio"), comparison.ratio, limit, ViewCode.RATING)],
        [
            Cause(say("cause_heat_counted")),
            Cause(say("cause_unit_phase")),
            Cause(say("cause_rated_table")),
        ],
        say("next_check"),
        care("electrician"),
        context.costed(None, say("too_good_basis_fault_metering")),
        care("mains"),
        say("too_good_clears", limit=limit),
        True,
    )
