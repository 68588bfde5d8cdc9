"""Defrosts: needless, by the clock, too often, ineffective, overdue."""

from ember.basis.codes import FindingCode, ViewCode
from ember.basis.quantity import Estimate
from ember.diagnosis.care import care
from ember.diagnosis.context import FindingContext, counted
from ember.diagnosis.finding import Cause, Finding, Weight
from ember.events.defrost_judgement import DEFROST_JUDGEMENT_SUSPICIOUS, Judged
from ember.messages import words_of

say = words_of(__name__)


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
        say("who"),
        context.costed(lost, say("basis_these_defrosts")),
        care("ice"),
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
        say("defrosts_without_frost", words=words),
        share > context.limits.defrost_share,
        share,
        counted(share),
        context.limits.defrost_share,
        say("share_defrosts_air"),
        True,
        [
            Cause(say("cause_defrost_clock")),
            Cause(say("cause_outdoor_coil")),
            Cause(
                say("cause_humidity_outdoor"),
                speaks_against=(say("check_found_nothing"),),
            ),
        ],
        say("watch_one_dry"),
        say("fewer_than_air", defrost_share=context.limits.defrost_share),
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
        say("defrosts_clock", found=found[1]),
        True,
        share,
        counted(minutes, "minute"),
        context.limits.defrost_interval,
        say("median_interval_running"),
        False,
        [
            Cause(say("cause_demand_defrost")),
            Cause(say("cause_failed_humidity")),
        ],
        say("look_defrost_mode"),
        say("intervals_follow_frosting"),
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
        say("defrosts_too_often", found=found[1]),
        minutes < context.limits.defrost_interval,
        share,
        counted(minutes, "minute"),
        context.limits.defrost_interval,
        say("median_interval_running"),
        False,
        [
            Cause(say("cause_coil_dirty")),
            Cause(say("cause_frost_left")),
            Cause(say("cause_low_refrigerant")),
        ],
        say("look_coil_fan"),
        say("half_intervals_longer", defrost_interval=context.limits.defrost_interval),
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
        say("defrosts_do_not", words=words),
        share >= 0.5,
        max(_beyond_expected(context), 0.6),
        counted(share),
        0.5,
        say("share_defrosts_end"),
        True,
        [
            Cause(say("cause_ice_never")),
            Cause(say("cause_too_little")),
            Cause(say("cause_time_limit")),
        ],
        say("look_coil_after"),
        say("defrosts_differing_lengths"),
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
        say("defrosts_do_not_clear", words=words, often=often[1]),
        True,
        max(_beyond_expected(context), 0.6),
        counted(share),
        0.25,
        say("share_defrosts_show"),
        True,
        [
            Cause(say("cause_ice_never")),
            Cause(say("cause_too_little")),
            Cause(say("cause_coil_sensor")),
        ],
        say("look_coil_after"),
        say("after_defrost_same"),
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
        say("defrosts_come_late", found=found[1]),
        False,
        0.0,
        counted(share),
        context.limits.defrost_share,
        say("share_defrosts_after"),
        True,
        [
            Cause(say("overdue_defrosts_cause_coil_sensor")),
            Cause(say("cause_weather_outdoor")),
        ],
        say("look_coil_damp"),
        say("fewer_than_after", defrost_share=context.limits.defrost_share),
    )
    assert made.weight == Weight.ADVISORY
    return made
