"""Rating: what the maker's table promises at the same conditions, and the verdict."""

from ember.rating.climates import CLIMATES, LEVELS, Climate
from ember.rating.compare import (
    Comparison,
    Verdict,
    VerdictKind,
    compare,
    compare_segments,
    cop_if_rated,
    electricity_lost,
    verdict,
)
from ember.rating.entries import Doubt, Entry, Reading, Sheet, cop_of
from ember.rating.expected import Expected, Promise, expected
from ember.rating.points import standard_point
from ember.rating.scop import Aux, Scop, ScopBin, scop, seasonal
from ember.rating.sheet import read_sheet
from ember.rating.surface import Surface, Surfaces, surface, surfaces
from ember.rating.table import read_table, table_from_csv

__all__ = [
    "CLIMATES",
    "LEVELS",
    "Aux",
    "Climate",
    "Comparison",
    "Doubt",
    "Entry",
    "Expected",
    "Promise",
    "Reading",
    "Scop",
    "ScopBin",
    "Sheet",
    "Surface",
    "Surfaces",
    "Verdict",
    "VerdictKind",
    "compare",
    "compare_segments",
    "cop_if_rated",
    "cop_of",
    "electricity_lost",
    "expected",
    "read_sheet",
    "read_table",
    "scop",
    "seasonal",
    "standard_point",
    "surface",
    "surfaces",
    "table_from_csv",
    "verdict",
]
