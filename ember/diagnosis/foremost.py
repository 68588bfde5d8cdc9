"""What of a system's findings goes into one row."""

from collections.abc import Sequence
from dataclasses import dataclass

from ember.basis.codes import FindingCode
from ember.basis.quantity import Estimate
from ember.diagnosis.finding import Finding, Weight


@dataclass(frozen=True)
class Foremost:
    """sentence : of the first finding. actions, advisories : codes, in order. dearest : the
    finding that costs
    most, with what it costs: in a year where one is covered, and in the period."""

    sentence: str | None
    actions: tuple[FindingCode, ...]
    advisories: tuple[FindingCode, ...]
    dearest: FindingCode | None
    kwh_a_year: Estimate | None
    money_a_year: Estimate | None
    lost: Estimate | None
    money_lost: Estimate | None


def foremost(findings: Sequence[Finding]) -> Foremost:
    """The first to look at, and the dearest of those that ask for action. Costs are not added: two
    findings may share a cause."""
    acting = [f for f in findings if f.weight == Weight.ACTION]
    priced = [f for f in acting if f.lost is not None]
    dearest = max(priced, key=lambda f: f.lost.value if f.lost else 0.0, default=None)
    return Foremost(
        sentence=findings[0].sentence if findings else None,
        actions=tuple(f.code for f in acting),
        advisories=tuple(f.code for f in findings if f.weight == Weight.ADVISORY),
        dearest=dearest.code if dearest else None,
        kwh_a_year=dearest.kwh_a_year if dearest else None,
        money_a_year=dearest.money_a_year if dearest else None,
        lost=dearest.lost if dearest else None,
        money_lost=dearest.money_lost if dearest else None,
    )
