"""How a unit ran over a period, in a few numbers."""

from dataclasses import dataclass

import numpy as np

from ember.basis.clock import DAY
from ember.basis.series import Ints, Span
from ember.messages import words_of
from ember.states.state import Basis, Known

say = words_of(__name__)


@dataclass(frozen=True)
class RunningSummary:
    """How the unit ran.

    Attributes
    ----------
    hours : dict[str, float]
        by state. Lengths and intervals are medians [min].
    runs, defrosts : int | None
        None where they cannot be told; `basis` and `notes` say why.
    """

    hours: dict[str, float]
    runs: int | None
    starts_a_day: float | None
    run_minutes: float | None
    defrosts: int | None
    defrost_minutes: float | None
    defrost_interval_minutes: float | None
    basis: dict[str, Known]
    notes: tuple[str, ...]


def summarise(
    hours: dict[str, float],
    runs: Ints,
    defrosts: Ints,
    cells: Span,
    n: int,
    step: int,
    defrosts_by: Basis,
    basis: dict[str, Known],
    notes: tuple[str, ...],
    swapped: bool,
) -> RunningSummary:
    """The numbers of a stretch.

    Parameters
    ----------
    hours : dict[str, float]
        by state.
    runs, defrosts : Ints
        arrays, (k, 2) First cell and end of each in the record.
    cells : Span
        the stretch; what begins in it counts.
    n : int
        cells of the record.
    step : int
        of a cell [s].
    defrosts_by, basis, notes : Basis
        as in Running.
    swapped : bool
        whether flow and return are, so that defrosts cannot be told.
    """

    def inside(spans: Ints) -> Ints:
        first, last = np.searchsorted(spans[:, 0], [cells.start, cells.stop])
        return spans[first:last]

    began = inside(runs)
    ended = began[(began[:, 1] < n) & (began[:, 0] > 0)]
    lengths = (ended[:, 1] - ended[:, 0]) * step / 60
    known = defrosts_by == Basis.FLAG or (defrosts_by == Basis.INFERRED and not swapped)
    found = inside(defrosts)
    if not known and swapped:
        notes = (*notes, say("defrosts_cannot_told"))
        found = found[:0]
    intervals = np.diff(found[:, 0]) * step / 60
    close = intervals[intervals < 12 * 60]
    days = len(cells) * step / DAY
    return RunningSummary(
        hours=hours,
        runs=len(began),
        starts_a_day=len(began) / days if days >= 1 else None,
        run_minutes=float(np.median(lengths)) if len(lengths) else None,
        defrosts=len(found) if known else None,
        defrost_minutes=float(np.median(found[:, 1] - found[:, 0])) * step / 60
        if len(found)
        else None,
        defrost_interval_minutes=float(np.median(close)) if len(close) else None,
        basis=basis,
        notes=notes,
    )
