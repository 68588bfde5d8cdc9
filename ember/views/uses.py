"""What the electricity of a period went to, and what each use of it cost."""

from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.periods import Period
from ember.basis.quantity import Estimate
from ember.cost import cost_at_moments
from ember.reckoning.reckon import metered
from ember.states.state import State


@dataclass(frozen=True)
class Use:
    """One state of the unit.

    Attributes
    ----------
    state : State
        what it did.
    hours : float
        for how long, as far as the electricity is known.
    electricity : Estimate
        all that is metered meanwhile [kWh].
    paid : Estimate | None
        at the prices of its moments and the tiers reached by then, standing charges apart.
    price_paid : float | None
        the former by the latter, per kWh.
    """

    state: State
    hours: float
    electricity: Estimate
    paid: Estimate | None
    price_paid: float | None


def uses(analysis: RecordAnalysis, period: Period) -> list[Use]:
    """What the electricity of a period went to, in the order of the states; the record analysis is
    cut at its ends. Nothing where no meter holds all of it."""
    shares, segments = analysis.facts.shares, analysis.segments
    if not shares:
        return []
    count = len(State)
    inside = segments.within(period.start, period.stop)
    groups = np.where(inside, segments.state.astype(np.int64), -1)
    energies, cells = metered(segments, shares, groups, count)
    tariff = analysis.installation.tariff
    paid: list[Estimate | None] = [None] * count
    if tariff is not None:
        zone, supply = analysis.zone, analysis.installation.supply
        paid = cost_at_moments(tariff, segments, shares, groups, count, zone, supply)
    found = []
    for state in State:
        used, money = energies[state], paid[state]
        if not cells[state] or not used.value:
            continue
        price = money.value / used.value if money is not None else None
        found.append(Use(state, float(cells[state]) * segments.step / 3600, used, money, price))
    return found
