"""What a finding holds."""

from dataclasses import dataclass, field
from enum import StrEnum

from ember.basis.codes import FindingCode, ViewCode
from ember.basis.periods import Period
from ember.basis.quantity import Estimate
from ember.messages import Reason, finding_name


class Weight(StrEnum):
    """What a finding asks for."""

    ACTION = "action"  # sure even with U, and worth it
    ADVISORY = "advisory"  # may be, or small


@dataclass(frozen=True)
class Evidence:
    """A measured value against its threshold, and the span that shows it.

    Attributes
    ----------
    above : bool
        the fault lies above the threshold, else below.
    start, stop : float
        instants [s].
    view : ViewCode
        the screen that shows it, like running/defrosts.
    """

    words: str
    measured: Estimate
    threshold: float
    above: bool
    start: float
    stop: float
    view: ViewCode


@dataclass(frozen=True)
class Cause:
    """A likely cause, with what the record says for and against it."""

    name: str
    speaks_for: tuple[str, ...] = ()
    speaks_against: tuple[str, ...] = ()


@dataclass(frozen=True)
class Finding:
    """Something that is wrong, and what to do about it.

    Attributes
    ----------
    code : FindingCode
        what it is
    name : str
        that in words.
    sentence : str
        what is wrong.
    period : Period
        over which it is stated.
    evidence : tuple[Evidence, ...]
        the strongest first.
    causes : tuple[Cause, ...]
        likely ones, the likeliest first.
    next_check, who : str
        the next step and who may do it.
    lost, money_lost : Estimate | None
        in the period
    kwh_a_year, money_a_year : Estimate | None
        None with the reason in `cost_basis` where a year is not covered.
    caution : str
        before anybody acts.
    clears : str
        what would end it.
    metering : bool
        a fault of the metering, on which nothing else may rest.
    """

    code: FindingCode
    sentence: str
    weight: Weight
    period: Period
    evidence: tuple[Evidence, ...]
    causes: tuple[Cause, ...]
    next_check: str
    who: str
    lost: Estimate | None
    money_lost: Estimate | None
    kwh_a_year: Estimate | None
    money_a_year: Estimate | None
    cost_basis: str
    caution: str
    clears: str
    metering: bool
    name: str = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "name", finding_name(self.code))


@dataclass(frozen=True)
class NotJudged:
    """A finding that is not looked for, and why: what it rests on is in doubt, or is not logged."""

    code: FindingCode
    reason: Reason
    name: str = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "name", finding_name(self.code))
