"""The maker's table: read, made a surface, laid beside what is measured; SCOP by EN 14825.

In: a rated table, and measured segments where there are some. Out: rated COP, ratio, verdict,
SCOP. May import: `ember.reckoning` and what stands before it.
"""

from ember.description.declared import Aux, Climate
from ember.rated.climates import CLIMATES, LEVELS
from ember.rated.declared import scop_declared
from ember.rated.entries import TableDoubt, TableEntry, TableReading, TableSheet, cop_of
from ember.rated.expected import Expected, Promise, expected
from ember.rated.for_house import (
    ForHouse,
    Need,
    Weather,
    binned_weather,
    by_table_alone,
    climate_weather,
    for_house,
    hourly_weather,
    logged_weather,
    need_of,
)
from ember.rated.points import standard_point
from ember.rated.scop import Scop, ScopBin, scop, seasonal
from ember.rated.sheet import read_sheet
from ember.rated.surface import Surface, Surfaces, surface, surfaces
from ember.rated.table import read_table, table_from_csv, table_with_doubts

__all__ = [
    "CLIMATES",
    "LEVELS",
    "Aux",
    "Climate",
    "Expected",
    "ForHouse",
    "Need",
    "Promise",
    "Scop",
    "ScopBin",
    "Surface",
    "Surfaces",
    "TableDoubt",
    "TableEntry",
    "TableReading",
    "TableSheet",
    "Weather",
    "binned_weather",
    "by_table_alone",
    "climate_weather",
    "cop_of",
    "expected",
    "for_house",
    "hourly_weather",
    "logged_weather",
    "need_of",
    "read_sheet",
    "read_table",
    "scop",
    "scop_declared",
    "seasonal",
    "standard_point",
    "surface",
    "surfaces",
    "table_from_csv",
    "table_with_doubts",
]
