"""Findings: what is wrong, with evidence, likely causes and the next check."""

from ember.findings.catalogue import INSTEAD, RULES, Found, Rule, find
from ember.findings.finding import Cause, Evidence, Finding, Silent, Weight
from ember.findings.foremost import Foremost, foremost
from ember.findings.ground import Ground
from ember.findings.siblings import table_or_house

__all__ = [
    "INSTEAD", "RULES", "Cause", "Evidence", "Finding", "Foremost", "Found", "Ground", "Rule",
    "Silent", "Weight", "find", "foremost", "table_or_house",
]  # fmt: skip
