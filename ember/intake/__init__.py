"""Intake: a log file in, a Trace and a report of every loss out."""

from ember.intake.read import read_log
from ember.intake.report import ColumnReport, IntakeReport, Note, Treatment

__all__ = ["ColumnReport", "IntakeReport", "Note", "Treatment", "read_log"]
