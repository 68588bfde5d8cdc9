"""Findings: what is wrong, with evidence, likely causes and the next check."""

from ember.findings.below_rated import below_rated
from ember.findings.finding import Finding

__all__ = ["Finding", "below_rated"]
