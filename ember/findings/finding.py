"""What a finding holds."""

from dataclasses import dataclass

from ember.period import Period
from ember.quantity import Estimate


@dataclass(frozen=True)
class Finding:
    """Something that is wrong, and what to do about it.

    kind : stable name. sentence : what is wrong. period : where it shows. measured, threshold :
    the evidence. causes : likely ones, the likeliest first. next_check, who : the next step and
    who may do it. kwh_a_year, money_a_year : what it costs, None with the reason in `cost_basis`
    where a year is not covered. caution : before anybody acts. clears : what would end it.
    """

    kind: str
    sentence: str
    period: Period
    measured: Estimate
    threshold: float
    causes: tuple[str, ...]
    next_check: str
    who: str
    kwh_a_year: Estimate | None
    money_a_year: Estimate | None
    cost_basis: str
    caution: str
    clears: str
