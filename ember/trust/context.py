"""What the checks look at: one record, read once, with what was made of it."""

from collections.abc import Sequence
from dataclasses import dataclass, fields
from functools import cached_property
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.clock import iso_local, local_days, local_from_utc, wall_clock
from ember.basis.codes import KnownBy
from ember.basis.periods import WHOLE_RECORD, Period
from ember.basis.quantity import KWH
from ember.basis.series import MIXING, Bools, Floats, Ints, Span, Trace, filled, mask_of
from ember.boundary import Level, MeterCombination
from ember.boundary.combinations import Share, nearest_to_table, summed, widest
from ember.comparison.performance_ratio import Comparison
from ember.description.installation import Exclusion, Installation, WaterCircuit
from ember.messages import NotAvailable, words_of
from ember.metering import MeterEnergies, MeterEnergy, unit_energy
from ember.rated import Expected
from ember.reckoning import Reckoning, Segments
from ember.reckoning.tally import validity
from ember.states import Running

say = words_of(__name__)

REST_MARGIN = 50.0  # [W], common practice, chosen
LEAST_DAY = 0.5  # electricity of a day that is compared [kWh]


@dataclass(frozen=True)
class CheckContext:
    """A record with the accepted corrections made: its readings, meters and states."""

    installation: Installation
    trace: Trace
    meter_energies: MeterEnergies
    states: Running
    zone: ZoneInfo
    excluded: Sequence[tuple[Span, str]]
    combinations: dict[Level, MeterCombination]

    def summed(
        self,
        segments: Segments,
        promise: Expected | NotAvailable,
        settled: Reckoning | None,
        comparison: Comparison | None,
    ) -> "SummedContext":
        """The same with its sums. What has been looked at stays."""
        asked = {one.name: getattr(self, one.name) for one in fields(CheckContext)}
        told = SummedContext(
            **asked, segments=segments, promise=promise, settled=settled, comparison=comparison
        )
        vars(told).update({k: v for k, v in vars(self).items() if k not in asked})
        return told

    @cached_property
    def circuit(self) -> WaterCircuit | None:
        """The water circuit whose sensors are logged."""
        every = self.installation.circuits
        return next((c for c in every if c.name in self.meter_energies.heat), None)

    @cached_property
    def delta(self) -> Floats:
        """Flow minus return of that circuit, (n,) [K]."""
        assert self.circuit is not None
        difference: Floats = (
            self.trace[self.circuit.flow_temp] - self.trace[self.circuit.return_temp]
        )
        return difference

    @cached_property
    def on(self) -> Bools:
        """Where the compressor runs, (n,)."""
        return self.states.on

    @cached_property
    def rested(self) -> Ints:
        """Cells since the compressor last ran, or since the record began, (n,)."""
        index = np.arange(len(self.on))
        since: Ints = index - np.maximum.accumulate(np.where(self.on, index, -1))
        return since

    @cached_property
    def pumping(self) -> Bools:
        """Where the water flows, (n,)."""
        assert self.circuit is not None
        flow = self.trace[self.circuit.flow_rate]
        sample = flow[:: max(1, len(flow) // 20_000)]
        sample = sample[sample > 0]
        least = 0.1 * float(np.median(sample)) if len(sample) else np.inf
        mask: Bools = flow > least
        return mask

    @cached_property
    def left_out(self) -> Bools:
        """Where the analyst has excluded, (n,)."""
        return mask_of([span for span, _ in self.excluded], len(self.trace))

    @cached_property
    def unit(self) -> MeterEnergy | None:
        """The meter that holds the compressor and least besides."""
        return unit_energy(self.installation, self.meter_energies)

    @cached_property
    def mixing(self) -> str | None:
        """That readings lie so far apart that each mixes states of the unit; else None."""
        apart = float(self.trace.step)
        if self.circuit is not None:
            apart = max(apart, self.meter_energies.heat[self.circuit.name].native)
        if apart <= MIXING:
            return None
        return say("readings_min_apart", apart=apart / 60)

    @cached_property
    def surely_heating(self) -> Bools:
        """Where ΔT is at least half of what is usual while the unit runs, (n,): a pair that is off
        by a little gives heat at rest too."""
        usual = self.delta[self.on]
        usual = usual[np.isfinite(usual)]
        mask: Bools = self.delta > (0.5 * float(np.median(usual)) if len(usual) else np.inf)
        return mask

    @cached_property
    def runs_by_water(self) -> bool:
        """Whether runs are told from the water itself, so that nothing about it follows."""
        return self.states.basis["runs"].by == KnownBy.WATER

    @cached_property
    def at_rest(self) -> float:
        """Power of the unit below which it rests for sure [W]: its lowest twentieth and some more.
        At part load a unit may draw little more than what tells running from rest."""
        assert self.unit is not None
        sample = self.unit.energy[:: max(1, len(self.unit.energy) // 20_000)] / self.trace.step
        known = sample[np.isfinite(sample)]
        return (float(np.percentile(known, 5)) if len(known) else 0.0) + REST_MARGIN

    @cached_property
    def widest(self) -> MeterCombination | None:
        """The widest level that can be computed."""
        return widest(self.combinations)

    def uses(self, meter: str) -> bool:
        """Whether a meter's energy enters the COP of any level."""
        combinations = (p for p in self.combinations.values() if p.reason is None)
        return any(name == meter for combination in combinations for _, name in combination.meters)

    @cached_property
    def days(self) -> Ints:
        """First cell of each local day and the end, (d + 1,)."""
        _, edges = local_days(self.trace.start, self.trace.stop, self.zone)
        return np.clip(-(-(edges - self.trace.start) // self.trace.step), 0, len(self.trace))

    @cached_property
    def day_instants(self) -> Floats:
        """When each local day begins, (d,) [s]."""
        return (self.trace.start + self.days[:-1] * self.trace.step).astype(np.float64)

    @property
    def hour(self) -> float:
        """Cells in an hour."""
        return 3600 / self.trace.step

    @property
    def whole(self) -> Period:
        """All of it."""
        return Period(WHOLE_RECORD, self.trace.start, self.trace.stop)

    def period(self, name: str, span: Span) -> Period:
        """A span as a stretch of time."""
        return Period(
            name, float(self.trace.instant(span.start)), float(self.trace.instant(span.stop))
        )

    def exclusion(self, period: Period, reason: str) -> Exclusion:
        """The correction that leaves a stretch out."""
        return Exclusion(
            start=wall_clock(period.start, self.zone),
            end=wall_clock(period.stop, self.zone),
            reason=reason,
        )

    def said(self, spans: Sequence[Period], most: int = 3) -> str:
        """Stretches in words: the first few days, and how many more."""
        named = []
        for span in spans[:most]:
            first = iso_local(span.start, self.zone)
            last = iso_local(span.stop - 1, self.zone)
            short = span.stop - span.start < 86_400
            named.append(say("from_to", first=first, last=last[11:] if short else last))
        more = say("and_more", spans=len(spans) - most) if len(spans) > most else ""
        return ", ".join(named) + more

    def clock(self, step: int) -> tuple[int, Floats]:
        """Cells that make up `step` seconds, and the local time of day of each such stretch [h]."""
        per = max(1, round(step / self.trace.step))
        count = len(self.trace) // per
        at = self.trace.start + self.trace.step * per * np.arange(count, dtype=np.int64)
        local: Floats = local_from_utc(at, self.zone) % 86_400 / 3600
        return per, local


@dataclass(frozen=True)
class SummedContext(CheckContext):
    """The same, with what is summed of it.

    Attributes
    ----------
    promise : Expected | NotAvailable
        the rated COP, or why there is none.
    settled : Reckoning | None
        Reckoning of settled heating at the lowest level there is
    comparison : Comparison | None
        with the rated table; both as if the COP could always be stated.
    """

    segments: Segments
    promise: Expected | NotAvailable
    settled: Reckoning | None
    comparison: Comparison | None

    @cached_property
    def compared_days(self) -> tuple[Floats, Floats, Floats, Floats]:
        """Days with compared running: instants [s], heat, electricity and rated heat [kWh], at the
        lowest level there is; empty where nothing is compared."""
        segments = self.segments
        combination = nearest_to_table(self.combinations)
        if combination is None or "rated heat" not in segments.sums:
            return np.empty(0), np.empty(0), np.empty(0), np.empty(0)
        counted, _ = validity(segments, tuple(n for _, n in combination.meters))
        pick = counted & (segments.sums["compared"] > 0)
        day = np.searchsorted(self.days, segments.edges[:-1][pick], side="right") - 1
        count = len(self.days) - 1

        def daily(values: Floats) -> Floats:
            return np.bincount(day, values[pick], count)[:count] / KWH

        def total(shares: tuple[Share, ...]) -> Floats:
            sums = summed(shares, segments.energy)
            assert sums is not None
            return daily(sums)

        heat, used = total(combination.given), total(combination.electricity)
        good = used > LEAST_DAY
        return (
            self.day_instants[good],
            heat[good],
            used[good],
            daily(segments.sums["rated heat"])[good],
        )


def coarse(values: Floats, per: int) -> Floats:
    """Means of `per` cells each, (n // per,); NaN where none is known."""
    table = values[: len(values) // per * per].reshape(-1, per)
    if per == 1:
        return table[:, 0]
    mean: Floats = table.mean(axis=1)
    holes = np.flatnonzero(np.isnan(mean))
    if len(holes):
        part = table[holes]
        known = np.isfinite(part)
        count = known.sum(axis=1)
        total = np.where(known, part, 0.0).sum(axis=1)
        mean[holes] = np.where(count > 0, total / np.maximum(count, 1), np.nan)
    return mean


def by_day(values: Floats, days: Ints) -> Floats:
    """Sums over local days, (d,); NaN counts as nothing."""
    at = days[:-1]
    known = filled(values)
    inside = np.minimum(at, max(len(values) - 1, 0))
    total: Floats = np.add.reduceat(known, inside)
    total[days[1:] <= at] = 0.0
    return total
