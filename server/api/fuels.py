"""Other fuels: what their heat costs beside this system's, and where one overtakes the other."""

from dataclasses import dataclass

from django.http import HttpRequest
from ninja import Router

from ember.balance.sums import figures
from ember.basis.codes import ReasonCode
from ember.basis.periods import Period
from ember.cost import (
    FUELS,
    HeatCost,
    HeatingValue,
    break_even_cop,
    cost_of_heat,
    fuel_named,
    pumped_heat,
    saved_by_pump,
)
from ember.messages import NotAvailable, Reason, because
from ember.season import BreakEven, Crossing, break_even, season_seen
from server.api.figures import cut_to
from server.api.fleet import get_system
from server.assessments.shown import FigureShown, figure, known

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
class FuelsCompared:
    """A fuel beside this system over a period. electricity_price : paid on average, standing charge
    apart; pumped : what a kWh of this system's heat costs; saved : by the same heat from the fuel,
    standing charges apart; each null with the reason in `reason`."""

    currency: str | None
    electricity_price: float | None
    fuel: HeatCostShown
    needed_cop: float | None
    pumped: FigureShown | None
    saved: FigureShown | None
    reason: Reason | None
    break_even: BreakEvenShown | None
    break_even_reason: Reason | None


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
) -> FuelsCompared:
    """A fuel beside this system. price : of a unit; kwh : its energy by the heating value `of`;
    efficiency : as a share, by the heating value `by`."""
    fuel = fuel_named(kind)
    cost = cost_of_heat(price, kwh, efficiency, by, of, fuel.upper_per_lower)
    cut = cut_to(get_system(pk), start, stop)
    found = figures(cut.analysis, [Period("all", cut.period.start, cut.period.stop)])[0]
    tariff = cut.analysis.installation.tariff
    paid = found.cost.average_price if found.cost else None
    reckoning = found.reckonings[-1] if found.reckonings else None
    currency = tariff.currency if tariff else None
    shown = _shown(cost)
    if paid is None or found.cost is None:
        none = because(ReasonCode.NO_TARIFF)
        return FuelsCompared(currency, None, shown, None, None, None, none, None, None)
    needed = break_even_cop(paid, cost)
    crossing = break_even(season_seen(cut.analysis, cut.period), needed)
    cop = reckoning.cop if reckoning else None
    why: Reason | None = None
    if reckoning is None or cop is None or reckoning.heat is None:
        why = (reckoning.reason if reckoning else None) or because(ReasonCode.NO_LEVEL)
        pumped = saved = None
    else:
        pumped = pumped_heat(paid, cop, currency or "")
        saved = saved_by_pump(reckoning.heat, reckoning.electricity, cost, paid, currency or "")
    return FuelsCompared(
        currency=currency,
        electricity_price=paid,
        fuel=shown,
        needed_cop=needed,
        pumped=figure(pumped),
        saved=figure(saved),
        reason=why,
        break_even=_break_even(crossing) if isinstance(crossing, BreakEven) else None,
        break_even_reason=crossing.reason if isinstance(crossing, NotAvailable) else None,
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
