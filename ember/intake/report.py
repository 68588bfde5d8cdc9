"""What intake did with a file, in words and row numbers."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ember.basis.series import Ints

REPORT_SHOWN = 5  # rows named in a sentence; the rest are counted


class Treatment(StrEnum):
    """What was done."""

    READ = "read"
    CONVERTED = "converted"
    DOUBTED = "doubted"
    LEFT_OUT = "left out"


@dataclass(frozen=True, slots=True)
class Note:
    """One thing that intake did.

    Attributes
    ----------
    rows : tuple[int, ...]
        row numbers in the file, the first few
    count : int
        all.
    """

    treatment: Treatment
    text: str
    rows: tuple[int, ...]
    count: int


@dataclass(frozen=True, slots=True)
class ColumnReport:
    """A column of the file and what became of it.

    Attributes
    ----------
    valid : int
        cells of the grid with a reading.
    modes : tuple[tuple[str, str], ...]
        of a column of modes, each word with the state it was taken for.
    """

    header: str
    channel: str
    unit: str
    reason: str
    valid: int
    modes: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Choice:
    """An answer to a question.

    Attributes
    ----------
    channel : str
        it would make of the column, "" for none of them.
    preview : str
        what it would give, in words.
    """

    channel: str
    words: str
    preview: str


@dataclass(frozen=True)
class Question:
    """What only a person can say of a column.

    Attributes
    ----------
    sentence : str
        the question.
    choices : tuple[Choice, ...]
        likeliest first.
    """

    header: str
    sentence: str
    choices: tuple[Choice, ...]


@dataclass(frozen=True, slots=True)
class IntakeReport:
    """What was read, converted, doubted and left out.

    Attributes
    ----------
    start, stop : int
        instants [s]; step [s].
    questions : tuple[Question, ...]
        what only a person can say of columns that were left open.
    """

    file: str
    dialect: str
    clock: str
    rows: int
    start: int
    stop: int
    step: int
    columns: tuple[ColumnReport, ...]
    ignored_columns: tuple[str, ...]
    notes: tuple[Note, ...]
    questions: tuple[Question, ...]


def note(treatment: Treatment, text: str, rows: Iterable[int] | Ints = ()) -> Note:
    """A note; `{rows}` in the text is replaced by the row numbers in words."""
    numbers = np.asarray(rows if isinstance(rows, np.ndarray) else list(rows), np.int64)
    first = tuple(int(row) for row in numbers[:REPORT_SHOWN])
    return Note(treatment, text.replace("{rows}", in_words(numbers)), first, len(numbers))


def in_words(rows: Ints) -> str:
    """Row 7; Rows 7, 9 and 12; Rows 7, 8, 9, 10, 11 and 40 more."""
    if not len(rows):
        return "No row"
    numbers = [f"{row:,}" for row in rows[:REPORT_SHOWN]]
    more = len(rows) - len(numbers)
    if more:
        return f"Rows {', '.join(numbers)} and {more:,} more"
    if len(numbers) == 1:
        return f"Row {numbers[0]}"
    return f"Rows {', '.join(numbers[:-1])} and {numbers[-1]}"
