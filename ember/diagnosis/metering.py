"""Each fault of the metering that a check found, and a COP that is too good."""

from ember.basis.codes import CheckCode, FindingCode, ViewCode
from ember.description.installation import part_load_is_better
from ember.diagnosis.care import ELECTRICIAN, HEATING, MAINS, PRESSURE
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.diagnosis.ground import Ground, counted
from ember.rated import VerdictKind
from ember.trust import Check, Soundness, Touches

GRAVE = {Touches.HEAT, Touches.ELECTRICITY, Touches.CONDITIONS}
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
    CheckCode.YIELD_AS_HEAT: ("the display counts what comes from outdoors, not what reaches the water",),
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


def metering_faults(ground: Ground) -> list[Finding]:
    """One finding for each kind of fault that a check found in the period."""
    period = ground.period
    found: dict[FindingCode, Finding] = {}
    for check in ground.checks:
        here = [s for s in check.spans if s.start < period.stop and s.stop > period.start]
        if check.unsound and (here or not check.spans):
            made = _finding(ground, check)
            found.setdefault(made.code, made)  # two checks may say that a COP is too good
    return list(found.values())


def grave(check: Check) -> bool:
    """Whether a verdict may rest on it."""
    return check.unsound and bool(GRAVE & set(check.touches))


def _finding(ground: Ground, check: Check) -> Finding:
    spans = check.spans
    span = (spans[0].start, spans[0].stop) if spans else None
    effect = check.effect
    evidence = []
    if effect is not None and effect.cop_now is not None and effect.cop_then is not None:
        evidence.append(ground.evidence(
            "COP as logged, against what is proposed", effect.cop_now, effect.cop_then.value,
            ViewCode.TRUST, above=effect.cop_now.value > effect.cop_then.value, span=span,
        ))  # fmt: skip
    else:
        days = sum(s.stop - s.start for s in spans) / 86_400
        evidence.append(ground.evidence(
            "days that it touches", counted(days, "d"), 0.0, ViewCode.TRUST, span=span
        ))  # fmt: skip
    electric = Touches.ELECTRICITY in check.touches
    code = FindingCode.COP_TOO_GOOD
    if check.code not in TOO_GOOD:
        code = FindingCode(f"metering_{check.code}")
    return ground.finding(
        code, check.sentence,
        Weight.ACT if grave(check) or check.soundness == Soundness.BROKEN else Weight.LOOK,
        evidence, [Cause(name) for name in CAUSES[check.code]],
        check.remedy or "See Trust.", ELECTRICIAN if electric else HEATING,
        ground.costed(None, "a fault of the metering costs nothing itself; it hides what does"),
        MAINS if electric else PRESSURE,
        f"The check “{check.name}” sound again, or its correction accepted.", True,
    )  # fmt: skip


def too_good(ground: Ground) -> Finding | None:
    """A performance ratio that no unit has: heat counted without its electricity, or a unit."""
    comparison = ground.compared.comparison
    if ground.verdict.kind != VerdictKind.TOO_GOOD or comparison is None:
        return None
    variable = part_load_is_better(ground.installation)
    limit = ground.limits.too_good_part_load if variable else ground.limits.too_good
    return ground.finding(
        FindingCode.COP_TOO_GOOD,
        f"{comparison.ratio.value - 1:.0%} better than rated: no unit does that. Look at the "
        "metering before you believe it.",
        Weight.ACT,
        [ground.evidence("performance ratio", comparison.ratio, limit, ViewCode.RATING)],
        [Cause("heat counted without its electricity: another boundary on each side"),
         Cause("a unit, phase or pulse mistake"),
         Cause("the rated table of another unit")],
        "Draw the metering in Set up: which meter holds which consumer? Then read a bill's meter.",
        ELECTRICIAN, ground.costed(None, "a fault of the metering costs nothing itself"), MAINS,
        f"Performance ratio − U at or below {limit:g}.", True,
    )  # fmt: skip
