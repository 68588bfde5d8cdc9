"""Metering: what the meters say, cell by cell, and at which boundary it adds up."""

from ember.metering.boundary import Level, Plan, plans, plans_if_logged
from ember.metering.stream import Stream, Streams, Term, meter

__all__ = ["Level", "Plan", "Stream", "Streams", "Term", "meter", "plans", "plans_if_logged"]
