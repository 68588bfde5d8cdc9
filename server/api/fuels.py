"""Other fuels: what their heat costs beside this system's, and where one overtakes the other."""

from dataclasses import dataclass
from typing import Annotated

from django.http import HttpRequest
from ninja import Router
from pydantic import Field

from ember.basis.calendar import is_year
from ember.basis.codes import ReasonCode
from ember.cost import (
    FUELS,
    HeatCost,
    HeatingValue,
    break_even_cop,
    cost_of_heat,
    fuel_named,
    payback_by_paths,
    pumped_heat,
    saved_by_pump,
)
from ember.messages import NotAvailable, Reason, because, reason_of
from ember.readings.bills import heat_before, in_weather
from ember.season import BreakEven, Crossing, Hybrid, SeasonSeen, break_even, hybrid, season_seen
from ember.season.season import Filled
from server.api.figures import cut_to
from server.api.fleet import get_system
from server.assessments.shown import FigureShown, figure, known
from server.readings.entries import bill_of
from server.readings.models import Entry
from server.systems.models import System

Temperature = Annotated[float, Field(ge=-60, le=60)]
Rise = Annotated[float, Field(gt=-1, le=1)]
Paid = Annotated[float, Field(ge=0, le=1e12)]
DegreeDays = Annotated[float, Field(gt=0, le=1e6)]

router = Router(tags=["rooms"])


@dataclass(frozen=True)
class FuelUnitShown:
    """A unit in which a fuel is sold; kwh : energy of one, by the heating value `value`."""

    unit: str
    kwh: float
    value: HeatingValue
    source: str


@dataclass(frozen=True)
class FuelShown:
    """A fuel with its usual units. upper_per_lower : of its heating values; efficiency : usual of a
    boiler, by the value of its units."""

    kind: str
    words: str
    units: list[FuelUnitShown]
    upper_per_lower: float
    efficiency: float


@dataclass(frozen=True)
class HeatCostShown:
    """What useful heat costs, by the kWh, the million Btu and the therm. efficiency : by the
    heating value of the content."""

    per_kwh: float
    per_mmbtu: float
    per_therm: float
    efficiency: float


@dataclass(frozen=True)
class BreakEvenShown:
    """Where the COP of the days crosses the one needed [degC], and what lies on either side."""

    crossing: Crossing
    outdoor: FigureShown | None
    days_dearer: int
    days_cheaper: int
    heat_dearer: float
    heat_cheaper: float


@dataclass(frozen=True)
class HybridShown:
    """The fuel on days colder than a temperature [degC]: how many, their heat [kWh], and what that
    would have saved beside the pump alone."""

    below: float
    days: int
    heat: float
    saved: FigureShown


@dataclass(frozen=True)
class YearsShown:
    """Years until the purchase, grant taken off, is paid back by the difference of the two, and by
    the ends of its 95 % interval; null for never. spent, before : money a year at today's
    prices."""

    price: float
    spent: FigureShown
    before: FigureShown
    years: float | None
    soonest: float | None
    latest: float | None


@dataclass(frozen=True)
class BillsShown:
    """The heating before by its bills: useful heat a year [kWh], as billed and in the weather of
    this period where degree-days of both are known; its cost by this fuel at this price. hot_water
    : whether the bills hold it."""

    heat: FigureShown
    in_this_weather: FigureShown | None
    cost: FigureShown
    hot_water: bool


@dataclass(frozen=True)
class FuelsCompared:
    """A fuel beside this system over a period. electricity_price : paid on average, standing charge
    apart; pumped : what a kWh of this system's heat costs; saved : by the same heat from the fuel,
    standing charges apart; each null with the reason in `reason`. hybrid : the fuel on the days
    colder than asked, else than the crossing. payback : of the purchase that was typed. before :
    the heat of the bills of the heating before, by this fuel at this price."""

    currency: str | None
    electricity_price: float | None
    fuel: HeatCostShown
    needed_cop: float | None
    pumped: FigureShown | None
    saved: FigureShown | None
    reason: Reason | None
    break_even: BreakEvenShown | None
    break_even_reason: Reason | None
    hybrid: HybridShown | None
    payback: YearsShown | None
    payback_reason: Reason | None
    before: BillsShown | None


@router.get("/fuels", response=list[FuelShown])
def fuels(request: HttpRequest) -> list[FuelShown]:
    """Fuels with their units, contents and sources."""
    return [
        FuelShown(
            one.kind.value,
            one.words,
            [FuelUnitShown(u.unit, u.kwh, u.value, u.source) for u in one.units],
            one.upper_per_lower,
            one.efficiency,
        )
        for one in FUELS
    ]


