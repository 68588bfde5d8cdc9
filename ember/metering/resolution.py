"""The steps in which a channel is read."""

import numpy as np

from ember.basis.series import Floats

RESOLUTION_SAMPLE = 20_000


def step_of(values: Floats) -> float:
    """Smallest difference between two readings of a channel, in its unit; 0 where none differ.

    Parameters
    ----------
    values : array, (n,)
        Readings, NaN where unknown. A sample of them is looked at.
    """
    sample = values[:: max(1, len(values) // RESOLUTION_SAMPLE)]
    levels = np.unique(np.round(sample[np.isfinite(sample)], 5))
    if len(levels) < 2:
        return 0.0
    # The tenth percentile: a mean of two readings may lie between two steps.
    return float(np.percentile(np.diff(levels), 10))
