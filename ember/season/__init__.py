"""Season: the periods over which a record is added up."""

from ember.season.periods import latest_year, months, whole

__all__ = ["latest_year", "months", "whole"]
