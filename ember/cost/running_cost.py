"""Running cost over periods."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt
from zoneinfo import ZoneInfo

import numpy as np

from ember.basis.calendar import months
from ember.basis.codes import SourceCode
from ember.basis.quantity import KWH, Estimate, UncertaintyComponent, exact, merge, rectangular
from ember.basis.series import FAR_APART, Bools, Floats, Ints
from ember.boundary.combinations import Share, summed
from ember.cost.supply import Own, OwnSupply, own_shares, own_supply, own_told
from ember.cost.tariff import Windows, slots_of, standing_charge, windows
from ember.description.installation import Carbon
from ember.description.supply import SolarWorth, Supply
from ember.description.tariff import Tariff
from ember.messages import Source
from ember.reckoning import Segments
from ember.reckoning.reckon import metered

SUPPLY_LIMIT = 0.02  # of each meter of the house's supply, common practice, chosen
SHARE_LIMIT = 0.1  # error of a described share of the electricity, common practice, chosen
PRICE_SUM, PRICE_KNOWN = "price", "price known"  # of the readings of prices, in the segments


@dataclass(frozen=True, slots=True)
class BandCost:
    """What was paid at one price: electricity [kWh], price [per kWh, with VAT] and money.

    Attributes
    ----------
    since : str | None
        local date from which that price holds, where a tariff changes.
    on_top : bool
        of a tier: its electricity stands in the other rows already.
    """

    band: str
    electricity: Estimate
    price: float
    money: Estimate
    since: str | None = None
    on_top: bool = False


@dataclass(frozen=True)
class Cost:
    """Running cost of a period.

    Attributes
    ----------
    standing : float
        standing charges, of a day its share.
    total : Estimate
        bands and standing.
    average_price : float | None
        paid per kWh, standing charge apart.
    covered : float
        share of the time whose electricity and price are known; the energy money is for that share
        only.
    """

    currency: str
    bands: tuple[BandCost, ...]
    standing: float
    total: Estimate
    average_price: float | None
    covered: float


def cost(
    tariff: Tariff,
    segments: Segments,
    shares: tuple[Share, ...],
    groups: Ints,
    periods: Sequence[tuple[float, float]],
    zone: ZoneInfo,
    supply: Supply | None = None,
) -> list[Cost]:
    """Cost of each period.

    Parameters
    ----------
    segments : Segments
        cut where a price changes.
    shares : tuple[Share, ...]
        meters, with sign, that hold all metered electricity once.
    groups : array, (m,)
        Period of each segment, −1 for none.
    periods : Sequence[tuple[float, float]]
        instants from and to [s], in order.
    supply : Supply | None
        what feeds the house besides the grid: own solar at the export price forgone, the battery's
        at what its charge cost and its losses.

    Where readings lie so far apart that they do not tell the hours, the bands have the shares that
    are described; without, the price is anything between the lowest and the highest.

    Source: Σ kWh × price of its moment + standing charges, common practice.
    """
    standing = standing_charge(tariff, list(periods), zone)
    if _told_apart(tariff, segments, shares, supply):
        paid = _by_price(tariff, segments, shares, groups, len(periods), zone, supply)
        tiers = _tiers(tariff, segments, shares, groups, len(periods), zone)
        paid = [([*rows, *tiers.get(k, [])], cells) for k, (rows, cells) in enumerate(paid)]
    else:
        paid = _without_hours(tariff, segments, shares, groups, periods, zone, supply)
    result = []
    for k, (start, stop) in enumerate(periods):
        rows, cells = paid[k]
        total = exact(standing[k], tariff.currency)
        for row in rows:
            total += row.money
        used = sum(row.electricity.value for row in rows if not row.on_top)
        average = (total.value - standing[k]) / used if used else None
        covered = cells * segments.step / (stop - start)
        result.append(Cost(tariff.currency, tuple(rows), standing[k], total, average, covered))
    return result


def _price_of(tariff: Tariff, segments: Segments, zone: ZoneInfo) -> tuple[Floats, Ints, Windows]:
    """The price of each segment, tiers apart.

    Returns
    -------
    array, (m,)  per kWh with VAT; NaN where readings of the price lack.
    array, (m,)  Index into the slots of the windows; and these.
    """
    begins = segments.begins
    stop = int(segments.start + segments.edges[-1] * segments.step)
    times = windows(tariff, int(segments.start + segments.edges[0] * segments.step), stop, zone)
    slot = times.slot_at(begins)
    fixed = np.array([np.nan if one.price is None else one.price for one in times.slots])
    price = fixed[slot]
    for k, one in enumerate(times.slots):
        added = one.prices.by_the_hour
        if added is None or PRICE_SUM not in segments.sums:
            continue
        here = slot == k
        known = segments.sums[PRICE_KNOWN][here]
        with np.errstate(invalid="ignore", divide="ignore"):
            read = np.where(known > 0, segments.sums[PRICE_SUM][here] / known, np.nan)
        price[here] = (read + added.add) * (1 + one.prices.vat)
    return price, slot, times


def price_of_segments(tariff: Tariff, segments: Segments, zone: ZoneInfo) -> Floats:
    """The price of the grid's electricity in each segment, tiers apart, (m,) per kWh with VAT; NaN
    where readings of the price lack."""
    return _price_of(tariff, segments, zone)[0]


def own_of(
    supply: Supply | None, tariff: Tariff, segments: Segments, zone: ZoneInfo
) -> OwnSupply | None:
    """Own electricity of each segment and its price; None where none is described or known."""
    if supply is None:
        return None
    price, slot, times = _price_of(tariff, segments, zone)
    export = np.array([one.prices.export_price for one in times.slots])[slot]
    return own_supply(supply, segments, price, export, zone)


Paid = tuple[list[BandCost], float]  # rows of a period, and its cells that are known


def _by_price(
    tariff: Tariff,
    segments: Segments,
    shares: tuple[Share, ...],
    groups: Ints,
    count: int,
    zone: ZoneInfo,
    supply: Supply | None,
) -> list[Paid]:
    """Each period by the price of its moments."""
    price, slot, times = _price_of(tariff, segments, zone)
    own = own_of(supply, tariff, segments, zone)
    kinds = len(times.slots)
    counts = (groups >= 0) & np.isfinite(price)
    if own is not None:
        counts &= own.known
    # Of periods and prices only the pairs that there are: a tariff may have thousands of prices.
    pairs, place = np.unique(groups[counts] * kinds + slot[counts], return_inverse=True)
    label = np.full(len(groups), -1, np.int64)
    label[counts] = place
    energies, known = metered(segments, shares, label, len(pairs))
    energy = summed(shares, segments.energy)
    assert energy is not None  # there are meters
    read = counts & np.isfinite(energy)

    bought = energy if own is None else energy * (1 - own.solar - own.battery)
    paid = np.bincount(label[read], (bought * price)[read] / KWH, len(pairs))
    mine = (
        None
        if own is None
        else _OwnParts(own, energy, label, read, energies, tariff.currency, count)
    )
    found: list[Paid] = [([], 0.0) for _ in range(count)]
    for at, pair in enumerate(pairs.tolist()):
        k, j = divmod(pair, kinds)
        rows, cells = found[k]
        found[k] = rows, cells + float(known[at])
        used, one = energies[at], times.slots[j]
        if mine is not None:
            used = mine.taken_from(used, at, k)
        if used.value:
            each = float(paid[at] / used.value) if one.price is None else one.price
            money = used.scaled(each, tariff.currency)
            rows.append(BandCost(one.name, used, each, money, one.since))
    if mine is not None:
        found = [([*rows, *mine.rows(k)], cells) for k, (rows, cells) in enumerate(found)]
    return found


class _OwnParts:
    """What own solar and the battery gave of the electricity of some groups, and its worth."""

    def __init__(
        self,
        own: OwnSupply,
        energy: Floats,
        label: Ints,
        read: Bools,
        energies: Sequence[Estimate],
        currency: str,
        count: int,
    ) -> None:
        def total(share: Floats) -> Floats:
            gave = (energy * share)[read]
            found: Floats = np.bincount(label[read], gave, len(energies)) / KWH
            return found

        self.given = {
            Own.SOLAR: (total(own.solar), total(own.solar * own.solar_price)),
            Own.BATTERY: (total(own.battery), total(own.battery * own.battery_price)),
        }
        none = exact(0.0, "kWh"), exact(0.0, currency)
        self.found = [dict.fromkeys(Own, none) for _ in range(count)]
        self.currency = currency

    def taken_from(self, used: Estimate, at: int, period: int) -> Estimate:
        """The grid's part of what a group used; the others are added to those of its period."""
        if not used.value:
            return used
        parts = {own: float(kwh[at]) / used.value for own, (kwh, _) in self.given.items()}
        share = sum(parts.values())
        # Meters of the supply on either side of the quotient that a share is.
        spread = rectangular(SUPPLY_LIMIT) * sqrt(2) * share * (1 - share) * used.value
        for own, part in parts.items():
            if not part:
                continue
            kwh, money = self.given[own]
            doubt = UncertaintyComponent(Source(SourceCode.OWN_SHARE), spread * part / share)
            gave = used.scaled(part)
            gave = Estimate(gave.value, gave.unit, merge([*gave.budget, doubt]))
            worth = gave.scaled(float(money[at] / kwh[at]), self.currency)
            before = self.found[period][own]
            self.found[period][own] = before[0] + gave, before[1] + worth
        rest = used.scaled(1 - share)
        doubt = UncertaintyComponent(Source(SourceCode.OWN_SHARE), -spread)
        return Estimate(rest.value, rest.unit, merge([*rest.budget, doubt]))

    def rows(self, period: int) -> list[BandCost]:
        """Those of a period that gave anything."""
        return [
            BandCost(own.value, kwh, money.value / kwh.value, money)
            for own, (kwh, money) in self.found[period].items()
            if kwh.value
        ]


