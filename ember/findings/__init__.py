"""Findings: what is wrong, with evidence, likely causes and the next check."""

from ember.findings.catalogue import INSTEAD, RULES, Found, Rule, find
from ember.findings.finding import Cause, Evidence, Finding, Silent, Weight
from ember.findings.ground import Ground, drift_of

__all__ = [
    "INSTEAD", "RULES", "Cause", "Evidence", "Finding", "Found", "Ground", "Rule", "Silent",
    "Weight", "drift_of", "find",
]  # fmt: skip
