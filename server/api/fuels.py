"""Other fuels: what their heat costs beside this system's, and where one overtakes the other."""

from dataclasses import dataclass
from typing import Annotated

from django.http import HttpRequest
from ninja import Router
from pydantic import Field

from ember.basis.calendar import is_year
from ember.cost import FUELS, HeatingValue
from ember.messages import NotAvailable, Reason
from ember.readings.bills import heat_before, in_weather
from ember.season import BreakEven, Crossing, Hybrid, SeasonSeen, season_seen
from ember.views.fuel_seen import (
    FuelAsked,
    FuelSeen,
    Paid,
    PurchasePaidBack,
    Rise,
    Temperature,
    fuel_seen,
)
from server.api.figures import cut_to
from server.api.fleet import get_system
from server.assessments.shown import FigureShown, figure, known
from server.readings.entries import bill_of
from server.readings.models import Entry
from server.systems.models import System

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
    asked = FuelAsked(
        kind=kind, price=price, kwh=kwh, efficiency=efficiency, by=by, of=of, below=below,
        purchase=purchase, grant=grant, electricity_rise=electricity_rise, fuel_rise=fuel_rise,
    )  # fmt: skip
    system = get_system(pk)
    cut = cut_to(system, start, stop)
    seen = season_seen(cut.analysis, cut.period)
    tariff = cut.analysis.installation.tariff
    found = fuel_seen(seen, tariff.currency if tariff else None, asked)
    return FuelsCompared(
        currency=found.currency,
        electricity_price=found.electricity_price,
        fuel=HeatCostShown(found.per_kwh, found.per_mmbtu, found.per_therm, found.efficiency),
        needed_cop=found.needed_cop,
        pumped=figure(found.pumped),
        saved=figure(found.saved),
        reason=found.reason,
        break_even=None if found.break_even is None else _break_even(found.break_even),
        break_even_reason=found.break_even_reason,
        hybrid=None if found.hybrid is None else _hybrid(found.hybrid),
        payback=None if found.payback is None else _years(found.payback),
        payback_reason=found.payback_reason,
        before=_bills(system, seen, found, degree_days_before),
    )


def _bills(
    system: System, seen: SeasonSeen, fuel: FuelSeen, degree_days: float | None
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
        known(used.scaled(fuel.per_kwh, fuel.currency or "")),
        replaced.hot_water,
    )


def _hybrid(found: Hybrid) -> HybridShown:
    return HybridShown(found.below, found.days, found.heat, known(found.saved))


def _years(found: PurchasePaidBack) -> YearsShown:
    long = found.payback
    return YearsShown(
        found.price,
        known(found.spent),
        known(found.before),
        long.years,
        long.soonest,
        long.latest,
    )


def _break_even(found: BreakEven) -> BreakEvenShown:
    return BreakEvenShown(
        found.crossing,
        None if found.outdoor is None else known(found.outdoor),
        found.days_dearer,
        found.days_cheaper,
        found.heat_dearer,
        found.heat_cheaper,
    )
