"""A period of an operation: which events fall into it, and what they sum to."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.sums import costs_of
from ember.basis.clock import DAY
from ember.basis.periods import Period
from ember.basis.quantity import KWH, Estimate
from ember.basis.series import Bools, Floats, Ints
from ember.boundary import MeterCombination
from ember.cost import cost_at_moments
from ember.operation.record import Operation
from ember.reckoning import Reckoning, reckon
from ember.reckoning.reckon import metered
from ember.views.curves import curve_combination

__all__ = [
    "KWH", "Range", "Spread", "Within", "finite", "middle", "money", "one", "quartiles",
]  # fmt: skip


@dataclass(frozen=True)
class Within:
    """A period of an operation; the record analysis is cut at its ends."""

    analysis: RecordAnalysis
    found: Operation
    period: Period

    @property
    def days(self) -> float:
        """Its length [d]."""
        return (self.period.stop - self.period.start) / DAY

    @property
    def combination(self) -> MeterCombination | None:
        """The level at which events are summed: that of the rated table, else the lowest."""
        return curve_combination(self.analysis)

    def pick(self, cells: Ints) -> Ints:
        """Indices of the events that begin at these cells, those inside the period and not left
        out."""
        first, last = (self.cell(t) for t in (self.period.start, self.period.stop))
        segments = self.analysis.segments
        inside = (cells >= first) & (cells < last)
        segment = np.searchsorted(segments.edges, cells, side="right") - 1
        segment = np.clip(segment, 0, len(segments.excluded) - 1)
        return np.flatnonzero(inside & (segments.excluded[segment] < 0))

    def cell(self, instant: float) -> int:
        """The cell that begins at or after an instant."""
        return int(-(-(instant - self.found.first) // self.found.step))

    def instants(self, cells: Ints) -> list[float]:
        """When cells begin [s]."""
        instants: list[float] = (self.found.first + cells * self.found.step).astype(float).tolist()
        return instants

    def hours(self) -> Bools:
        """The hours of the record that lie in the period, (h,)."""
        return self.found.hours.between(self.period.start, self.period.stop)

    def sums(self, start: Ints, stop: Ints, cooling: bool = False) -> list[Reckoning]:
        """The Reckoning of each of some spans of cells in order, of their heating or their
        cooling; none where no level can be."""
        combination = self.combination
        if combination is None:
            return []
        return reckon(
            self.analysis.segments,
            combination,
            self.groups(start, stop),
            [
                (float(a), float(b))
                for a, b in zip(self.instants(start), self.instants(stop), strict=True)
            ],
            self.analysis.cop_reason,
            cooling,
        )

    def used(self, start: Ints, stop: Ints) -> list[Estimate | None]:
        """All metered electricity of each of some spans of cells in order, whatever the heat does
        [kWh]; None where it is not known."""
        shares = self.analysis.facts.shares
        if not shares or not len(start):
            return [None] * len(start)
        totals, known = metered(
            self.analysis.segments, shares, self.groups(start, stop), len(start)
        )
        return [one if known[k] else None for k, one in enumerate(totals)]

    def used_together(self, start: Ints, stop: Ints) -> Estimate | None:
        """All metered electricity of some spans of cells in order together [kWh]; None where none
        of it is known."""
        shares = self.analysis.facts.shares
        if not shares or not len(start):
            return None
        groups = np.minimum(self.groups(start, stop), 0)
        (total,), known = metered(self.analysis.segments, shares, groups, 1)
        return total if known[0] else None

    def paid(self, start: Ints, stop: Ints) -> list[Estimate | None]:
        """What all metered electricity of each of some spans of cells in order cost at the prices
        of its moments and the tiers reached by then, standing charges apart; None where it is not
        known."""
        return self._paid(self.groups(start, stop), len(start))

    def paid_together(self, spans: Sequence[tuple[Ints, Ints]]) -> list[Estimate | None]:
        """The same of each of several sets of spans together, none of which lies in two."""
        return self._paid(self._sets(spans), len(spans))

    def _paid(self, groups: Ints, count: int) -> list[Estimate | None]:
        facts, tariff = self.analysis.facts, self.analysis.installation.tariff
        if tariff is None or not facts.shares or not count:
            return [None] * count
        segments, zone = self.analysis.segments, self.analysis.zone
        supply = self.analysis.installation.supply
        return cost_at_moments(tariff, segments, facts.shares, groups, count, zone, supply)

    def total(self, start: Ints, stop: Ints) -> Reckoning | None:
        """The Reckoning of some spans together; None where no level can be computed."""
        found = self.totals([(start, stop)])
        return None if found is None else found[0]

    def totals(self, spans: Sequence[tuple[Ints, Ints]]) -> list[Reckoning] | None:
        """The Reckoning of each of several sets of spans, none of which lies in two; None where no
        level can be computed."""
        combination = self.combination
        if combination is None:
            return None
        groups = self._sets(spans)
        asked = [(self.period.start, self.period.stop)] * len(spans)
        return reckon(self.analysis.segments, combination, groups, asked, self.analysis.cop_reason)

    def _sets(self, spans: Sequence[tuple[Ints, Ints]]) -> Ints:
        """Which of several sets of spans each segment lies in, −1 for none."""
        groups = np.full(len(self.analysis.segments.state), -1, np.int64)
        for k, (start, stop) in enumerate(spans):
            groups[self.groups(start, stop) >= 0] = k
        return groups

    def groups(self, start: Ints, stop: Ints) -> Ints:
        """Which of some spans in order each segment of the segments lies in, −1 for none."""
        at = self.analysis.segments.edges[:-1]
        if not len(start):
            return np.full(len(at), -1, np.int64)
        groups = np.searchsorted(start, at, side="right") - 1
        groups[(groups < 0) | (at >= stop[np.maximum(groups, 0)])] = -1
        return groups

    def price(self) -> float | None:
        """The average price paid in the period [per kWh]; None without a tariff."""
        found = costs_of(self.analysis, [self.period])
        return None if found is None else found[0].average_price

    @property
    def currency(self) -> str | None:
        """Of the tariff."""
        tariff = self.analysis.installation.tariff
        return tariff.currency if tariff else None


def money(energy: Estimate | None, price: float | None, currency: str | None) -> Estimate | None:
    """What an energy costs at the average price; None without a tariff."""
    if energy is None or price is None or currency is None:
        return None
    return energy.scaled(price, currency)


def finite(values: Floats) -> list[float | None]:
    """As JSON can hold them."""
    return [float(v) if np.isfinite(v) else None for v in values.tolist()]


def middle(values: Floats) -> float | None:
    """The median of what is known."""
    known = values[np.isfinite(values)]
    return float(np.median(known)) if len(known) else None


@dataclass(frozen=True)
class Spread:
    """Median, and between what the middle half lies."""

    low: float
    median: float
    high: float


@dataclass(frozen=True)
class Range:
    """Least and greatest."""

    low: float
    high: float


def quartiles(values: Floats) -> Spread | None:
    """Quartiles of what is known."""
    known = values[np.isfinite(values)]
    if not len(known):
        return None
    low, median, high = np.percentile(known, [25, 50, 75])
    return Spread(float(low), float(median), float(high))


def one(values: Floats, k: int, factor: float = 1.0) -> float | None:
    """A single value, None where it is not known."""
    return float(values[k]) * factor if np.isfinite(values[k]) else None
