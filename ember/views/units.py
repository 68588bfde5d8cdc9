"""Meters of one installation side by side: heads, circuits, consumers."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.periods import Period
from ember.basis.quantity import KWH, Estimate
from ember.reckoning.tally import Tally, validity

UNITS_MOST_BARS = 120


@dataclass(frozen=True)
class MeterSeen:
    """One meter over a span: kind "heat" or "electricity", what it holds and how it measures, its
    energy [kWh] over the share of the time that is covered, and the same between the edges."""

    name: str
    kind: str
    loads: str
    method: str
    energy: Estimate | None
    covered: float
    bars: list[float | None]


def meters_seen(
    analysis: RecordAnalysis, period: Period, edges: Sequence[float]
) -> list[MeterSeen]:
    """Every meter of an installation between two instants at which the record analysis is cut.

    Parameters
    ----------
    edges : Sequence[float]
        instants of whole hours or midnights, (b + 1,), between which bars are summed [s].
    """
    segments = analysis.segments
    inside = segments.within(period.start, period.stop)
    groups = np.where(inside, 0, -1)
    label = np.searchsorted(np.asarray(edges), segments.begins, side="right") - 1
    count = len(edges) - 1
    electric = {m.name for m in analysis.installation.electricity}
    electric |= {m.name for m in analysis.installation.fixed}
    cop_reason = analysis.cop_reason
    found = []
    for name, meter in segments.meters.items():
        kind = "electricity" if name in electric else "heat"
        if kind == "heat" and cop_reason:
            continue
        counted, _ = validity(segments, (name,))
        tally = Tally(segments, (name,), counted, groups, 1)
        cells = float(segments.cells[inside].sum())
        use = inside & counted & (label >= 0) & (label < count)
        sums = np.bincount(label[use], segments.energy(name)[use], count) / KWH
        seen = np.bincount(label[use], segments.cells[use], count)
        bars = [float(v) if n else None for v, n in zip(sums, seen, strict=True)]
        covered = float(tally.cells[0]) / cells if cells else 0.0
        found.append(
            MeterSeen(
                name,
                kind,
                meter.loads,
                meter.method,
                tally.total(name)[0] if covered else None,
                covered,
                bars,
            )
        )
    return found
