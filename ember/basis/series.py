"""Trace: readings on one regular grid of time, in UTC."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Ints = NDArray[np.int64]

# readings further apart mix what the unit does meanwhile [s], common practice, chosen
MIXING = 300.0
FAR_APART = 3600.0  # readings further apart tell nothing but the sum between them [s]


@dataclass(frozen=True, slots=True, order=True)
class Span:
    """A half-open stretch of a Trace: cells start … stop − 1."""

    start: int
    stop: int

    def __len__(self) -> int:
        return self.stop - self.start


@dataclass(frozen=True)
class Trace:
    """Channels on a regular grid; cell i is the time from start + i·step to the next cell.

    Attributes
    ----------
    start : int
        int Instant of the first cell [s since 1970, UTC].
    step : int
        int Length of a cell [s].
    channels : Mapping[str, Floats]
        channel → array, (n,) SI with degC; NaN where nothing is known. A level, rate or flag is the
        mean of what was read in the cell, a counter the register's reading at the beginning of the
        cell, NaN where it was not read.
    native : Mapping[str, float]
        channel → interval at which the channel is really read [s]
    """

    start: int
    step: int
    channels: Mapping[str, Floats]
    native: Mapping[str, float] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(next(iter(self.channels.values()))) if self.channels else 0

    @property
    def stop(self) -> int:
        """The instant at which the last cell ends [s]."""
        return self.start + len(self) * self.step

    def __contains__(self, channel: str) -> bool:
        return channel in self.channels

    def __getitem__(self, channel: str) -> Floats:
        return self.channels[channel]

    def get(self, channel: str) -> Floats | None:
        """A channel; None where it is not logged."""
        return self.channels.get(channel)

    def native_of(self, channel: str) -> float:
        """The interval at which a channel is really read [s]."""
        return self.native.get(channel, float(self.step))

    def cell(self, instant: float) -> int:
        """The cell that begins at or after an instant, kept within 0 … n."""
        return int(min(max(-(-(instant - self.start) // self.step), 0), len(self)))

    def instant(self, cell: int) -> int:
        """When a cell begins [s]."""
        return self.start + cell * self.step

    def slice(self, span: Span) -> "Trace":
        """The same channels over a span of cells (views, not copies)."""
        part = {name: values[span.start : span.stop] for name, values in self.channels.items()}
        return Trace(self.instant(span.start), self.step, part, self.native)

    def between(self, start: float, stop: float) -> "Trace":
        """The cells that begin in start ≤ t < stop [s]."""
        return self.slice(Span(self.cell(start), self.cell(stop)))

    def known_but_for(self, channel: str) -> "Trace":
        """The cells from the first to the last in which a channel other than one is known; all
        where none is."""
        first, last = len(self), 0
        for name, values in self.channels.items():
            known = np.isfinite(values)
            if name != channel and known.any():
                first = min(first, int(known.argmax()))
                last = max(last, len(known) - int(known[::-1].argmax()))
        return self if first >= last else self.slice(Span(first, last))

    def with_channels(self, changed: Mapping[str, Floats]) -> "Trace":
        """The same trace with some channels replaced."""
        return replace(self, channels={**self.channels, **changed})


def spans_of(mask: Bools) -> list[Span]:
    """The stretches over which a mask, (n,), is true."""
    return [Span(a, b) for a, b in edges_of(mask).reshape(-1, 2).tolist()]


def edges_of(mask: Bools) -> Ints:
    """Alternating starts and stops of the true stretches of a mask, (n,) → (2m,)."""
    padded = np.zeros(len(mask) + 2, np.int8)
    padded[1:-1] = mask
    return np.flatnonzero(padded[1:] != padded[:-1])


def mask_of(spans: list[Span], n: int) -> Bools:
    """A mask, (n,), that is true inside the spans."""
    mask = np.zeros(n, np.bool_)
    for span in spans:
        mask[span.start : span.stop] = True
    return mask


def filled(values: Floats) -> Floats:
    """The same with zero where nothing is known; the very same where all is."""
    return values if np.isfinite(values.sum()) else np.where(np.isfinite(values), values, 0.0)
