"""Files and batches of any dialect become a trace on one grid, with a report of what was done.

In: paths or bytes, and a description where there is one. Out: `Trace` and `IntakeReport`. May
import: `ember.basis`, `ember.description`, `ember.unpacked`.
"""

from ember.intake.pieces import joined, read_pieces
from ember.intake.read import read_log
from ember.intake.report import Choice, ColumnReport, IntakeReport, Note, Question, Treatment
from ember.intake.together import laid_over, read_logs

__all__ = [
    "Choice", "ColumnReport", "IntakeReport", "Note", "Question", "Treatment", "joined",
    "laid_over", "read_log", "read_logs", "read_pieces",
]  # fmt: skip
