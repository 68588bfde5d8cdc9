"""Season: the periods over which a record is added up."""

from ember.season.periods import months, whole

__all__ = ["months", "whole"]
