"""COP between any two readings of a sheet, by the one road that every COP takes."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ember.basis.codes import ReasonCode
from ember.boundary import Level, MeterCombination, combinations
from ember.description.installation import Installation
from ember.messages import NotAvailable, Reason, because, not_available
from ember.metering import meter
from ember.readings.record import Sheet, channels_of, grid, sheet_of
from ember.readings.sheet import Reading
from ember.reckoning import Reckoning, Segments, reckon, segmented
from ember.states import State

# of a span, within which a meter must have been read of its ends, common practice, chosen
SUMS_NEAR = 0.02


@dataclass(frozen=True)
class HandSums:
    """The sums of a sheet.

    Attributes
    ----------
    readings : tuple[Reading, ...]
        in order of time.
    combinations : dict[Level, MeterCombination]
        how each level is computed.
    known : Mapping[str, frozenset[float]]
        meter → instants at which it was read.
    from_yield : bool
        heat is environmental yield + electricity.
    """

    readings: tuple[Reading, ...]
    segments: Segments
    combinations: dict[Level, MeterCombination]
    known: Mapping[str, frozenset[float]]
    from_yield: bool

    @property
    def level(self) -> Level | None:
        """The widest level that can be computed."""
        return next((v for v, p in reversed(self.combinations.items()) if p.reason is None), None)

    def between(
        self, spans: Sequence[tuple[float, float]], level: Level
    ) -> list[Reckoning | NotAvailable]:
        """The Reckoning of each span between two readings, or why there is none.

        Parameters
        ----------
        spans : Sequence[tuple[float, float]]
            instants [s]; of readings, or of the beginning of a whole day, month or year.
        """
        combination = self.combinations[level]
        if combination.reason is not None:
            return [NotAvailable(combination.reason)] * len(spans)
        found: list[Reckoning | NotAvailable] = []
        for start, stop in spans:
            why = self._unread(combination, start, stop)
            if why is not None:
                found.append(NotAvailable(why))
                continue
            groups = np.where(self.segments.within(*map(self._cell, (start, stop))), 0, -1)
            found.append(reckon(self.segments, combination, groups, [(start, stop)])[0])
        return found

    def since_last(self, level: Level) -> list[Reckoning | NotAvailable]:
        """For each reading the Reckoning since the one before it; of a whole day, month or year,
        that of itself."""
        spans: list[tuple[float, float] | None] = []
        for k, reading in enumerate(self.readings):
            if reading.since is not None:
                spans.append((reading.since, reading.time))
            else:
                spans.append((self.readings[k - 1].time, reading.time) if k else None)
        first = not_available(ReasonCode.FIRST_READING)
        found = iter(self.between([span for span in spans if span is not None], level))
        return [first if span is None else next(found) for span in spans]

    def _cell(self, instant: float) -> float:
        """When the cell begins in which a reading stands [s]."""
        segments = self.segments
        return segments.start + (instant - segments.start) // segments.step * segments.step

    def _unread(self, combination: MeterCombination, start: float, stop: float) -> Reason | None:
        if stop <= start:
            return because(ReasonCode.ONE_READING)
        near = SUMS_NEAR * (stop - start)
        for _, name in combination.meters:
            for end in (start, stop):
                if not any(abs(t - end) <= near for t in self.known[name]):
                    return because(ReasonCode.NOT_READ_AT_ENDS, meter=name)
        return None


def hand_sums(installation: Installation, readings: Sequence[Reading]) -> HandSums | None:
    """The sums of a sheet; None where it holds no electricity at two times.

    Raises IntakeError where two readings have the same time, or lie too many years apart.
    """
    sheet = sheet_of(installation, readings)
    return None if sheet is None else sums_of(sheet)


def sums_of(sheet: Sheet) -> HandSums:
    """The sums of the registers that a sheet holds."""
    described = sheet.installation
    trace = grid(sheet.points)
    meter_energies = meter(described, trace)
    cuts = [np.array([trace.cell(t) for r in sheet.readings for t in (r.since or r.time, r.time)])]
    state = np.full(len(trace), State.UNKNOWN, np.int8)
    segments = segmented(trace.start, trace.step, state, meter_energies, (), cuts, {})
    channels = channels_of(described)
    known = {name: frozenset(sheet.points[channel]) for name, channel in channels.items()}
    return HandSums(
        sheet.readings, segments, combinations(described, meter_energies), known, sheet.from_yield
    )
