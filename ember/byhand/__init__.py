"""By hand: a sheet of readings taken at displays and gauges, its checks, and its sums."""

from ember.byhand.doubts import Doubt, doubts
from ember.byhand.record import Sheet, record_of, sheet_of
from ember.byhand.sheet import Cells, Problem, Reading, Turn, read_rows
from ember.byhand.sums import HandBook, hand_book

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
