"""Findings: what is wrong, with evidence, likely causes and the next check.

In: all that was worked out of a record. Out: `Finding`s in the order in which to look at them,
and what is not judged, with the reason. May import: every room before it.
"""

from ember.diagnosis.catalogue import INSTEAD, RULES, FindingRule, Findings, find
from ember.diagnosis.context import FindingContext
from ember.diagnosis.finding import Cause, Evidence, Finding, NotJudged, Weight
from ember.diagnosis.foremost import Foremost, foremost
from ember.diagnosis.siblings import table_or_house

__all__ = [
    "INSTEAD",
    "RULES",
    "Cause",
    "Evidence",
    "Finding",
    "FindingContext",
    "FindingRule",
    "Findings",
    "Foremost",
    "NotJudged",
    "Weight",
    "find",
    "foremost",
    "table_or_house",
]  # fmt: skip