def cost_at_moments(
    tariff: Tariff,
    segments: Segments,
    shares: tuple[Share, ...],
    groups: Ints,
    count: int,
    zone: ZoneInfo,
    supply: Supply | None = None,
    tiers: bool = True,
) -> list[Estimate | None]:
    """What the electricity of groups of segments cost at the prices of its moments, tiers as far as
    the month had reached them by then, without standing charges; None where it is not known.

    Parameters
    ----------
    groups : array, (m,)
        0 … count − 1, −1 for none.
    tiers : bool
        whether those count, which takes shares that hold all metered electricity; without, the
        prices are those of the first kWh.
    """
    if not _told_apart(tariff, segments, shares, supply):
        return [None] * count
    further = _tiers(tariff, segments, shares, groups, count, zone) if tiers else {}
    found: list[Estimate | None] = []
    paid = _by_price(tariff, segments, shares, groups, count, zone, supply)
    for k, (rows, cells) in enumerate(paid):
        total = exact(0.0, tariff.currency)
        for row in (*rows, *further.get(k, [])):
            total += row.money
        found.append(total if cells else None)
    return found


def _tiers(
    tariff: Tariff,
    segments: Segments,
    shares: tuple[Share, ...],
    groups: Ints,
    count: int,
    zone: ZoneInfo,
) -> dict[int, list[BandCost]]:
    """What the tiers of each calendar month add to each group that has some of it.

    A segment pays the tiers that the month has reached by then, of all that was read and of the
    other uses, which come first: Σ more · (max(0, use − limit) after it − the same before it). So
    groups add up, whichever way the month is divided; and an error of the meter, which shifts all
    of it in one proportion, acts on the whole of a month by the price that its last kWh has.
    """
    if not any(prices.tiers for prices in tariff.every):
        return {}
    begins = segments.begins
    stop = float(segments.start + segments.edges[-1] * segments.step)
    total = summed(shares, segments.energy)
    assert total is not None  # there are meters
    by_sun, by_battery = own_shares(segments)
    energy = np.nan_to_num(total) * (1 - by_sun - by_battery) / KWH
    slots = slots_of(tariff)
    _, slot, _ = _price_of(tariff, segments, zone)
    found: dict[int, list[BandCost]] = {}
    for month in months(float(begins[0]), stop, zone):
        first, last = np.searchsorted(begins, [month.start, month.stop])
        if first == last:
            continue
        prices = slots[slot[first]].prices  # as at the beginning of the month
        mine = groups[first:last]
        here = mine >= 0
        if not prices.tiers or not here.any():
            continue
        label = np.full(len(groups), -1, np.int64)
        label[first:last] = mine
        energies, _ = metered(segments, shares, label, count)
        after = np.cumsum(energy[first:last])
        before = after - energy[first:last]
        for tier in prices.tiers:
            limit = max(0.0, tier.above_kwh - tariff.other_uses_kwh)
            beyond = np.maximum(after - limit, 0.0) - np.maximum(before - limit, 0.0)
            # How fast that grows with all of the month's use in proportion.
            grows = np.where(after > limit, after, 0.0) - np.where(before > limit, before, 0.0)
            above, by = (np.bincount(mine[here], one[here], count) for one in (beyond, grows))
            more = tier.price_more * (1 + prices.vat)
            for k in np.flatnonzero(above > 0).tolist():
                used = energies[k]
                erring = used.scaled(float(by[k]) / used.value) if used.value else used
                part = erring + exact(float(above[k]) - erring.value, "kWh")
                found.setdefault(k, []).append(
                    BandCost(
                        f"above {tier.above_kwh:g} kWh, {month.name}",
                        part,
                        more,
                        part.scaled(more, tariff.currency),
                        on_top=True,
                    )
                )
    return found


