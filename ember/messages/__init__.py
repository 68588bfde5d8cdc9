"""How codes are said: the one place for names and reasons in words.

In: a code of `ember.basis.codes` with its values. Out: a sentence. May import: `ember.basis.codes`.
Nothing in the core or the server decides by what is written here.
"""

from ember.messages.catalogue import Words, words_of
from ember.messages.names import check_name, finding_name
from ember.messages.reasons import (
    NotAvailable,
    Reason,
    because,
    no_comparison,
    not_available,
    reason_of,
)
from ember.messages.sources import Source

__all__ = [
    "NotAvailable",
    "Reason",
    "Source",
    "Words",
    "because",
    "check_name",
    "finding_name",
    "no_comparison",
    "not_available",
    "reason_of",
    "words_of",
]
