"""An owner's bills: periods of unequal length, some of them estimated."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ember.basis.clock import DAY
from ember.basis.codes import ReasonCode, SourceCode
from ember.basis.quantity import Estimate, UncertaintyComponent, rectangular
from ember.description.house import Replaced
from ember.description.logged import HandKind, HandSeries
from ember.messages import Reason, Source, because
from ember.readings.sheet import Reading, Turn


@dataclass(frozen=True)
class Bill:
    """One bill.

    Attributes
    ----------
    start, stop : float
        first instant of its first day and end of its last [s].
    carrier : str
        electricity, gas, oil …
    before : bool
        of the heating that was there before.
    amount : float
        in `unit`
    kwh_per_unit : float
        energy content as the bill says.
    cost : float | None
        None where not known.
    estimated : bool
        nobody read the meter at its end.
    meter : str | None
        the described meter that it counts, so that it stands in the sums; None for the whole
        house's, which says nothing of the unit.
    """

    start: float
    stop: float
    carrier: str
    amount: float
    unit: str = "kWh"
    kwh_per_unit: float = 1.0
    cost: float | None = None
    estimated: bool = False
    before: bool = False
    note: str = ""
    meter: str | None = None


@dataclass(frozen=True)
class Billed:
    """A stretch of bills that ends with a reading, so that its energy is sure.

    Attributes
    ----------
    bills : tuple[int, ...]
        indices of those in it; more than one where estimates were settled by a later reading.
    sure : bool
        it begins and ends with a reading.
    kwh : float
        energy
    price : float | None
        average per kWh, None if a cost is not known.
    kwh_a_day, watts : float
        average over its days.
    """

    bills: tuple[int, ...]
    start: float
    stop: float
    days: float
    kwh: float
    kwh_a_day: float
    watts: float
    price: float | None
    sure: bool


def billed(bills: Sequence[Bill]) -> list[Billed]:
    """The bills of one carrier as stretches, in order of time.

    An estimated bill says little by itself; with those after it up to the next reading its sum is
    right. A gap ends a stretch. Source: common practice in settling estimated bills.
    """
    order = sorted(range(len(bills)), key=lambda k: bills[k].start)
    found, open_ = [], list[int]()
    begins_sure = True
    for k in order:
        if open_ and bills[k].start - bills[open_[-1]].stop > DAY / 2:
            found.append(_stretch(bills, open_, False))
            open_, begins_sure = [], False
        open_.append(k)
        if not bills[k].estimated:
            found.append(_stretch(bills, open_, begins_sure))
            open_, begins_sure = [], True
    if open_:
        found.append(_stretch(bills, open_, False))
    return found


def _stretch(bills: Sequence[Bill], which: Sequence[int], sure: bool) -> Billed:
    mine = [bills[k] for k in which]
    start, stop = mine[0].start, mine[-1].stop
    days = round((stop - start) / DAY)
    kwh = sum(bill.amount * bill.kwh_per_unit for bill in mine)
    costs = [bill.cost for bill in mine if bill.cost is not None]
    price = sum(costs) / kwh if len(costs) == len(mine) and kwh else None
    a_day = kwh / days
    return Billed(
        bills=tuple(which),
        start=start,
        stop=stop,
        days=days,
        kwh=kwh,
        kwh_a_day=a_day,
        watts=a_day * 1000 / 24,
        price=price,
        sure=sure,
    )


WHOLE_YEAR = 330  # days of bills, from which they stand for a year
EFFICIENCY_LIMIT = 0.08  # of a described efficiency, common practice, chosen
SERIES = "bills of "  # and the meter's name


def as_readings(
    bills: Sequence[Bill], meters: Sequence[str]
) -> tuple[tuple[HandSeries, ...], list[Reading]]:
    """Bills of the unit's own meters as readings of registers, by hand, which the sums can use.

    Parameters
    ----------
    meters : Sequence[str]
        names of the described electricity meters.

    A register is known where a bill ends with a reading; over a gap between bills it is not. A bill
    is rounded to 1 kWh.
    """
    series, readings = [], list[Reading]()
    for meter in meters:
        mine = [b for b in bills if b.meter == meter and not b.before]
        if not mine:
            continue
        one = HandSeries(f"{SERIES}{meter}", HandKind.ELECTRICITY, "kWh", meter)
        series.append(one)
        total, last = 0.0, None
        for stretch in billed(mine):
            if last is None or stretch.start != last:
                turns = dict[str, Turn]() if last is None else {one.name: Turn.NEW_METER}
                total += 1.0  # a new meter begins anywhere
                readings.append(Reading(stretch.start, {one.name: total}, turns=turns))
            total += stretch.kwh
            readings.append(Reading(stretch.stop, {one.name: total}))
            last = stretch.stop
    return tuple(series), readings


def heat_before(bills: Sequence[Bill], replaced: Replaced) -> Estimate | None:
    """Useful heat a year that the heating before gave, by its bills [kWh]; None where they do not
    hold a year.

    Source: fuel × efficiency as described, ±8 points of it, common practice.
    """
    mine = [b for b in bills if b.before]
    days = sum((b.stop - b.start) / DAY for b in mine)
    if days < WHOLE_YEAR or overlapping(mine):
        return None
    fuel = sum(b.amount * b.kwh_per_unit for b in mine) / days * 365
    part = UncertaintyComponent(
        Source(SourceCode.EFFICIENCY_BEFORE), rectangular(EFFICIENCY_LIMIT) * fuel
    )
    return Estimate(fuel * replaced.efficiency, "kWh", (part,))


def in_weather(heat: Estimate, base: float, then: float, now: float) -> Estimate:
    """Heat of a year in the weather of another.

    Parameters
    ----------
    heat : Estimate
        of the year [kWh].
    base : float
        of it whatever the weather: hot water [kWh].
    then, now : float
        degree-days of the year and of the other, by one method [K·d].

    Source: base + (heat − base) × degree-days now ÷ then, common practice.
    """
    share = now / then
    value = min(base, heat.value) + max(heat.value - base, 0.0) * share
    return Estimate(value, heat.unit, tuple(part.times(share) for part in heat.budget))


BILLED_LIMIT = 0.03  # of an energy on bills: meter, and what a unit holds, common practice, chosen
BILLED_ESTIMATE = 0.2  # of one whose end nobody read, common practice, chosen


@dataclass(frozen=True)
class CarrierUse:
    """What a house used of one carrier in a period, by its bills.

    Attributes
    ----------
    covered : float
        share of the period's days that are on bills.
    energy : Estimate | None
        on those days [kWh]; None with a reason.
    cost : Estimate | None
        of it; None where a bill's cost or the currency is not known.
    """

    carrier: str
    covered: float
    energy: Estimate | None
    cost: Estimate | None
    reason: Reason | None


def used_of(
    bills: Sequence[Bill], start: float, stop: float, currency: str | None
) -> list[CarrierUse]:
    """What the bills of a house say of a period, a carrier each, by its name.

    Parameters
    ----------
    start, stop : float
        instants [s].

    Bills of the heating before are left out, and those of one of the unit's own meters, which its
    sums hold. Of a bill that holds other days too the period gets its days' share; the limit of its
    error is taken to be the smaller of the two parts.

    Source: share by days and its limit, common practice.
    """
    named: dict[str, list[Bill]] = {}
    for bill in bills:
        if not bill.before and not bill.meter:
            named.setdefault(bill.carrier, []).append(bill)
    return [
        _used(carrier, named[carrier], start, stop, currency)
        for carrier in sorted(named)
        if any(one.start < stop and one.stop > start for one in named[carrier])
    ]


def _used(
    carrier: str, bills: Sequence[Bill], start: float, stop: float, currency: str | None
) -> CarrierUse:
    # An estimate is settled by a later bill, perhaps of other days: all of them are looked at.
    if overlapping([one for one in bills if one.start < stop and one.stop > start]):
        why = because(ReasonCode.BILLS_OVERLAP, carrier=carrier)
        return CarrierUse(carrier, 0.0, None, None, why)
    seconds = kwh = paid = shared = guessed = 0.0
    known = currency is not None
    for one in billed(bills):
        inside = min(one.stop, stop) - max(one.start, start)
        if inside <= 0:
            continue
        part = one.kwh * inside / (one.stop - one.start)
        seconds, kwh = seconds + inside, kwh + part
        shared += min(part, one.kwh - part)
        guessed += 0.0 if one.sure else part
        known &= one.price is not None
        paid += part * (one.price or 0.0)

    def estimate(value: float, unit: str, per_kwh: float, meter: float) -> Estimate:
        parts = (
            (SourceCode.BILLED, rectangular(meter) * kwh),
            (SourceCode.BILLED_DAYS, rectangular(1.0) * shared),
            (SourceCode.BILLED_ESTIMATE, rectangular(BILLED_ESTIMATE) * guessed),
        )
        budget = tuple(
            UncertaintyComponent(Source(code, detail=carrier), u * per_kwh)
            for code, u in parts
            if u
        )
        return Estimate(value, unit, budget)

    energy = estimate(kwh, "kWh", 1.0, BILLED_LIMIT)
    cost = None
    if known and currency is not None and kwh:
        cost = estimate(paid, currency, paid / kwh, 0.0)  # what was billed was paid
    return CarrierUse(carrier, seconds / (stop - start), energy, cost, None)


def overlapping(bills: Sequence[Bill]) -> list[tuple[int, int]]:
    """Pairs of bills of one carrier that hold the same days."""
    order = sorted(range(len(bills)), key=lambda k: bills[k].start)
    return [
        (a, b)
        for a, b in pairwise(order)
        if bills[b].start < bills[a].stop and bills[a].before == bills[b].before
    ]