def _told_apart(
    tariff: Tariff, segments: Segments, shares: tuple[Share, ...], supply: Supply | None
) -> bool:
    """Whether the readings tell at which price each kWh was used."""
    if not own_told(supply, segments):
        return False
    return not (_hours_matter(tariff) and _hours_unknown(segments, shares))


def _hours_matter(tariff: Tariff) -> bool:
    return len(slots_of(tariff)) > 1 or tariff.by_the_hour is not None


def _hours_unknown(segments: Segments, shares: tuple[Share, ...]) -> bool:
    return any(segments.meters[name].native > FAR_APART for _, name in shares)


def _without_hours(
    tariff: Tariff,
    segments: Segments,
    shares: tuple[Share, ...],
    groups: Ints,
    periods: Sequence[tuple[float, float]],
    zone: ZoneInfo,
    supply: Supply | None,
) -> list[Paid]:
    """Each period where the hours at which electricity was used, or how much of it was own, are
    not known."""
    price, slot, times = _price_of(tariff, segments, zone)
    energies, known = metered(segments, shares, groups, len(periods))
    tiers = _tiers(tariff, segments, shares, groups, len(periods), zone)
    found: list[Paid] = []
    for k, used in enumerate(energies):
        here = groups == k
        if not used.value or not np.isfinite(price[here]).any():
            found.append(([], 0.0))
            continue
        mean, limit, words = _mean_price(times, slot[here], price[here])
        if supply is not None:
            own = supply.solar_worth == SolarWorth.EXPORT
            least = min(one.prices.export_price if own else 0.0 for one in times.slots)
            high = mean + limit
            low = min(least, mean - limit)
            mean, limit, words = (low + high) / 2, (high - low) / 2, "how much was own is not known"
        paid = used.scaled(mean, tariff.currency)
        open_ = UncertaintyComponent(
            Source(SourceCode.HOURS_OF_USE), rectangular(limit) * used.value
        )
        paid = Estimate(paid.value, tariff.currency, merge([*paid.budget, open_]))
        rows = [BandCost(words, used, mean, paid), *tiers.get(k, [])]
        found.append((rows, float(known[k])))
    return found


