"""Errors a user can act on: each message says what, where and what to do."""


class EmberError(Exception):
    """Base of every error the core raises on bad input; its text is a full sentence.

    Attributes
    ----------
    where : str | None
        the field that is wrong, by its name in what was handed over; None where it is none alone.
    """

    def __init__(self, message: str = "", where: str | None = None) -> None:
        super().__init__(message)
        self.where = where


class DescriptionError(EmberError, ValueError):
    """The installation description, a tariff or a correction is wrong; names the field."""


class IntakeError(EmberError):
    """A log file cannot be read; names the file, the row or the column."""


class TableError(EmberError):
    """A rated table is wrong; names the row."""
