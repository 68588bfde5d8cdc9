"""Months, heating seasons and years as periods.

In: the ends of a record and its zone. Out: periods. May import: `ember.trust` and what stands
before it.
"""

from ember.season.periods import latest_year, months, whole

__all__ = ["latest_year", "months", "whole"]