def carbon_of(electricity: Estimate, carbon: Carbon) -> Estimate:
    """What an electricity stands for [kg CO2]; the factor is taken as its source gives it."""
    return electricity.scaled(carbon.kg_per_kwh, "kg")


def _mean_price(times: Windows, slot: Ints, price: Floats) -> tuple[float, float, str]:
    """Price where the hours are not known, how far it may be off, and what it is in words; of the
    segments of a period, (m,)."""
    editions = {id(times.slots[k].prices): times.slots[k].prices for k in np.unique(slot)}
    if len(editions) == 1:
        (prices,) = editions.values()
        given = [band.share for band in prices.bands]
        if given and prices.by_the_hour is None and all(share is not None for share in given):
            named = [(b.price, b.share or 0.0) for b in prices.bands]
            rest = max(1.0 - sum(share for _, share in named), 0.0)
            named.append((prices.price, rest))
            mean = sum(price * share for price, share in named) * (1 + prices.vat)
            spread = max(p for p, s in named if s) - min(p for p, s in named if s)
            limit = SHARE_LIMIT * spread * (1 + prices.vat)
            return mean, limit, "bands by their described shares"
    low, high = float(np.nanmin(price)), float(np.nanmax(price))
    return (low + high) / 2, (high - low) / 2, "hours not known"
