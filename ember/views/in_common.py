"""Several systems in the days that all of them have: by the floor and by the weather of each."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import reduce
from operator import add

from ember.assessment.record_analysis import RecordAnalysis
from ember.basis.periods import Period
from ember.basis.quantity import Estimate
from ember.boundary import Level
from ember.messages import Reason, words_of
from ember.operation.within import Within
from ember.readings.bills import Bill, CarrierUse, used_of
from ember.season import DegreeDays, season_seen

say = words_of(__name__)

WATT_HOURS = 1000.0  # in a kilowatt-hour
ELECTRICITY = "electricity"  # as a bill calls it
COMMON_COVERED = 0.9  # of a period, to be set against its weather, common practice, chosen


@dataclass(frozen=True)
class Bought:
    """What a house used of one carrier, or of all, in a period.

    Attributes
    ----------
    carrier : str
        or of what together.
    covered : float
        share of the period that is known.
    energy, cost : Estimate | None
        [kWh]; None with a reason, or where a cost is not known.
    energy_per_area, energy_by_weather : Estimate | None
        as in `InCommon`.
    """

    carrier: str
    covered: float
    energy: Estimate | None
    cost: Estimate | None
    energy_per_area: Estimate | None
    energy_by_weather: Estimate | None
    reason: Reason | None


@dataclass(frozen=True)
class InCommon:
    """A system in a period.

    Attributes
    ----------
    level : Level | None
        of heat, electricity and COP, the widest; None where none can be computed.
    covered : float
        share of the period that is measured.
    heat, electricity : Estimate | None
        [kWh], hot water included.
    cop : Estimate | None
        their quotient.
    cost : Estimate | None
        of all metered electricity; None without a tariff.
    outdoor : float | None
        mean of the days [degC].
    degree_days : DegreeDays | None
        of its own weather.
    heat_per_area, electricity_per_area, cost_per_area : Estimate | None
        by the heated floor [kWh/m², money/m²]; None where it is not described.
    heat_by_weather, electricity_by_weather : Estimate | None
        by floor and degree-day [Wh/(m²·K·d)], the degree-days in the share of the time that is
        measured; None where that is little.
    bought : tuple[Bought, ...]
        of each carrier by the bills, and all together where each is known of most of the period.
        Electricity that is not billed for the whole house stands there as measured.
    """

    level: Level | None
    covered: float
    heat: Estimate | None
    electricity: Estimate | None
    cop: Estimate | None
    cost: Estimate | None
    outdoor: float | None
    degree_days: DegreeDays | None
    heat_per_area: Estimate | None
    electricity_per_area: Estimate | None
    cost_per_area: Estimate | None
    heat_by_weather: Estimate | None
    electricity_by_weather: Estimate | None
    bought: tuple[Bought, ...]


def common_period(analyses: Sequence[RecordAnalysis]) -> Period | None:
    """From where the last of some records begins to where the first ends; None where they have no
    time in common."""
    start, stop = max(a.start for a in analyses), min(a.stop for a in analyses)
    return Period("in common", start, stop) if start < stop else None


def in_common(within: Within, bills: Sequence[Bill] = ()) -> InCommon:
    """A system in a period at whose ends its record analysis is cut.

    Parameters
    ----------
    bills : Sequence[Bill]
        of its house.

    Source: energy by floor area, by floor area and degree-day; common practice.
    """
    hourly = within.found.hours.of["outdoor"][within.hours()]
    seen = season_seen(within.analysis, within.period, hourly)
    figures = seen.whole.figures
    sums = figures.reckonings[-1] if figures.reckonings else None
    heat = sums.heat if sums else None
    electricity = sums.electricity if sums else figures.electricity
    cost = figures.cost.total if figures.cost else None
    covered = sums.coverage if sums else figures.cost.covered if figures.cost else 0.0
    area = within.analysis.installation.house.floor_area_m2
    days = seen.degree_days

    def per_area(one: Estimate | None, unit: str) -> Estimate | None:
        return None if one is None or area is None else one.scaled(1 / area, unit)

    def by_weather(one: Estimate | None, covered: float) -> Estimate | None:
        if one is None or area is None or days is None or covered < COMMON_COVERED:
            return None
        weather = days.heating * covered
        return one.scaled(WATT_HOURS / area / weather, "Wh/(m²·K·d)") if weather > 0 else None

    def bought(one: CarrierUse) -> Bought:
        energy = one.energy
        return Bought(
            one.carrier,
            one.covered,
            energy,
            one.cost,
            per_area(energy, "kWh/m²"),
            by_weather(energy, one.covered),
            one.reason,
        )

    tariff = within.analysis.installation.tariff
    used = used_of(
        bills, within.period.start, within.period.stop, tariff.currency if tariff else None
    )
    measured = CarrierUse(ELECTRICITY, covered, electricity, cost, None)
    return InCommon(
        level=seen.level,
        covered=covered,
        heat=heat,
        electricity=electricity,
        cop=sums.cop if sums else None,
        cost=cost,
        outdoor=seen.whole.outdoor,
        degree_days=days,
        heat_per_area=per_area(heat, "kWh/m²"),
        electricity_per_area=per_area(electricity, "kWh/m²"),
        cost_per_area=per_area(cost, f"{cost.unit}/m²" if cost else ""),
        heat_by_weather=by_weather(heat, covered),
        electricity_by_weather=by_weather(electricity, covered),
        bought=tuple(bought(one) for one in (*used, *_together(used, measured))),
    )


def _together(used: Sequence[CarrierUse], measured: CarrierUse) -> list[CarrierUse]:
    """All that a house used, where each carrier is known of most of the period; else nothing."""
    if not used:
        return []
    billed = any(one.carrier == ELECTRICITY for one in used)
    every = list(used) if billed else [*used, measured]
    energies = [one.energy for one in every if one.energy is not None]
    if len(every) < 2 or len(energies) < len(every):
        return []
    if min(one.covered for one in every) < COMMON_COVERED:
        return []
    costs = [one.cost for one in every if one.cost is not None]
    named = [one.carrier for one in used] + ([] if billed else [say("measured_electricity")])
    return [
        CarrierUse(
            " + ".join(named),
            min(one.covered for one in every),
            reduce(add, energies),
            reduce(add, costs) if len(costs) == len(every) else None,
            None,
        )
    ]
