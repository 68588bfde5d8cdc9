"""A COP taken for the whole of a period that is not covered throughout."""

import numpy as np

from ember.basis.clock import DAY
from ember.basis.codes import SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent, merge
from ember.basis.series import Ints
from ember.boundary import MeterCombination
from ember.boundary.combinations import summed
from ember.messages import Source
from ember.reckoning.reckon import Reckoning
from ember.reckoning.segments import Segments
from ember.reckoning.tally import validity

WHOLE_LEAST_DAYS = 5
WHOLE_FULL = 0.999  # covered, from which nothing is added


def of_whole_period(
    segments: Segments, combination: MeterCombination, groups: Ints, found: Reckoning
) -> Estimate | None:
    """The COP of what is covered, with what the gaps may hide, if it is taken for the whole period.

    Parameters
    ----------
    groups : array, (m,)
        0 where a segment belongs to the period.
    found : Reckoning
        its Reckoning.

    Returns
    -------
    The same value; its budget has the missing share of the time times the standard deviation of
    the COPs of days, weighted by their electricity, as random. None with fewer than five days, or
    without a COP.

    Source: common practice; the days of a gap are taken to differ together.
    """
    if found.cop is None:
        return None
    if found.coverage >= WHOLE_FULL:
        return found.cop
    valid, _ = validity(segments, tuple(name for _, name in combination.meters))
    pick = valid & (groups == 0)
    day = (segments.begins[pick] // DAY).astype(np.int64)
    day -= day.min() if len(day) else 0
    given, taken = (
        summed(combination.given, segments.energy),
        summed(combination.electricity, segments.energy),
    )
    assert given is not None and taken is not None
    heat, used = (np.bincount(day, values[pick]) for values in (given, taken))
    good = np.asarray(used) > 0
    if np.count_nonzero(good) < WHOLE_LEAST_DAYS:
        return None
    daily = np.asarray(heat)[good] / np.asarray(used)[good]
    weights = np.asarray(used)[good]
    mean = np.average(daily, weights=weights)
    spread = float(np.sqrt(np.average((daily - mean) ** 2, weights=weights)))
    part = UncertaintyComponent(
        Source(SourceCode.TIME_NOT_COVERED), (1 - found.coverage) * spread, random=True
    )
    return Estimate(found.cop.value, "", merge((*found.cop.budget, part)))
