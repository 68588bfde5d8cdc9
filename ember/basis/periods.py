"""Period: a stretch of time by name."""

from dataclasses import dataclass

from ember.basis.clock import DAY

WHOLE_RECORD = "whole record"  # the period that is all of it


@dataclass(frozen=True, slots=True)
class Period:
    """A stretch of local time by name.

    Attributes
    ----------
    start, stop : float
        instants [s], half-open.
    """

    name: str
    start: float
    stop: float

    @property
    def days(self) -> float:
        """Length [d]."""
        return (self.stop - self.start) / DAY

    @property
    def length(self) -> str:
        """Length in words: hours below two days, else days."""
        if self.days < 2:
            return f"{self.days * 24:.0f} hours"
        return f"{self.days:.0f} days"
