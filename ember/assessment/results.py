"""What an assessment holds: everything the core works out of one record."""

from dataclasses import dataclass

from ember.balance.sums import PeriodFigures
from ember.basis.calendar import is_year
from ember.boundary import Level
from ember.comparison.performance_ratio import Comparison, Verdict
from ember.diagnosis import Finding, NotJudged
from ember.events import RunningSummary
from ember.messages import Reason
from ember.reckoning import Reckoning
from ember.trust import Check

FORMAT = "honest-ember/assessment"
FORMAT_VERSION = 2


@dataclass(frozen=True, slots=True)
class LevelState:
    """A boundary level and, if it can't be computed, why."""

    level: Level
    words: str
    reason: Reason | None


@dataclass(frozen=True)
class Assessment:
    """The whole road in one result.

    Attributes
    ----------
    name, zone : str
        of the installation.
    core : str
        version of the core.
    start, stop : float
        of what was assessed [s]; step [s].
    levels : tuple[LevelState, ...]
        H1–H4 with the reason where one can't be computed.
    total : PeriodFigures
        the sums over the whole
    latest_year : PeriodFigures | None
        over the last twelve months of a longer record
    months : tuple[PeriodFigures, ...]
        over each calendar month.
    findings : tuple[Finding, ...]
        of the latest year, or the whole
    not_judged : tuple[NotJudged, ...]
        findings that are not made.
    corrections : tuple[str, ...]
        what the analyst accepted and was applied, in words.
    """

    format: str
    version: int
    name: str
    zone: str
    core: str
    start: float
    stop: float
    step: int
    levels: tuple[LevelState, ...]
    checks: tuple[Check, ...]
    corrections: tuple[str, ...]
    total: PeriodFigures
    latest_year: PeriodFigures | None
    months: tuple[PeriodFigures, ...]
    running: RunningSummary
    comparison: Comparison | None
    verdict: Verdict
    findings: tuple[Finding, ...]
    not_judged: tuple[NotJudged, ...]
    missing_meters: dict[str, Reason]

    @property
    def main(self) -> Reckoning | None:
        """The Reckoning of the whole at the widest level there is."""
        return self.total.reckonings[-1] if self.total.reckonings else None

    @property
    def spf(self) -> Reckoning | None:
        """The Reckoning whose COP may be called an SPF: of a year, at the widest level."""
        if self.latest_year is not None:
            return self.latest_year.reckonings[-1] if self.latest_year.reckonings else None
        return self.main if is_year(self.total.period) else None
