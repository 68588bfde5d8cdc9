"""Rating: what the maker's table promises at the same conditions, and the verdict."""

from ember.rating.compare import Comparison, Verdict, VerdictKind, compare, verdict
from ember.rating.expected import Expected, expected
from ember.rating.surface import Surface, surface
from ember.rating.table import read_table, table_from_csv

__all__ = [
    "Comparison",
    "Expected",
    "Surface",
    "Verdict",
    "VerdictKind",
    "compare",
    "expected",
    "read_table",
    "surface",
    "table_from_csv",
    "verdict",
]
