"""Measured against the rated table over conditions, over time, and at full load.

In: a survey and its events. Out: ratios by condition and day, drift, capacity, the site's
expected SPF. May import: `ember.operation` and what stands before it.
"""

from ember.comparison.capacity import Capacity, capacity_seen
from ember.comparison.drift import Change, DayRatio, Drift, day_ratios, drift
from ember.comparison.matched import MatchedHours, matched_hours
from ember.comparison.parts import Cell, Parts, ShapePart, grid, parts
from ember.comparison.site import Site, least_share, site

__all__ = [
    "Capacity",
    "Cell",
    "Change",
    "DayRatio",
    "Drift",
    "MatchedHours",
    "Parts",
    "ShapePart",
    "Site",
    "capacity_seen",
    "day_ratios",
    "drift",
    "grid",
    "least_share",
    "matched_hours",
    "parts",
    "site",
]  # fmt: skip
