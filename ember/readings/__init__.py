"""By hand: a sheet of readings taken at displays and gauges, its checks, and its sums."""

from ember.readings.doubts import Doubt, doubts
from ember.readings.record import Sheet, record_of, sheet_of
from ember.readings.sheet import Cells, Problem, Reading, Turn, read_rows
from ember.readings.sums import HandBook, hand_book

__all__ = [
    "Cells",
    "Doubt",
    "HandBook",
    "Problem",
    "Reading",
    "Sheet",
    "Turn",
    "doubts",
    "hand_book",
    "read_rows",
    "record_of",
    "sheet_of",
]
