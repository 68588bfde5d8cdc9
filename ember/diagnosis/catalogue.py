"""The catalogue: every rule, what it rests on, and how the findings are ordered."""

from collections.abc import Callable
from dataclasses import dataclass

from ember.basis.codes import CheckCode, FindingCode, ReasonCode
from ember.diagnosis.antifreeze import weak_antifreeze
from ember.diagnosis.at_rest import high_standby, pump_always_on
from ember.diagnosis.below_rated import below_rated
from ember.diagnosis.capacity import capacity_short, low_limit, oversized
from ember.diagnosis.comfort import room_not_held
from ember.diagnosis.context import FindingContext
from ember.diagnosis.cycling import short_cycling
from ember.diagnosis.defrosts import (
    frequent_defrosts,
    ineffective_defrosts,
    needless_defrosts,
    overdue_defrosts,
    timed_defrosts,
)
from ember.diagnosis.finding import Finding, NotJudged, Weight
from ember.diagnosis.flow import fixed_flow, steep_curve
from ember.diagnosis.heaters import heaters_overused
from ember.diagnosis.hot_water import (
    hot_water_out_of_reach,
    hot_water_too_hot,
    hot_water_too_often,
)
from ember.diagnosis.hydraulics import blending, fighting_pumps, narrow_delta, wide_delta
from ember.diagnosis.metering import grave, metering_faults, too_good
from ember.diagnosis.shape import below_at_high_flow, below_at_part_load, below_in_frost
from ember.diagnosis.since import below_since
from ember.messages import because, check_name
from ember.rated import Promise
from ember.trust import Affects

CATALOGUE_HEAT, ELECTRICITY, CONDITIONS = Affects.HEAT, Affects.ELECTRICITY, Affects.CONDITIONS
COUNTS = Affects.COUNTS
# They hide when the unit runs.
HIDING = (CheckCode.CLOCKS, CheckCode.RATE_REGISTERS, CheckCode.OTHER_LOADS)
TABLE = frozenset({CATALOGUE_HEAT, ELECTRICITY, CONDITIONS})


@dataclass(frozen=True)
class FindingRule:
    """A rule.

    Attributes
    ----------
    rests_on : frozenset[Affects]
        what of the metering must not be in doubt.
    events : bool
        it needs to know when the unit runs.
    shape : bool
        it reads the ratio's shape over the conditions.
    """

    code: FindingCode
    make: Callable[[FindingContext], Finding | None]
    rests_on: frozenset[Affects]
    events: bool = False
    shape: bool = False


RULES = (
    FindingRule(FindingCode.BELOW_RATED_SINCE, below_since, TABLE),
    FindingRule(FindingCode.BELOW_RATED, below_rated, TABLE),
    FindingRule(FindingCode.BELOW_RATED_IN_FROST, below_in_frost, TABLE, shape=True),
    FindingRule(FindingCode.BELOW_RATED_AT_PART_LOAD, below_at_part_load, TABLE, shape=True),
    FindingRule(FindingCode.BELOW_RATED_AT_HIGH_FLOW, below_at_high_flow, TABLE, shape=True),
    FindingRule(
        FindingCode.CAPACITY_SHORT, capacity_short, frozenset({CATALOGUE_HEAT, CONDITIONS})
    ),
    FindingRule(FindingCode.OVERSIZED, oversized, frozenset({CATALOGUE_HEAT})),
    FindingRule(
        FindingCode.NEEDLESS_DEFROSTS, needless_defrosts, frozenset({COUNTS, CONDITIONS}), True
    ),
    FindingRule(FindingCode.TIMED_DEFROSTS, timed_defrosts, frozenset({COUNTS}), True),
    FindingRule(FindingCode.FREQUENT_DEFROSTS, frequent_defrosts, frozenset({COUNTS}), True),
    FindingRule(FindingCode.INEFFECTIVE_DEFROSTS, ineffective_defrosts, frozenset({COUNTS}), True),
    FindingRule(
        FindingCode.OVERDUE_DEFROSTS, overdue_defrosts, frozenset({COUNTS, CONDITIONS}), True
    ),
    FindingRule(FindingCode.SHORT_CYCLING, short_cycling, frozenset({COUNTS}), True),
    FindingRule(FindingCode.FIXED_FLOW_TEMPERATURE, fixed_flow, frozenset({CONDITIONS}), True),
    FindingRule(FindingCode.CURVE_TOO_STEEP, steep_curve, frozenset({CONDITIONS}), True),
    FindingRule(FindingCode.DELTA_TOO_WIDE, wide_delta, frozenset({CATALOGUE_HEAT})),
    FindingRule(FindingCode.DELTA_TOO_NARROW, narrow_delta, frozenset({CATALOGUE_HEAT})),
    FindingRule(FindingCode.PUMPS_FIGHTING, fighting_pumps, frozenset({CATALOGUE_HEAT}), True),
    FindingRule(FindingCode.BUFFER_BLENDING, blending, frozenset()),
    FindingRule(
        FindingCode.HEATER_OVERUSED, heaters_overused, frozenset({ELECTRICITY, CATALOGUE_HEAT})
    ),
    FindingRule(FindingCode.HOT_WATER_TOO_HOT, hot_water_too_hot, frozenset()),
    FindingRule(FindingCode.HOT_WATER_TOO_OFTEN, hot_water_too_often, frozenset({COUNTS}), True),
    FindingRule(FindingCode.HOT_WATER_OUT_OF_REACH, hot_water_out_of_reach, frozenset()),
    FindingRule(FindingCode.HIGH_STANDBY, high_standby, frozenset()),
    FindingRule(FindingCode.PUMP_ALWAYS_ON, pump_always_on, frozenset(), True),
    FindingRule(FindingCode.LOW_OUTDOOR_LIMIT, low_limit, frozenset({CONDITIONS}), True),
    FindingRule(FindingCode.ROOM_NOT_HELD, room_not_held, frozenset()),
    FindingRule(FindingCode.WEAK_ANTIFREEZE, weak_antifreeze, frozenset()),
    FindingRule(FindingCode.COP_TOO_GOOD, too_good, TABLE),
)

