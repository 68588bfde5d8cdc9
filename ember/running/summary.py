"""How a unit ran over a period, in a few numbers."""

from dataclasses import dataclass

import numpy as np

from ember.clock import DAY
from ember.running.states import Basis, Running, State
from ember.trace import Span


@dataclass(frozen=True)
class RunningSummary:
    """How the unit ran. hours : by state. Lengths and intervals are medians [min].

    defrosts : None where they cannot be told; `basis` and `notes` say why.
    """

    hours: dict[str, float]
    runs: int
    starts_a_day: float | None
    run_minutes: float | None
    defrosts: int | None
    defrost_minutes: float | None
    defrost_interval_minutes: float | None
    basis: dict[str, str]
    notes: tuple[str, ...]


def summarise(
    states: Running, start: int, step: int, begin: float, end: float, swapped: bool
) -> RunningSummary:
    """The numbers between two instants [s]. start, step : of the grid; swapped : whether flow and
    return are, so that defrosts cannot be told."""
    n = len(states.state)
    span = Span(*(int(min(max(-(-(t - start) // step), 0), n)) for t in (begin, end)))
    counts = np.bincount(states.state[span.start : span.stop], minlength=len(State))
    hours = {s.words: float(counts[s]) * step / 3600 for s in State if counts[s]}
    runs = [r for r in states.runs if span.start <= r.start < span.stop]
    whole_runs = [len(r) * step / 60 for r in runs if r.stop < n and r.start > 0]
    defrosts = [d for d in states.defrosts if span.start <= d.start < span.stop]
    known = states.defrosts_by == Basis.FLAG or (
        states.defrosts_by == Basis.INFERRED and not swapped
    )
    notes = states.notes
    if not known and swapped:
        notes = (*notes, "defrosts cannot be told while flow and return are swapped")
        defrosts = []
    intervals = np.diff([d.start for d in defrosts]) * step / 60
    close = intervals[intervals < 12 * 60]
    days = (end - begin) / DAY
    return RunningSummary(
        hours=hours,
        runs=len(runs),
        starts_a_day=len(runs) / days if days >= 1 else None,
        run_minutes=float(np.median(whole_runs)) if whole_runs else None,
        defrosts=len(defrosts) if known else None,
        defrost_minutes=float(np.median([len(d) for d in defrosts])) * step / 60
        if defrosts
        else None,
        defrost_interval_minutes=float(np.median(close)) if len(close) else None,
        basis=states.basis,
        notes=notes,
    )