@router.get("/systems/{pk}/fuels", response=FuelsCompared)
def compared(
    request: HttpRequest,
    pk: int,
    start: str,
    stop: str,
    kind: str,
    price: float,
    kwh: float,
    efficiency: float,
    by: HeatingValue = HeatingValue.NONE,
    of: HeatingValue = HeatingValue.NONE,
    below: Temperature | None = None,
    purchase: Paid | None = None,
    grant: Paid = 0.0,
    electricity_rise: Rise = 0.0,
    fuel_rise: Rise = 0.0,
    degree_days_before: DegreeDays | None = None,
) -> FuelsCompared:
    """A fuel beside this system. price : of a unit; kwh : its energy by the heating value `of`;
    efficiency : as a share, by the heating value `by`. below : of the hybrid [degC]; purchase,
    grant : of the heat pump; electricity_rise, fuel_rise : of the prices a year, as shares;
    degree_days_before : of the year of the bills [K·d]."""
    fuel = fuel_named(kind)
    cost = cost_of_heat(price, kwh, efficiency, by, of, fuel.upper_per_lower)
    system = get_system(pk)
    cut = cut_to(system, start, stop)
    seen = season_seen(cut.analysis, cut.period)
    found = seen.whole.figures
    tariff = cut.analysis.installation.tariff
    paid = found.cost.average_price if found.cost else None
    currency = tariff.currency if tariff else None
    before = _bills(system, seen, cost, currency or "", degree_days_before)
    if paid is None:
        return _alone(currency, cost, because(ReasonCode.NO_TARIFF), before)
    needed = break_even_cop(paid, cost)
    crossing = break_even(seen, needed)
    pumped = saved = years = None
    why_not: Reason | None = None
    reckoning = found.reckonings[-1] if found.reckonings else None
    cop = reckoning.cop if reckoning else None
    why: Reason | None = None
    if reckoning is None or cop is None or reckoning.heat is None:
        why = (reckoning.reason if reckoning else None) or because(ReasonCode.NO_LEVEL)
    else:
        pumped = pumped_heat(paid, cop, currency or "")
        saved = saved_by_pump(reckoning.heat, reckoning.electricity, cost, paid, currency or "")
        filled = seen.whole.filled  # what lacks of the year is no saving
        if purchase is not None and not is_year(cut.period):
            why_not = because(ReasonCode.NO_YEAR)
        elif purchase is not None and isinstance(filled, NotAvailable):
            why_not = filled.reason
        elif purchase is not None:
            year = filled if isinstance(filled, Filled) else reckoning
            assert year.heat is not None
            spent = year.electricity.scaled(paid, currency or "")
            other = year.heat.scaled(cost.per_kwh, currency or "")
            price_once = max(purchase - grant, 0.0)
            long = payback_by_paths(price_once, spent, other, electricity_rise, fuel_rise)
            years = YearsShown(
                price_once, known(spent), known(other), long.years, long.soonest, long.latest
            )
    at = below
    if at is None and isinstance(crossing, BreakEven) and crossing.outdoor is not None:
        at = crossing.outdoor.value
    both = None if at is None else hybrid(seen, at, cost.per_kwh, paid, currency or "")
    return FuelsCompared(
        currency=currency,
        electricity_price=paid,
        fuel=_shown(cost),
        needed_cop=needed,
        pumped=figure(pumped),
        saved=figure(saved),
        reason=why,
        break_even=_break_even(crossing) if isinstance(crossing, BreakEven) else None,
        break_even_reason=reason_of(crossing),
        hybrid=HybridShown(both.below, both.days, both.heat, known(both.saved))
        if isinstance(both, Hybrid)
        else None,
        payback=years,
        payback_reason=why_not,
        before=before,
    )


def _alone(
    currency: str | None, cost: HeatCost, why: Reason, before: BillsShown | None
) -> FuelsCompared:
    """The fuel without the system beside it."""
    return FuelsCompared(
        currency, None, _shown(cost), None, None, None, why, None, None, None, None, None, before
    )


def _bills(
    system: System, seen: SeasonSeen, cost: HeatCost, currency: str, degree_days: float | None
) -> BillsShown | None:
    """What the bills before would cost by a fuel; None without a year of them."""
    replaced = system.installation.replaced
    if replaced is None:
        return None
    bills = [bill_of(entry) for entry in system.entries.filter(kind=Entry.Kind.BILL)]
    heat = heat_before(bills, replaced)
    if heat is None:
        return None
    now = seen.degree_days
    corrected = None
    if degree_days and now is not None and is_year(seen.whole.figures.period):
        base = 0.0 if isinstance(seen.heat, NotAvailable) else seen.heat.base * 365
        corrected = in_weather(heat, base if replaced.hot_water else 0.0, degree_days, now.heating)
    used = corrected or heat
    return BillsShown(
        known(heat),
        figure(corrected),
        known(used.scaled(cost.per_kwh, currency)),
        replaced.hot_water,
    )


def _shown(cost: HeatCost) -> HeatCostShown:
    return HeatCostShown(cost.per_kwh, cost.per_mmbtu, cost.per_therm, cost.efficiency)


def _break_even(found: BreakEven) -> BreakEvenShown:
    return BreakEvenShown(
        found.crossing,
        None if found.outdoor is None else known(found.outdoor),
        found.days_dearer,
        found.days_cheaper,
        found.heat_dearer,
        found.heat_cheaper,
    )
