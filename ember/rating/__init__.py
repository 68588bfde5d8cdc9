"""Rating: what the maker's table promises at the same conditions, and the verdict."""

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
from ember.rating.expected import Expected, Promise, expected
from ember.rating.surface import Surface, Surfaces, surface, surfaces
from ember.rating.table import read_table, table_from_csv

__all__ = [
    "Comparison",
    "Expected",
    "Promise",
    "Surface",
    "Surfaces",
    "Verdict",
    "VerdictKind",
    "compare",
    "compare_segments",
    "cop_if_rated",
    "electricity_lost",
    "expected",
    "read_table",
    "surface",
    "surfaces",
    "table_from_csv",
    "verdict",
]
