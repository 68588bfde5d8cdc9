"""Hours of compared running: measured, and promised by the table at the same conditions."""

from dataclasses import dataclass

import numpy as np

from ember.assessment.survey import Survey
from ember.basis.periods import Period
from ember.basis.series import Bools, Floats, Ints
from ember.rated.further import narrowest
from ember.sums import energy_of

HOUR = 3600
LEAST_SECONDS = 600.0  # of compared running, for an hour to count, common practice


@dataclass(frozen=True)
class SameHours:
    """Every hour with enough compared running, in order.

    segments : indices into the book of what is compared, (s,); hour : which of the hours each lies
    in, (s,), −1 for one with too little. start [s], outdoor, flow [degC], load : heat while
    compared [W], heat, rated : measured, and electricity × rated COP [J], arrays (h,).
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


def same_hours(surveyed: Survey, period: Period) -> SameHours | None:
    """The hours of a period at whose ends the survey is cut; None where nothing can be compared."""
    book, sums = surveyed.book, surveyed.book.sums
    plan = narrowest(surveyed.facts.plans)
    if surveyed.withheld or plan is None or not {"expected", "flow"} <= set(sums):
        return None
    use = book.within(period.start, period.stop) & surveyed.compared & (book.excluded < 0)
    heat, used = energy_of(surveyed, plan.given), energy_of(surveyed, plan.electricity)
    use &= np.isfinite(heat) & np.isfinite(used) & np.isfinite(sums["expected"])
    at = np.flatnonzero(use)
    if not len(at):
        return None
    names, hour = np.unique(book.begins[at] // HOUR, return_inverse=True)
    count = len(names)

    def total(values: Floats) -> Floats:
        found: Floats = np.bincount(hour, values[at], count).astype(np.float64)
        return found

    seconds = total(book.cells.astype(np.float64)) * book.step
    with np.errstate(invalid="ignore", divide="ignore"):
        outdoor = total(sums["outdoor"]) / total(sums["outdoor known"])
        flow = total(sums["flow"]) / total(sums["flow known"])
    good = (seconds >= LEAST_SECONDS) & np.isfinite(outdoor) & np.isfinite(flow)
    place = np.where(good, np.cumsum(good) - 1, -1)
    expected, measured = total(sums["expected"])[good], total(used)[good]
    return SameHours(
        at, place[hour], (names[good] * HOUR).astype(np.int64), outdoor[good], flow[good],
        total(heat)[good] / seconds[good], expected, measured,
    )  # fmt: skip
