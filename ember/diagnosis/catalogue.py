"""The catalogue: every rule, what it rests on, and how the findings are ordered."""

from collections.abc import Callable
from dataclasses import dataclass

from ember.diagnosis.antifreeze import weak_antifreeze
from ember.diagnosis.at_rest import high_standby, pump_always_on
from ember.diagnosis.below_rated import below_rated
from ember.diagnosis.capacity import capacity_short, low_limit, oversized
from ember.diagnosis.comfort import room_not_held
from ember.diagnosis.cycling import short_cycling
from ember.diagnosis.defrosts import (
    frequent_defrosts,
    ineffective_defrosts,
    needless_defrosts,
    overdue_defrosts,
    timed_defrosts,
)
from ember.diagnosis.finding import Finding, Silent, Weight
from ember.diagnosis.flow import fixed_flow, steep_curve
from ember.diagnosis.ground import Ground
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
from ember.rated import Promise
from ember.trust import Touches

HEAT, ELECTRICITY, CONDITIONS = Touches.HEAT, Touches.ELECTRICITY, Touches.CONDITIONS
COUNTS = Touches.COUNTS
TABLE = frozenset({HEAT, ELECTRICITY, CONDITIONS})


@dataclass(frozen=True)
class Rule:
    """A rule. rests_on : what of the metering must not be in doubt. events : it needs to know when
    the unit runs. shape : it reads the ratio's shape over the conditions."""

    kind: str
    make: Callable[[Ground], Finding | None]
    rests_on: frozenset[Touches]
    events: bool = False
    shape: bool = False


RULES = (
    Rule("below rated since", below_since, TABLE),
    Rule("below rated", below_rated, TABLE),
    Rule("below rated in frost", below_in_frost, TABLE, shape=True),
    Rule("below rated at part load", below_at_part_load, TABLE, shape=True),
    Rule("below rated at high flow", below_at_high_flow, TABLE, shape=True),
    Rule("capacity short", capacity_short, frozenset({HEAT, CONDITIONS})),
    Rule("oversized", oversized, frozenset({HEAT})),
    Rule("needless defrosts", needless_defrosts, frozenset({COUNTS, CONDITIONS}), True),
    Rule("timed defrosts", timed_defrosts, frozenset({COUNTS}), True),
    Rule("defrosts too often", frequent_defrosts, frozenset({COUNTS}), True),
    Rule("ineffective defrosts", ineffective_defrosts, frozenset({COUNTS}), True),
    Rule("overdue defrosts", overdue_defrosts, frozenset({COUNTS, CONDITIONS}), True),
    Rule("short cycling", short_cycling, frozenset({COUNTS}), True),
    Rule("fixed flow temperature", fixed_flow, frozenset({CONDITIONS}), True),
    Rule("over-steep curve", steep_curve, frozenset({CONDITIONS}), True),
    Rule("ΔT too wide", wide_delta, frozenset({HEAT})),
    Rule("ΔT too narrow", narrow_delta, frozenset({HEAT})),
    Rule("pumps fighting", fighting_pumps, frozenset({HEAT}), True),
    Rule("buffer blending", blending, frozenset()),
    Rule("heater overused", heaters_overused, frozenset({ELECTRICITY, HEAT})),
    Rule("hot water too hot", hot_water_too_hot, frozenset()),
    Rule("hot water too often", hot_water_too_often, frozenset({COUNTS}), True),
    Rule("hot water out of reach", hot_water_out_of_reach, frozenset()),
    Rule("high standby", high_standby, frozenset()),
    Rule("pump always on", pump_always_on, frozenset(), True),
    Rule("low outdoor limit reached", low_limit, frozenset({CONDITIONS}), True),
    Rule("room not held", room_not_held, frozenset()),
    Rule("weak antifreeze", weak_antifreeze, frozenset()),
    Rule("COP too good", too_good, TABLE),
)

# Where the first is found, the second is its consequence and is not said beside it.
INSTEAD = {
    "below rated since": ("below rated",),
    "timed defrosts": ("needless defrosts", "defrosts too often", "overdue defrosts"),
    "needless defrosts": ("defrosts too often",),
    "ineffective defrosts": ("defrosts too often", "overdue defrosts", "below rated in frost"),
}


@dataclass(frozen=True)
class Found:
    """Findings in the order in which to look at them, and the verdicts not made."""

    findings: tuple[Finding, ...]
    silent: tuple[Silent, ...]


def find(ground: Ground) -> Found:
    """Every finding of a record.

    What a fault of the metering puts in doubt is not judged, and says so. Order: what asks for
    action first, of that the metering first, then by what it costs.
    """
    faults = metering_faults(ground)
    ill = [c for c in ground.checks if c.unsound and (grave(c) or COUNTS in c.touches)]
    hidden = [c.name for c in ill if c.name in ("clocks", "rate registers", "other loads")]
    made: list[Finding] = []
    silent: list[Silent] = []
    for rule in RULES:
        doubted = [c.name for c in ill if rule.rests_on & set(c.touches)]
        if rule.events:
            doubted += [name for name in hidden if name not in doubted]
        if ground.surveyed.swapped and rule.rests_on:
            doubted = doubted or ["swapped sensors"]
        if doubted:
            silent.append(Silent(rule.kind, f"the metering is in doubt ({', '.join(doubted)})"))
            continue
        promise = ground.surveyed.facts.promise
        if rule.shape and isinstance(promise, Promise) and promise.hidden:
            silent.append(Silent(rule.kind, promise.hidden))
            continue
        found = rule.make(ground)
        if found is not None:
            made.append(found)
    kinds = {f.kind for f in made if f.weight == Weight.ACT or f.kind in INSTEAD}
    covered = {other for kind in kinds for other in INSTEAD.get(kind, ())}
    made = [f for f in made if f.kind not in covered]
    if any(f.kind == "COP too good" for f in faults):
        made = [f for f in made if f.kind != "COP too good"]
    every = sorted([*faults, *made], key=_order)
    return Found(tuple(every), tuple(silent))


def _order(finding: Finding) -> tuple[int, int, float]:
    lost = finding.lost.value if finding.lost is not None else 0.0
    return finding.weight != Weight.ACT, not finding.metering, -lost


__all__ = ["INSTEAD", "RULES", "Found", "Rule", "find"]
