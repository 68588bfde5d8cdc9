"""Another fuel beside a system over a season: what its heat costs, and where one overtakes the
other."""

from dataclasses import dataclass
from typing import Annotated

from pydantic import ConfigDict, Field
from pydantic.dataclasses import dataclass as checked

from ember.basis.calendar import is_year
from ember.basis.codes import ReasonCode
from ember.basis.errors import DescriptionError
from ember.basis.quantity import Estimate
from ember.cost import (
    HeatCost,
    HeatingValue,
    Payback,
    break_even_cop,
    cost_of_heat,
    fuel_named,
    payback_by_paths,
    pumped_heat,
    saved_by_pump,
)
from ember.messages import NotAvailable, Reason, because, reason_of
from ember.season import BreakEven, Hybrid, SeasonSeen, break_even, hybrid
from ember.season.season import Filled

Temperature = Annotated[float, Field(ge=-60, le=60)]
Rise = Annotated[float, Field(gt=-1, le=1)]
Paid = Annotated[float, Field(ge=0, le=1e12)]


@checked(frozen=True, config=ConfigDict(extra="forbid"))
class FuelAsked:
    """A fuel at its price, and the purchase that it is set against.

    Attributes
    ----------
    kind : str
        of `FUELS`.
    price : float
        of a unit.
    unit : str | None
        in which it is sold, one of the fuel's; None: the first.
    kwh : float | None
        energy of the unit, by the heating value `of` [kWh]; None: the usual.
    efficiency : float | None
        as a share, by the heating value `by`; None: the usual.
    by, of : HeatingValue | None
        None: as the unit is usually given.
    below : float | None
        of the hybrid [degC]; None: where the two cross.
    purchase : float | None
        of the heat pump, from which `grant` is taken.
    electricity_rise, fuel_rise : float
        of the prices a year, as shares.
    """

    kind: str
    price: float
    unit: str | None = None
    kwh: float | None = None
    efficiency: float | None = None
    by: HeatingValue | None = None
    of: HeatingValue | None = None
    below: Temperature | None = None
    purchase: Paid | None = None
    grant: Paid = 0.0
    electricity_rise: Rise = 0.0
    fuel_rise: Rise = 0.0


def heat_by_fuel(asked: FuelAsked) -> HeatCost:
    """What a fuel's heat costs. Raises DescriptionError for a fuel or a unit that is none."""
    fuel = fuel_named(asked.kind)
    sold = next((u for u in fuel.units if asked.unit in (None, u.unit)), None)
    if sold is None:
        named = ", ".join(u.unit for u in fuel.units)
        raise DescriptionError(f"unit: '{asked.unit}' is none of {named}.", "unit")
    return cost_of_heat(
        price=asked.price,
        kwh=sold.kwh if asked.kwh is None else asked.kwh,
        efficiency=fuel.efficiency if asked.efficiency is None else asked.efficiency,
        by=sold.value if asked.by is None else asked.by,
        of=sold.value if asked.of is None else asked.of,
        upper_per_lower=fuel.upper_per_lower,
    )


@dataclass(frozen=True)
class PurchasePaidBack:
    """A purchase by the difference of two heatings.

    Attributes
    ----------
    price : float
        paid once, the grant taken off.
    spent, before : Estimate
        money a year by the heat pump and by the fuel, at today's prices.
    payback : Payback
        of the one by the other.
    """

    price: float
    spent: Estimate
    before: Estimate
    payback: Payback


