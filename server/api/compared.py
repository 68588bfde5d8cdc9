"""Systems side by side in the days that all of them have."""

from dataclasses import dataclass

from django.http import HttpRequest
from ninja import Query, Router

from ember.messages import Reason
from ember.views.in_common import InCommon
from server.api.fleet import get_system
from server.api.season import DegreeDaysShown, degree_days_shown
from server.assessments.compared import side_by_side
from server.assessments.shown import FigureShown, figure
from server.systems.models import System

router = Router(tags=["fleet"])


@dataclass(frozen=True)
class BoughtShown:
    """What a house used of a carrier, or of all together: energy [kWh] and cost on the share of
    the days that is covered, by floor [kWh/m²], by floor and degree-day [Wh/(m²·K·d)]. reason : why
    there is no energy."""

    carrier: str
    covered: float
    energy: FigureShown | None
    cost: FigureShown | None
    energy_per_area: FigureShown | None
    energy_by_weather: FigureShown | None
    reason: Reason | None


@dataclass(frozen=True)
class InCommonShown:
    """A system in the days in common. heat, electricity : [kWh], hot water included; by floor
    [kWh/m²], and by floor and degree-day [Wh/(m²·K·d)]. cost : of all metered electricity, also by
    floor. level : of heat, electricity and COP."""

    id: int
    name: str
    stale: bool
    level: str | None
    covered: float
    heat: FigureShown | None
    electricity: FigureShown | None
    cop: FigureShown | None
    cost: FigureShown | None
    outdoor: float | None
    degree_days: DegreeDaysShown | None
    heat_per_area: FigureShown | None
    electricity_per_area: FigureShown | None
    cost_per_area: FigureShown | None
    heat_by_weather: FigureShown | None
    electricity_by_weather: FigureShown | None
    bought: list[BoughtShown]


@dataclass(frozen=True)
class SideBySide:
    """local : the days in common, by the clock of the first system; reason : why there are none."""

    local: str | None
    reason: str | None
    rows: list[InCommonShown]


@router.get("/compared", response=SideBySide)
def compared(request: HttpRequest, systems: Query[list[int]]) -> SideBySide:
    """Systems in the days that all of them have. systems : their keys, two or more."""
    asked = [get_system(pk) for pk in dict.fromkeys(systems)]
    found = side_by_side(asked)
    if found.local is None:
        return SideBySide(None, "Their records have no day in common.", [])
    rows = [_shown(one, stale, seen) for one, (stale, seen) in zip(asked, found.rows, strict=True)]
    return SideBySide(found.local, None, rows)


def _shown(system: System, stale: bool, seen: InCommon) -> InCommonShown:
    return InCommonShown(
        id=system.pk,
        name=system.name,
        stale=stale,
        level=seen.level.value if seen.level else None,
        covered=seen.covered,
        heat=figure(seen.heat),
        electricity=figure(seen.electricity),
        cop=figure(seen.cop),
        cost=figure(seen.cost),
        outdoor=seen.outdoor,
        degree_days=degree_days_shown(seen.degree_days),
        heat_per_area=figure(seen.heat_per_area),
        electricity_per_area=figure(seen.electricity_per_area),
        cost_per_area=figure(seen.cost_per_area),
        heat_by_weather=figure(seen.heat_by_weather),
        electricity_by_weather=figure(seen.electricity_by_weather),
        bought=[
            BoughtShown(
                one.carrier,
                one.covered,
                figure(one.energy),
                figure(one.cost),
                figure(one.energy_per_area),
                figure(one.energy_by_weather),
                one.reason,
            )
            for one in seen.bought
        ],
    )