# Where the first is found, the second is its consequence and is not said beside it.
INSTEAD = {
    FindingCode.BELOW_RATED_SINCE: (FindingCode.BELOW_RATED,),
    FindingCode.TIMED_DEFROSTS: (
        FindingCode.NEEDLESS_DEFROSTS,
        FindingCode.FREQUENT_DEFROSTS,
        FindingCode.OVERDUE_DEFROSTS,
    ),
    FindingCode.NEEDLESS_DEFROSTS: (FindingCode.FREQUENT_DEFROSTS,),
    FindingCode.INEFFECTIVE_DEFROSTS: (
        FindingCode.FREQUENT_DEFROSTS,
        FindingCode.OVERDUE_DEFROSTS,
        FindingCode.BELOW_RATED_IN_FROST,
    ),
}


@dataclass(frozen=True)
class Findings:
    """Findings in the order in which to look at them, and the verdicts not made."""

    findings: tuple[Finding, ...]
    not_judged: tuple[NotJudged, ...]


def find(context: FindingContext) -> Findings:
    """Every finding of a record.

    What a fault of the metering puts in doubt is not judged, and says so. Order: what asks for
    action first, of that the metering first, then by what it costs.
    """
    faults = metering_faults(context)
    ill = [c for c in context.checks if c.unsound and (grave(c) or COUNTS in c.affects)]
    hidden = [c.name for c in ill if c.code in HIDING]
    made: list[Finding] = []
    not_judged: list[NotJudged] = []
    for rule in RULES:
        doubted = [c.name for c in ill if rule.rests_on & set(c.affects)]
        if rule.events:
            doubted += [name for name in hidden if name not in doubted]
        if context.analysis.swapped and rule.rests_on:
            doubted = doubted or [check_name(CheckCode.SWAPPED_SENSORS)]
        if doubted:
            not_judged.append(
                NotJudged(
                    rule.code, because(ReasonCode.METERING_DOUBTFUL, checks=", ".join(doubted))
                )
            )
            continue
        promise = context.analysis.facts.promise
        if rule.shape and isinstance(promise, Promise) and promise.hidden:
            not_judged.append(NotJudged(rule.code, promise.hidden))
            continue
        found = rule.make(context)
        if found is not None:
            made.append(found)
    codes = {f.code for f in made if f.weight == Weight.ACTION or f.code in INSTEAD}
    covered = {other for code in codes for other in INSTEAD.get(code, ())}
    made = [f for f in made if f.code not in covered]
    if any(f.code == FindingCode.COP_TOO_GOOD for f in faults):
        made = [f for f in made if f.code != FindingCode.COP_TOO_GOOD]
    every = sorted([*faults, *made], key=_order)
    return Findings(tuple(every), tuple(not_judged))


def _order(finding: Finding) -> tuple[int, int, float]:
    lost = finding.lost.value if finding.lost is not None else 0.0
    return finding.weight != Weight.ACTION, not finding.metering, -lost


__all__ = ["INSTEAD", "RULES", "FindingRule", "Findings", "find"]
