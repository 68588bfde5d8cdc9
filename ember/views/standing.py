"""Where a system stands: the one row by which a fleet is sorted."""

from collections.abc import Sequence
from dataclasses import dataclass

from ember.assessment.assess import answer
from ember.assessment.record_analysis import Facts, RecordAnalysis
from ember.assessment.results import Assessment
from ember.balance.sums import PeriodFigures, compared_between
from ember.basis.quantity import Estimate
from ember.boundary.combinations import nearest_to_table
from ember.comparison.performance_ratio import (
    VerdictKind,
    cop_if_rated,
    electricity_lost,
    stands_at,
)
from ember.diagnosis import Foremost, foremost
from ember.messages import NotAvailable, words_of
from ember.reckoning import Reckoning
from ember.trust import Check, Soundness, TrustKind, TrustState, trust_state

say = words_of(__name__)


@dataclass(frozen=True)
class Standing:
    """A system in one row.

    Attributes
    ----------
    spf : Reckoning | None
        Reckoning of the year at the widest level, of what there is where it is not a year (`of`,
        `start`, `stop` say which), None where no level can be computed.
    expected : Estimate | None
        its COP, had the compared running met the rated table
    ratio : Estimate | None
        performance ratio
    compared_at : tuple[str, ...]
        at which level it stands and what was assumed, in words.
    sentence : str
        what to know.
    metering : Soundness
        whether the metering can be believed, in a word, a few and a line.
    foremost : Foremost
        of the findings.
    """

    spf: Reckoning | None
    of: str
    start: float
    stop: float
    expected: Estimate | None
    ratio: Estimate | None
    compared_at: tuple[str, ...]
    verdict: VerdictKind
    sentence: str
    metering: Soundness
    metering_words: str
    metering_line: str
    foremost: Foremost


def standing(analysis: RecordAnalysis, assessment: Assessment | None = None) -> Standing:
    """The row of a surveyed system.

    Parameters
    ----------
    assessment : Assessment | None
        of the same record analysis, if it is there already.
    """
    found = assessment or answer(analysis)
    over = found.latest_year or found.total
    spf = over.reckonings[-1] if over.reckonings else None
    compared = compared_between(analysis, over.period)
    expected = None
    if spf is not None and compared.comparison is not None and compared.measured is not None:
        lost = electricity_lost(compared.measured, compared.comparison.ratio)
        expected = cop_if_rated(spf, lost)
    trust = trust_of(analysis, over)
    worst = _soundness(trust, found.checks)
    sentence = found.verdict.sentence
    if worst in (Soundness.BROKEN, Soundness.DOUBTFUL):
        sentence = next((c.sentence for c in found.checks if c.soundness == worst), sentence)
    elif over.reported is not None and over.reported.cop is not None:
        sentence = say("reported_controller_not", cop=over.reported.cop)
        sentence += trust.addition or ""
    elif trust.kind in (TrustKind.COUNTS_ONLY, TrustKind.ELECTRICITY) and trust.addition:
        sentence = trust.addition
    return Standing(
        spf=spf,
        of=over.period.name,
        start=over.period.start,
        stop=over.period.stop,
        expected=expected,
        ratio=compared.comparison.ratio if compared.comparison else None,
        compared_at=stands_at(compared.comparison) if compared.comparison else (),
        verdict=found.verdict.kind,
        sentence=sentence,
        metering=worst,
        metering_words=trust.brief,
        metering_line=trust.words,
        foremost=foremost(found.findings),
    )


def _soundness(trust: TrustState, checks: Sequence[Check]) -> Soundness:
    """The metering in a word: broken or doubtful only where a figure of the period is touched."""
    if any(c.soundness == Soundness.BROKEN for c in checks):
        return Soundness.BROKEN
    if trust.kind == TrustKind.DOUBTFUL:
        return Soundness.DOUBTFUL
    if trust.kind in (TrustKind.SOUND, TrustKind.WIDE):
        return Soundness.SOUND
    return Soundness.NOT_CHECKABLE


def trust_of(analysis: RecordAnalysis, figures: PeriodFigures) -> TrustState:
    """What can be claimed of a period, from its figures."""
    facts = analysis.facts
    return trust_state(
        analysis.installation,
        list(facts.combinations.values()),
        facts.checks,
        facts.defrosts_by,
        figures.period,
        figures.reckonings,
        facts.runs_known,
        _uncompared(facts),
        figures.electricity,
    )


def _uncompared(facts: Facts) -> str | None:
    """Why nothing is compared with a rated table; None where something is."""
    if isinstance(facts.promise, NotAvailable):
        return say("no_because", reason=facts.promise.reason)
    if nearest_to_table(facts.combinations) is None:
        return say("no_no_level")
    return None if facts.promise.fitting > facts.promise.outside else say("no_nothing_lies")
