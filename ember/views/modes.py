"""Heating, hot water and cooling of a period apart, each with its own quotient."""

from dataclasses import dataclass

import numpy as np

from ember.boundary.combinations import nearest_to_scop
from ember.operation.within import Within
from ember.reckoning import Reckoning, reckon
from ember.states.state import State, is_on


@dataclass(frozen=True)
class ModeSum:
    """What the unit did for one purpose.

    Attributes
    ----------
    mode : State
        HEATING, HOT_WATER or COOLING.
    hours : float
        for which it did, heaters and the pump's overrun with it.
    reckoning : Reckoning
        its sums; the quotient of cooling is an EER.
    """

    mode: State
    hours: float
    reckoning: Reckoning


def modes(within: Within) -> list[ModeSum]:
    """Heating, hot water and cooling of a period, at the level that stands nearest to SCOP, else at
    the widest; empty where no level can be computed.

    Hot water is the charges from their start to their end, with what was lost in starting and
    defrosting; heating is all other running with its defrosts; what is used at rest is in neither.
    """
    analysis = within.analysis
    combination = nearest_to_scop(analysis.facts.combinations)
    if combination is None:
        return []
    segments, charges = analysis.segments, within.found.charges
    inside = segments.within(within.period.start, within.period.stop)
    water = within.groups(charges.start, charges.stop) >= 0
    state = segments.state
    cooling = state == State.COOLING
    busy = is_on(state) | (state == State.BACKUP_ONLY) | (state == State.PUMP_OVERRUN)
    groups = np.full(len(state), -1, np.int64)
    groups[inside & (busy | water) & ~cooling] = 0
    groups[inside & water & ~cooling] = 1
    asked = [(within.period.start, within.period.stop)] * 2
    pair = reckon(segments, combination, groups, asked, analysis.cop_reason)
    found = []

    def hours(mask: np.ndarray) -> float:
        return float(segments.cells[mask].sum()) * segments.step / 3600

    for k, mode in enumerate((State.HEATING, State.HOT_WATER)):
        if (groups == k).any():
            found.append(ModeSum(mode, hours(groups == k), pair[k]))
    chill = inside & cooling
    if chill.any():
        alone = np.where(chill, 0, -1)
        (cold,) = reckon(segments, combination, alone, asked[:1], analysis.cop_reason, True)
        found.append(ModeSum(State.COOLING, hours(chill), cold))
    return found
