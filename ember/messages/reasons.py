"""Why something is not available, as a code and as a sentence."""

from dataclasses import dataclass

from ember.basis.codes import ReasonCode
from ember.messages.catalogue import words_of

sentences = words_of("ember.messages.reasons")


@dataclass(frozen=True)
class Reason:
    """Why something is not available, not counted or not judged."""

    code: ReasonCode
    sentence: str

    def __str__(self) -> str:
        return self.sentence


@dataclass(frozen=True)
class NotAvailable:
    """A result that cannot be, and why."""

    reason: Reason

    def __str__(self) -> str:
        return self.reason.sentence


def reason_of(found: object) -> Reason | None:
    """Why a result cannot be; None where it can."""
    return found.reason if isinstance(found, NotAvailable) else None


def no_comparison(reason: Reason, table: str = "") -> Reason:
    """The same reason as that of a comparison that is not made.

    Parameters
    ----------
    table : str
        with which, in words.
    """
    said = (
        sentences("no_comparison_with", table=table, reason=reason)
        if table
        else sentences("no_comparison", reason=reason)
    )
    return Reason(reason.code, said)


def because(code: ReasonCode, **values: object) -> Reason:
    """A reason with its sentence. Raises KeyError where a value is lacking that it names."""
    return Reason(code, sentences(code, **values))


def not_available(code: ReasonCode, **values: object) -> NotAvailable:
    """A result that cannot be."""
    return NotAvailable(because(code, **values))
