"""Hours of compared running: measured, and promised by the table at the same conditions."""

from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.sums import energy_of
from ember.basis.clock import HOUR
from ember.basis.periods import Period
from ember.basis.series import Bools, Floats, Ints
from ember.boundary.combinations import nearest_to_table

LEAST_SECONDS = 600.0  # of compared running, for an hour to count, common practice, chosen


@dataclass(frozen=True)
class MatchedHours:
    """Every hour with enough compared running, in order.

    Attributes
    ----------
    segments : Ints
        indices into the segments of what is compared, (s,)
    hour : Ints
        which of the hours each lies in, (s,), −1 for one with too little. start [s], outdoor, flow
        [degC]
    load : Floats
        heat while compared [W], heat, rated : measured, and electricity × rated COP [J], arrays
        (h,).
    """

    segments: Ints
    hour: Ints
    start: Ints
    outdoor: Floats
    flow: Floats
    load: Floats
    expected: Floats
    used: Floats

    def __len__(self) -> int:
        return len(self.start)

    def mask(self, hours: Bools, count: int) -> Bools:
        """Which segments of a book of `count` lie in some of the hours."""
        found: Bools = np.zeros(count, np.bool_)
        here = self.hour >= 0
        found[self.segments[here]] = hours[self.hour[here]]
        return found


def matched_hours(analysis: RecordAnalysis, period: Period) -> MatchedHours | None:
    """The hours of a period at whose ends the record analysis is cut; None where nothing can be
    compared."""
    segments, sums = analysis.segments, analysis.segments.sums
    combination = nearest_to_table(analysis.facts.combinations)
    if analysis.cop_reason or combination is None or not {"expected", "flow"} <= set(sums):
        return None
    use = segments.within(period.start, period.stop) & analysis.compared & (segments.excluded < 0)
    heat, used = (
        energy_of(analysis, combination.given),
        energy_of(analysis, combination.electricity),
    )
    use &= np.isfinite(heat) & np.isfinite(used) & np.isfinite(sums["expected"])
    at = np.flatnonzero(use)
    if not len(at):
        return None
    names, hour = np.unique(segments.begins[at] // HOUR, return_inverse=True)
    count = len(names)

    def total(values: Floats) -> Floats:
        found: Floats = np.bincount(hour, values[at], count).astype(np.float64)
        return found

    seconds = total(segments.cells.astype(np.float64)) * segments.step
    with np.errstate(invalid="ignore", divide="ignore"):
        outdoor = total(sums["outdoor"]) / total(sums["outdoor known"])
        flow = total(sums["flow"]) / total(sums["flow known"])
    good = (seconds >= LEAST_SECONDS) & np.isfinite(outdoor) & np.isfinite(flow)
    place = np.where(good, np.cumsum(good) - 1, -1)
    expected, measured = total(sums["expected"])[good], total(used)[good]
    return MatchedHours(
        segments=at,
        hour=place[hour],
        start=(names[good] * HOUR).astype(np.int64),
        outdoor=outdoor[good],
        flow=flow[good],
        load=total(heat)[good] / seconds[good],
        expected=expected,
        used=measured,
    )
