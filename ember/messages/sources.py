"""What a source of uncertainty is called."""

from typing import NamedTuple

from ember.basis.codes import SourceCode
from ember.messages.catalogue import words_of

sources = words_of("ember.messages.sources")


class Source(NamedTuple):
    """A source of uncertainty: two parts of one source add, whatever it is called.

    Attributes
    ----------
    of : str
        the meter or consumer that errs, empty for none.
    detail : str
        what tells it from others of its kind.
    """

    code: SourceCode
    of: str = ""
    detail: str = ""

    @property
    def words(self) -> str:
        """It as it is said."""
        return sources(self.code, of=self.of, detail=self.detail)
