"""Intake: a log file in, a Trace and a report of every loss out."""

from ember.intake.pieces import joined, read_pieces
from ember.intake.read import read_log
from ember.intake.report import ColumnReport, IntakeReport, Note, Treatment

__all__ = ["ColumnReport", "IntakeReport", "Note", "Treatment", "joined", "read_log", "read_pieces"]
