"""The ledger: a trace cut into segments within which nothing changes, each basis summed once.

Every sum over days, months, states, price bands or exclusions is then a sum over segments.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ember.metering import Stream, Streams
from ember.trace import Bools, Floats, Ints, Span

Codes = NDArray[np.int8]


@dataclass(frozen=True)
class Ledger:
    """Segments of a trace.

    start, step : of the grid [s].
    edges : array, (m + 1,)  First cell of each segment, and the end.
    state : array, (m,)  State code.
    excluded : array, (m,)  Index into `reasons`, −1 where nothing is left out.
    energy : meter → array, (m,)  Σ energy [J]; NaN where the meter says nothing.
    terms : meter → ((source, array, (m,)), …)  Standard uncertainty of that Σ by source [J].
    jumps : meter → array, (m,)  Variance that sampling gives to that Σ [J²].
    extra : name → array, (m,)  Sums of further bases.
    """

    start: int
    step: int
    edges: Ints
    state: Codes
    excluded: Ints
    reasons: tuple[str, ...]
    energy: Mapping[str, Floats]
    terms: Mapping[str, tuple[tuple[str, Floats], ...]]
    jumps: Mapping[str, Floats]
    extra: Mapping[str, Floats]
    streams: Streams

    @property
    def cells(self) -> Ints:
        """Cells in each segment, (m,)."""
        return np.diff(self.edges)

    def within(self, start: float, stop: float) -> Bools:
        """The segments that begin in start ≤ t < stop [s]."""
        begins = self.start + self.edges[:-1] * self.step
        mask: Bools = (begins >= start) & (begins < stop)
        return mask

    def stream(self, name: str) -> Stream:
        """The stream of a meter."""
        return self.streams.electricity.get(name) or self.streams.heat[name]


def ledger(
    start: int,
    step: int,
    state: Codes,
    streams: Streams,
    excluded: Sequence[tuple[Span, str]],
    cuts: Sequence[Ints],
    extra: Mapping[str, Floats],
) -> Ledger:
    """Cuts a trace into segments and sums every meter over them.

    Parameters
    ----------
    start, step : of the grid [s].
    state : array, (n,)  State codes.
    excluded : spans to leave out, with the reason.
    cuts : arrays of cells at which a segment must end: midnights, price changes, selections.
    extra : further arrays, (n,), to sum.

    Returns
    -------
    Ledger. A state, an exclusion or a gap in a meter never lies in one segment with its
    opposite.
    """
    n = len(state)
    every = {**streams.electricity, **streams.heat}
    changes = [np.flatnonzero(state[1:] != state[:-1]) + 1, np.array([0, n])]
    changes += [np.asarray(cut, np.int64) for cut in cuts]
    changes.append(np.array([e for span, _ in excluded for e in (span.start, span.stop)], np.int64))
    for stream in every.values():
        unknown = np.isnan(stream.energy)
        if unknown.any():
            changes.append(np.flatnonzero(unknown[1:] != unknown[:-1]) + 1)
        changes += [np.array([hole.start, hole.stop]) for hole in stream.holes]
    edges = np.unique(np.concatenate(changes))
    edges = edges[(edges >= 0) & (edges <= n)]
    at = edges[:-1]

    label = np.full(len(at), -1, np.int64)
    for k, (span, _) in enumerate(excluded):
        label[np.searchsorted(at, span.start) : np.searchsorted(at, span.stop)] = k
    sums = _Sums(at)
    energy = {name: sums(stream.energy) for name, stream in every.items()}
    terms = {
        name: tuple(
            (term.source, _weighted([(f, sums(basis)) for f, basis in term.pairs]))
            for term in stream.terms
        )
        for name, stream in every.items()
    }
    jumps = {name: _jumps(stream, sums) for name, stream in every.items() if stream.sampled}
    return Ledger(
        start,
        step,
        edges,
        state[at],
        label,
        tuple(reason for _, reason in excluded),
        energy,
        terms,
        jumps,
        {name: sums(values) for name, values in extra.items()},
        streams,
    )


class _Sums:
    """Sums over segments, each array only once."""

    def __init__(self, at: Ints) -> None:
        self.at = at
        self.done: dict[int, tuple[Floats, Floats]] = {}

    def __call__(self, values: Floats) -> Floats:
        kept = self.done.get(id(values))
        if kept is None:
            kept = values, np.add.reduceat(values, self.at)
            self.done[id(values)] = kept  # keeps the array alive, so that its id stays its own
        return kept[1]


def _weighted(pairs: list[tuple[float, Floats]]) -> Floats:
    total: Floats = pairs[0][0] * pairs[0][1]
    for factor, values in pairs[1:]:
        total = total + factor * values
    return total


def _jumps(stream: Stream, sums: _Sums) -> Floats:
    """Variance from sampling a rate: a jump falls anywhere between two readings, so its energy
    is known to ±half a cell of it (rectangular). Source: GUM 4.3.7; treatment common practice."""
    step = np.diff(stream.energy, append=stream.energy[-1:])
    step *= step
    variance: Floats = np.add.reduceat(step, sums.at)
    if np.isnan(variance).any():  # at the edge of a gap there is no next reading
        variance = np.add.reduceat(np.nan_to_num(step, copy=False), sums.at)
    variance *= 1 / 12
    return variance
