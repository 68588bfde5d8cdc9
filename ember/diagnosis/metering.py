"""Each fault of the metering that a check found, and a COP that is too good."""

from ember.basis.codes import CheckCode, FindingCode, ViewCode
from ember.comparison.performance_ratio import VerdictKind
from ember.description.installation import part_load_is_better
from ember.diagnosis.care import CARE_PRESSURE, ELECTRICIAN, HEATING, MAINS
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.messages import words_of
from ember.trust import Affects, Check, Soundness

say = words_of(__name__)

GRAVE = {Affects.HEAT, Affects.ELECTRICITY, Affects.CONDITIONS}
# Usual causes of what each check finds, the likeliest first; common practice.
CAUSES = {
    CheckCode.SWAPPED_SENSORS: ("sensors, or their columns in the log, exchanged",),
    CheckCode.CLOCKS: ("two loggers with clocks of their own", "local time taken for UTC"),
    CheckCode.RATE_REGISTERS: ("one of two rate registers is read only",),
    CheckCode.OTHER_LOADS: ("something else on the circuit", "the unit's own standby, or a heater"),
    CheckCode.FLOW_READING: ("air in the water", "a flow sensor too near to a bend, or dirty"),
    CheckCode.PAIR_OFFSET: ("two sensors that were never made a pair", "a sensor badly seated"),
    CheckCode.STUCK_READINGS: ("a sensor, its cable, or the logger that repeats a value",),
    CheckCode.CONSUMERS: ("a heater behind a meter that is not described as its own",),
    CheckCode.REGISTER_AGAINST_FLOW: (
        "unit, phase or pulse value set wrongly", "antifreeze that the calculator does not know",
        "a sensor in the wrong place",
    ),
    CheckCode.CONTROLLER_AGAINST_METER: ("the controller estimates from a map", "an ill meter"),
    CheckCode.GLYCOL: ("a calculator set for water",),
    CheckCode.YIELD_AS_HEAT: ("the display counts what comes from outdoors, not what reaches "
        "the water",),
    CheckCode.PHYSICAL_BOUND: ("heat without its electricity", "a unit or phase mistake"),
    CheckCode.BEYOND_TABLE: ("a phase without a clamp", "another boundary on each side",
                         "the table of another unit"),
    CheckCode.SPIKES: ("a loose cable", "interference", "the logger's own slips"),
    CheckCode.RESOLUTION: ("a logger that rounds", "a sensor with coarse steps"),
    CheckCode.COUNTER_RESETS: ("a meter changed or set back", "a register that rolled over"),
    CheckCode.GAPS: ("the logger, its power or its network",),
    CheckCode.OUTDOOR_SENSOR: ("sun on the sensor", "warm exhaust or a wall beside it"),
}  # fmt: skip
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
        [Cause(name) for name in CAUSES[check.code]],
        check.remedy or say("see_trust"),
        ELECTRICIAN if electric else HEATING,
        context.costed(None, say("basis_fault_metering")),
        MAINS if electric else CARE_PRESSURE,
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
        say("sentence", value=comparison.ratio.value - 1),
        Weight.ACTION,
        [context.evidence(say("performance_ratio"), comparison.ratio, limit, ViewCode.RATING)],
        [
            Cause(say("cause_heat_counted")),
            Cause(say("cause_unit_phase")),
            Cause(say("cause_rated_table")),
        ],
        say("next_check"),
        ELECTRICIAN,
        context.costed(None, say("too_good_basis_fault_metering")),
        MAINS,
        say("too_good_clears", limit=limit),
        True,
    )
