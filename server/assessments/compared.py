"""Systems side by side in the days that all of them have."""

from collections.abc import Sequence
from dataclasses import dataclass

from ember.basis.clock import iso_local
from ember.basis.errors import DescriptionError
from ember.basis.periods import Period
from ember.operation.within import Within
from ember.views.in_common import InCommon, common_period, in_common
from server.assessments.cache import CachedAnalysis, cut_at, find, operation_of, steady
from server.readings.entries import bill_of
from server.readings.models import Entry
from server.systems.models import System

COMPARED_MOST = 12  # systems at once


@dataclass(frozen=True)
class Compared:
    """Systems in the days in common, by the clock of the first of them; none where there are none.

    Attributes
    ----------
    local : str | None
        those days.
    rows : list of (bool, InCommon)
        of each system: whether its figures are stale, and what they are.
    """

    local: str | None
    rows: list[tuple[bool, InCommon]]


def side_by_side(systems: Sequence[System]) -> Compared:
    """Systems in the days that all of them have. Raises DescriptionError, StoreError."""
    if not 2 <= len(systems) <= COMPARED_MOST:
        raise DescriptionError(
            f"systems: name 2 to {COMPARED_MOST} of them to compare, not {len(systems)}.", "systems"
        )
    analyses = [find(one).analysis for one in systems]
    period = common_period(analyses)
    if period is None:
        return Compared(None, [])
    zone = analyses[0].zone
    local = f"{iso_local(period.start, zone)} to {iso_local(period.stop, zone)}"
    return Compared(local, [_row(one, period) for one in systems])


def _row(system: System, period: Period) -> tuple[bool, InCommon]:
    def look(found: CachedAnalysis) -> tuple[bool, InCommon]:
        ran = operation_of(system, found)
        cut = cut_at(system, found, (period.start, period.stop))
        bills = [bill_of(one) for one in system.entries.filter(kind=Entry.Kind.BILL)]
        return cut.stale, in_common(Within(cut.analysis, ran, period), bills)

    return steady(system, look)
