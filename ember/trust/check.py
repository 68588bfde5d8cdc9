"""What a check says."""

from dataclasses import dataclass
from enum import StrEnum

from ember.installation import Exclusion, Swap
from ember.period import Period
from ember.quantity import Estimate


class Soundness(StrEnum):
    """What can be said of the metering in one respect."""

    SOUND = "sound"
    DOUBTFUL = "doubtful"
    BROKEN = "broken"
    NOT_CHECKABLE = "not checkable"


@dataclass(frozen=True)
class Check:
    """One check of the metering.

    sentence : what was found, with the measured value against its limit. spans : where.
    remedy : what to do. proposals : corrections the analyst may accept into the description.
    cop_now, cop_if_accepted : the COP at the widest level before and after, where there is a
    proposal; None for a COP that can't be stated.
    """

    name: str
    soundness: Soundness
    sentence: str
    spans: tuple[Period, ...]
    remedy: str
    proposals: tuple[Exclusion | Swap, ...]
    cop_now: Estimate | None = None
    cop_if_accepted: Estimate | None = None


def not_checkable(name: str, why: str) -> Check:
    """A check for which something is lacking."""
    return Check(name, Soundness.NOT_CHECKABLE, why, (), "", ())


def sound(name: str, sentence: str) -> Check:
    """A check that found nothing."""
    return Check(name, Soundness.SOUND, sentence, (), "", ())
