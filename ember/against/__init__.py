"""Measured against the rated table over conditions, over time, and at full load."""

from ember.against.capacity import Capacity, capacity_seen
from ember.against.drift import Change, DayRatio, Drift, day_ratios, drift
from ember.against.parts import Cell, Part, Parts, grid, parts
from ember.against.same import SameHours, same_hours
from ember.against.site import Site, least_share, site

__all__ = [
    "Capacity", "Cell", "Change", "DayRatio", "Drift", "Part", "Parts", "SameHours", "Site",
    "capacity_seen", "day_ratios", "drift", "grid", "least_share", "parts", "same_hours", "site",
]  # fmt: skip