@dataclass(frozen=True)
class FuelSeen:
    """A fuel beside a system over a season.

    Attributes
    ----------
    kind : str
        of the fuel.
    currency : str | None
        of the money.
    per_kwh, per_mmbtu, per_therm : float
        price of that much useful heat by the fuel.
    efficiency : float
        by the heating value of the content.
    electricity_price : float | None
        paid on average for a kWh, standing charge apart.
    needed_cop : float | None
        from which on the heat pump is cheaper.
    pumped : Estimate | None
        what a kWh of the system's heat costs.
    saved : Estimate | None
        by the same heat from the fuel, standing charges apart; `reason` where it cannot be told.
    break_even : BreakEven | None
        where the COP of the days crosses the one needed; `break_even_reason` where it is not seen.
    hybrid : Hybrid | None
        the fuel on colder days.
    payback : PurchasePaidBack | None
        of the purchase, of whole years; `payback_reason` where it cannot be told.
    """

    kind: str
    currency: str | None
    per_kwh: float
    per_mmbtu: float
    per_therm: float
    efficiency: float
    electricity_price: float | None
    needed_cop: float | None
    pumped: Estimate | None
    saved: Estimate | None
    reason: Reason | None
    break_even: BreakEven | None
    break_even_reason: Reason | None
    hybrid: Hybrid | None
    payback: PurchasePaidBack | None
    payback_reason: Reason | None


def fuel_seen(seen: SeasonSeen, currency: str | None, asked: FuelAsked) -> FuelSeen:
    """A fuel beside a system.

    Parameters
    ----------
    currency : str | None
        of its tariff; None without one.

    Raises
    ------
    DescriptionError
        for a fuel, a unit, a price or an efficiency that is none.
    """
    cost, unit = heat_by_fuel(asked), currency or ""
    figures = seen.whole.figures
    paid = figures.cost.average_price if figures.cost else None
    needed = pumped = saved = None
    why: Reason | None = because(ReasonCode.NO_TARIFF)
    crossing: BreakEven | NotAvailable | None = None
    both: Hybrid | NotAvailable | None = None
    years: PurchasePaidBack | NotAvailable | None = None
    if paid is not None:
        needed = break_even_cop(paid, cost)
        crossing = break_even(seen, needed)
        reckoning = figures.reckonings[-1] if figures.reckonings else None
        if reckoning is None or reckoning.cop is None or reckoning.heat is None:
            why = (reckoning.reason if reckoning else None) or because(ReasonCode.NO_LEVEL)
        else:
            why = None
            pumped = pumped_heat(paid, reckoning.cop, unit)
            saved = saved_by_pump(reckoning.heat, reckoning.electricity, cost, paid, unit)
            years = _years(seen, cost, paid, unit, asked)
        at = asked.below
        if at is None and isinstance(crossing, BreakEven) and crossing.outdoor is not None:
            at = crossing.outdoor.value
        both = None if at is None else hybrid(seen, at, cost.per_kwh, paid, unit)
    return FuelSeen(
        kind=asked.kind,
        currency=currency,
        per_kwh=cost.per_kwh,
        per_mmbtu=cost.per_mmbtu,
        per_therm=cost.per_therm,
        efficiency=cost.efficiency,
        electricity_price=paid,
        needed_cop=needed,
        pumped=pumped,
        saved=saved,
        reason=why,
        break_even=crossing if isinstance(crossing, BreakEven) else None,
        break_even_reason=reason_of(crossing),
        hybrid=both if isinstance(both, Hybrid) else None,
        payback=years if isinstance(years, PurchasePaidBack) else None,
        payback_reason=reason_of(years),
    )


def _years(
    seen: SeasonSeen, cost: HeatCost, paid: float, currency: str, asked: FuelAsked
) -> PurchasePaidBack | NotAvailable | None:
    """Until the purchase is paid back, by a whole year with what lacks of it; None unasked."""
    if asked.purchase is None:
        return None
    if not is_year(seen.whole.figures.period):
        return NotAvailable(because(ReasonCode.NO_YEAR))
    filled = seen.whole.filled  # what lacks of the year is no saving
    if isinstance(filled, NotAvailable):
        return filled
    year = filled if isinstance(filled, Filled) else seen.whole.figures.reckonings[-1]
    assert year.heat is not None
    spent = year.electricity.scaled(paid, currency)
    before = year.heat.scaled(cost.per_kwh, currency)
    price = max(asked.purchase - asked.grant, 0.0)
    found = payback_by_paths(price, spent, before, asked.electricity_rise, asked.fuel_rise)
    return PurchasePaidBack(price, spent, before, found)
