"""The electricity of a period in parts, none of which stands in two, and its half-hours."""

from dataclasses import dataclass
from functools import cached_property
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.quantity import KWH, Estimate
from ember.basis.series import Bools, Floats, Ints
from ember.boundary.combinations import Share, summed
from ember.cost import (
    cost_at_moments,
    own_of,
    own_told,
    price_of_segments,
    windows,
)
from ember.description.installation import HEATERS
from ember.description.tariff import Tariff
from ember.operation.within import Within
from ember.reckoning.reckon import metered
from ember.states.state import State, is_on
from ember.what_if.effect import UsePart

HALF = 1800  # [s]
ORDER = (UsePart.HEATING, UsePart.HOT_WATER, UsePart.HEATERS, UsePart.REST)


@dataclass(frozen=True)
class UseParts:
    """A period's electricity in parts."""

    within: Within

    @cached_property
    def inside(self) -> Bools:
        """Segments of the period, (m,)."""
        period = self.within.period
        return self.within.analysis.segments.within(period.start, period.stop)

    @cached_property
    def mode(self) -> Ints:
        """0 in heating with its defrosts, 1 in hot water, 2 else, −1 outside the period, (m,)."""
        segments, charges = self.within.analysis.segments, self.within.found.charges
        water = self.within.groups(charges.start, charges.stop) >= 0
        cooling = segments.state == State.COOLING
        mode = np.full(len(segments.state), 2, np.int64)
        mode[is_on(segments.state) & ~cooling] = 0
        mode[water & ~cooling] = 1
        mode[~self.inside] = -1
        return mode

    @cached_property
    def heaters(self) -> tuple[Share, ...]:
        """Meters that hold nothing but resistance heaters."""
        analysis = self.within.analysis
        return tuple(
            (1, meter.name)
            for meter in analysis.installation.electricity
            if HEATERS.issuperset(meter.includes) and meter.name in analysis.segments.meters
        )

    @cached_property
    def shares(self) -> tuple[Share, ...]:
        """All that is metered but for these."""
        whole = list(self.within.analysis.facts.shares)
        for share in self.heaters:
            if share in whole:
                whole.remove(share)
            else:
                whole.append((-1, share[1]))
        return tuple(whole)

    @cached_property
    def electricity(self) -> dict[UsePart, Estimate]:
        """Of each part [kWh]; of those that there are."""
        segments = self.within.analysis.segments
        found = {}
        if self.shares:
            totals, cells = metered(segments, self.shares, self.mode, 3)
            named = (UsePart.HEATING, UsePart.HOT_WATER, UsePart.REST)
            found = {p: t for p, t, c in zip(named, totals, cells, strict=True) if c and t.value}
        if self.heaters:
            (total,), known = metered(segments, self.heaters, np.where(self.inside, 0, -1), 1)
            if known[0] and total.value:
                found[UsePart.HEATERS] = total
        return {part: found[part] for part in ORDER if part in found}

    @cached_property
    def prices(self) -> dict[UsePart, float]:
        """What a kWh of each part cost on average, tiers apart; empty without a tariff."""
        analysis = self.within.analysis
        tariff = analysis.installation.tariff
        if tariff is None or not self.shares:
            return {}
        zone, segments = analysis.zone, analysis.segments
        supply = analysis.installation.supply
        paid = cost_at_moments(
            tariff, segments, self.shares, self.mode, 3, zone, supply, tiers=False
        )
        named = dict(zip((UsePart.HEATING, UsePart.HOT_WATER, UsePart.REST), paid, strict=True))
        if self.heaters:
            groups = np.where(self.inside, 0, -1)
            found = cost_at_moments(
                tariff, segments, self.heaters, groups, 1, zone, supply, tiers=False
            )
            named[UsePart.HEATERS] = found[0]
        used = self.electricity
        return {
            part: money.value / used[part].value
            for part, money in named.items()
            if money is not None and part in used
        }

    # --- half-hours -------------------------------------------------------------------------

    @cached_property
    def edges(self) -> Floats:
        """Instants of the half-hours of the period and its end, (h + 1,) [s]."""
        period = self.within.period
        begin = period.start // HALF * HALF
        count = int(np.ceil((period.stop - begin) / HALF))
        found: Floats = begin + HALF * np.arange(count + 1).astype(np.float64)
        return found

    def _spread(self, values: Floats) -> Floats:
        """Sums of segments laid evenly over their time into half-hours, (m,) → (h,)."""
        segments = self.within.analysis.segments
        at = segments.start + segments.edges * float(segments.step)
        total = np.concatenate([[0.0], np.cumsum(np.nan_to_num(values))])
        found: Floats = np.diff(np.interp(self.edges, at, total))
        return found

    @cached_property
    def by_half(self) -> dict[UsePart, Floats]:
        """Electricity of each part in each half-hour, (h,) [kWh]."""
        segments = self.within.analysis.segments
        found = {}
        energy = summed(self.shares, segments.energy)
        for k, part in enumerate((UsePart.HEATING, UsePart.HOT_WATER, UsePart.REST)):
            if part in self.electricity and energy is not None:
                found[part] = self._spread(np.where(self.mode == k, energy, 0.0)) / KWH
        heater = summed(self.heaters, segments.energy)
        if UsePart.HEATERS in self.electricity and heater is not None:
            found[UsePart.HEATERS] = self._spread(np.where(self.inside, heater, 0.0)) / KWH
        return found

    def price_by_half(self, tariff: Tariff | None = None) -> Floats:
        """Price of each half-hour, tiers apart, (h,); NaN where it is not known.

        Parameters
        ----------
        tariff : Tariff | None
            None: the one described.
        """
        analysis = self.within.analysis
        own = analysis.installation.tariff
        if tariff is not None:
            return self._mixed(_mean_price(tariff, self.edges, analysis.zone), tariff)
        assert own is not None
        segments = analysis.segments
        price = price_of_segments(own, segments, analysis.zone)
        seconds: Floats = np.where(np.isfinite(price), segments.cells * float(segments.step), 0.0)
        with np.errstate(invalid="ignore", divide="ignore"):
            mean = self._spread(np.nan_to_num(price) * seconds) / self._spread(seconds)
        return self._mixed(mean, own)

    @property
    def hours_known(self) -> bool:
        """Whether the readings tell in which half-hours electricity was used, and what was own."""
        analysis = self.within.analysis
        told = own_told(analysis.installation.supply, analysis.segments)
        return told and not analysis.facts.interval and bool(self.by_half)

    def _mixed(self, price: Floats, tariff: Tariff) -> Floats:
        """A tariff's price of half-hours, (h,), in the mix with own solar and the battery."""
        analysis = self.within.analysis
        supply, segments = analysis.installation.supply, analysis.segments
        if supply is None:
            return price
        own = own_of(supply, tariff, segments, analysis.zone)
        if own is None:
            return price
        energy = np.nan_to_num(summed(self.shares, segments.energy))  # type: ignore[arg-type]
        share = own.solar + own.battery
        worth = own.solar * own.solar_price + own.battery * own.battery_price
        of = self._spread(energy)
        with np.errstate(invalid="ignore", divide="ignore"):
            mixed: Floats = np.where(
                of > 0,
                price * (1 - self._spread(energy * share) / of) + self._spread(energy * worth) / of,
                price,
            )
        return mixed


def _mean_price(tariff: Tariff, edges: Floats, zone: ZoneInfo) -> Floats:
    """Mean of a tariff's price over half-hours by their quarters."""
    times = windows(tariff, int(edges[0]), int(edges[-1]), zone)
    fixed = np.array([np.nan if one.price is None else one.price for one in times.slots])
    quarters = np.add.outer(edges[:-1], np.array([0.0, HALF / 2])).astype(np.int64)
    found: Floats = fixed[times.slot_at(quarters.ravel())].reshape(-1, 2).mean(axis=1)
    return found
