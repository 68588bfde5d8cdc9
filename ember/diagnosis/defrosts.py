"""Defrosts: needless, by the clock, too often, ineffective, overdue."""

from ember.basis.codes import FindingCode, ViewCode
from ember.basis.quantity import Estimate
from ember.diagnosis.care import ICE
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.events.defrost_judgement import DEFROST_JUDGEMENT_SUSPICIOUS, Judged

WHO = (
    "Looking and clearing leaves: anyone, with the unit isolated. Sensors and settings of the "
    "defrost: a certified technician."
)


def _said(context: FindingContext, kind: Judged) -> tuple[int, str] | None:
    seen = context.defrosts
    found = next((s for s in seen.said if s.code == kind), None)
    return None if found is None else (found.count, found.words)


def _cost(context: FindingContext, share: float) -> Estimate | None:
    """Cost of a share of the defrosts [kWh]."""
    cost = context.defrosts.cost
    return None if cost is None else cost.scaled(max(share, 0.0))


def _beyond_expected(context: FindingContext) -> float:
    """Share of the defrosts beyond what the unit's own frost asks for."""
    seen = context.defrosts
    if seen.expected is None or not seen.count:
        return 0.5
    return min(max(1 - seen.expected / seen.count, 0.0), 1.0)


def _finding(
    context: FindingContext,
    code: FindingCode,
    sentence: str,
    sure: bool,
    share: float,
    evidence: Estimate,
    threshold: float,
    words: str,
    above: bool,
    causes: list[Cause],
    check: str,
    clears: str,
) -> Finding:
    lost = _cost(context, share)
    return context.finding(
        code,
        sentence,
        context.weight(sure, lost),
        [context.evidence(words, evidence, threshold, ViewCode.DEFROSTS, above)],
        causes,
        check,
        WHO,
        context.costed(lost, "of these defrosts, heat taken back and recovery included"),
        ICE,
        clears,
    )


def needless_defrosts(context: FindingContext) -> Finding | None:
    """Made though the air could not frost the coil."""
    found = _said(context, Judged.NEEDLESS)
    if found is None:
        return None
    count, words = found
    share = count / context.defrosts.count
    return _finding(
        context,
        FindingCode.NEEDLESS_DEFROSTS,
        f"Defrosts without frost: {words}.",
        share > context.limits.defrost_share,
        share,
        counted(share),
        context.limits.defrost_share,
        "share of defrosts in air that could not frost the coil",
        True,
        [
            Cause("a defrost by the clock, or by a coil sensor that reads too cold"),
            Cause("an outdoor coil short of air, colder than it should be"),
            Cause(
                "the humidity or outdoor sensor of the log is wrong",
                speaks_against=("its check found nothing",),
            ),
        ],
        "Watch one in dry air: is there any frost? Then read the coil sensor against a "
        "thermometer.",
        f"Fewer than {context.limits.defrost_share:.0%} in air that cannot frost.",
    )


def timed_defrosts(context: FindingContext) -> Finding | None:
    """By the clock, whatever the air."""
    found = _said(context, Judged.TIMED)
    if found is None:
        return None
    share = _beyond_expected(context)
    interval = context.defrosts.interval
    minutes = interval.median / 60 if interval else 0.0
    if minutes < DEFROST_JUDGEMENT_SUSPICIOUS:
        return None  # as often as the controller lets it: the clock of a shortest interval
    return _finding(
        context,
        FindingCode.TIMED_DEFROSTS,
        f"Defrosts by the clock: {found[1]}.",
        True,
        share,
        counted(minutes, "minute"),
        context.limits.defrost_interval,
        "median interval of running",
        False,
        [
            Cause("demand defrost switched off, or a unit that has none"),
            Cause("a failed humidity or coil sensor: the controller falls back on time"),
        ],
        "Look for the defrost mode in the controller's settings and its fault memory.",
        "Intervals that follow the frosting potential.",
    )


