"""Readings by hand and bills: a sheet taken at displays and gauges, its checks, and its sums.

In: what people typed. Out: a description and a trace like any other, doubts, COP between two
rows. May import: the whole road up to `ember.assessment`.
"""

from ember.readings.doubts import Doubt, doubts
from ember.readings.record import Sheet, record_of, sheet_of
from ember.readings.sheet import Problem, Reading, Turn, TypedCells, read_rows
from ember.readings.sums import HandSums, hand_sums

__all__ = [
    "Doubt",
    "HandSums",
    "Problem",
    "Reading",
    "Sheet",
    "Turn",
    "TypedCells",
    "doubts",
    "hand_sums",
    "read_rows",
    "record_of",
    "sheet_of",
]
