"""Intake: a log file in, a Trace and a report of every loss out."""

from ember.intake.pieces import joined, read_pieces
from ember.intake.read import read_log
from ember.intake.report import Choice, ColumnReport, IntakeReport, Note, Question, Treatment
from ember.intake.together import laid_over, read_logs

__all__ = [
    "Choice", "ColumnReport", "IntakeReport", "Note", "Question", "Treatment", "joined",
    "laid_over", "read_log", "read_logs", "read_pieces",
]  # fmt: skip