def frequent_defrosts(context: FindingContext) -> Finding | None:
    """More often than the weather explains."""
    found = _said(context, Judged.TOO_OFTEN)
    interval = context.defrosts.interval
    if found is None or interval is None:
        return None
    minutes = interval.median / 60
    # Half of what they cost beyond intervals of an hour.
    share = max(1 - minutes / 60.0, 0.0)
    return _finding(
        context,
        FindingCode.FREQUENT_DEFROSTS,
        f"Defrosts too often: {found[1]}.",
        minutes < context.limits.defrost_interval,
        share,
        counted(minutes, "minute"),
        context.limits.defrost_interval,
        "median interval of running",
        False,
        [
            Cause("a coil that is dirty or short of air, and so too cold"),
            Cause("frost left over from the defrost before"),
            Cause("low refrigerant charge (a suspicion until pressures are read)"),
        ],
        "Look at the coil, the fan and the clearances; watch whether it is clear after a defrost.",
        f"Half of the intervals longer than {context.limits.defrost_interval:g} min of running.",
    )


def ineffective_defrosts(context: FindingContext) -> Finding | None:
    """Ended by a time limit, before the coil is clear."""
    found = _said(context, Judged.INEFFECTIVE)
    if found is None:
        return _ice_left(context)
    count, words = found
    share = count / context.defrosts.count
    return _finding(
        context,
        FindingCode.INEFFECTIVE_DEFROSTS,
        f"Defrosts that do not clear the coil: {words}.",
        share >= 0.5,
        max(_beyond_expected(context), 0.6),
        counted(share),
        0.5,
        "share of defrosts that end at the same longest length",
        True,
        [
            Cause("ice that is never melted: drain blocked or frozen, base-pan heater dead"),
            Cause("too little heat for a defrost: low flow, cold water, too small a volume"),
            Cause("a time limit set too short"),
        ],
        "Look at the coil after a defrost: is ice left, and does it grow from one to the next?",
        "Defrosts of differing lengths, ended by the coil's temperature.",
    )


def _ice_left(context: FindingContext) -> Finding | None:
    """Ice that each leaves, by what the unit does right after it."""
    found, often = _said(context, Judged.ICE_LEFT), _said(context, Judged.TOO_OFTEN)
    if found is None or often is None:
        return None
    count, words = found
    share = count / context.defrosts.count
    return _finding(
        context,
        FindingCode.INEFFECTIVE_DEFROSTS,
        f"Defrosts that do not clear the coil: {words}; {often[1]}.",
        True,
        max(_beyond_expected(context), 0.6),
        counted(share),
        0.25,
        "share of defrosts that show it",
        True,
        [
            Cause("ice that is never melted: drain blocked or frozen, base-pan heater dead"),
            Cause("too little heat for a defrost: low flow, cold water, too small a volume"),
            Cause("a coil sensor that ends the defrost too soon"),
        ],
        "Look at the coil after a defrost: is ice left, and does it grow from one to the next?",
        "After a defrost the same share of the rated table as with a clear coil.",
    )


def overdue_defrosts(context: FindingContext) -> Finding | None:
    """Long after the usual load of frost."""
    found = _said(context, Judged.OVERDUE)
    if found is None:
        return None
    share = found[0] / context.defrosts.count
    made = _finding(
        context,
        FindingCode.OVERDUE_DEFROSTS,
        f"Defrosts that come late: {found[1]}.",
        False,
        0.0,
        counted(share),
        context.limits.defrost_share,
        "share of defrosts after twice the usual frost",
        True,
        [
            Cause("a coil sensor that reads too warm, or sits badly"),
            Cause("weather that the outdoor sensor does not see"),
        ],
        "Look at the coil in damp weather near 0 °C: how much frost before it defrosts?",
        f"Fewer than {context.limits.defrost_share:.0%} after twice the usual frost.",
    )
    assert made.weight == Weight.ADVISORY
    return made
