"""Which of the levels H1–H4 can be computed, from which meters.

In: a description and the energies of its meters. Out: a `MeterCombination` for each level. May
import: `ember.metering` and what stands before it.
"""

from ember.boundary.combinations import (
    Level,
    MeterCombination,
    combinations,
    combinations_if_logged,
)

__all__ = ["Level", "MeterCombination", "combinations", "combinations_if_logged"]
