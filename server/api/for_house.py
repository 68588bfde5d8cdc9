"""Rated tables in a house, before anything is logged: capacity and need, balance point, season."""

from dataclasses import dataclass
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Any

import orjson
from django.conf import settings
from django.http import HttpRequest
from ninja import File, Router
from ninja.files import UploadedFile

from ember.basis.clock import DAY
from ember.basis.codes import ReasonCode
from ember.basis.errors import TableError
from ember.basis.series import Floats
from ember.description.as_json import table_from_json
from ember.description.declared import Climate
from ember.description.installation import Installation, TableKind
from ember.intake.weather import is_weather, typical_year
from ember.messages import NotAvailable, Reason, because
from ember.rated import (
    ForHouse,
    Need,
    Weather,
    climate_weather,
    for_house,
    hourly_weather,
    logged_weather,
)
from ember.rated import need_of as need_in
from ember.rated.scop import least_share
from ember.readings.bills import heat_before
from server.api.fleet import get_system
from server.api.rated_table import kind_of
from server.assessments.asis import as_shown, shape_of
from server.assessments.shown import FigureShown, figure
from server.readings.entries import bill_of
from server.readings.models import Entry
from server.readings.record import span_of
from server.readings.store import trace_of
from server.systems.models import LibraryTable, System

router = Router(tags=["rating"])
ForHouseOut: Any = shape_of(ForHouse)
NeedOut: Any = shape_of(Need)
FOR_HOUSE_LARGEST = 20 << 20  # of a weather file [B]
SITE = "site"


@dataclass(frozen=True)
class WeatherChoice:
    """A weather that may be taken. reason : why it cannot be; None where it can."""

    key: str
    name: str
    reason: Reason | None


@dataclass(frozen=True)
class InHouseShown:
    """Tables in a house. weather : its name and design temperature [degC]; need : what the house
    needs, None with need_reason. before : useful heat a year by the bills of the heating before,
    before_words : what it is. tables : the system's own first."""

    weather: str
    design: float
    choices: list[WeatherChoice]
    need: NeedOut | None
    need_reason: Reason | None
    before: FigureShown | None
    before_words: str | None
    tables: list[ForHouseOut]
    others: list[int]


@router.post("/systems/{pk}/in-house", response=InHouseShown)
def in_house(
    request: HttpRequest,
    pk: int,
    weather: str = Climate.AVERAGE.value,
    others: str = "",
    file: File[UploadedFile | None] = None,
) -> InHouseShown:
    """The system's table, and some of the library, in its house in one of the climates, the site's
    own weather, or that of an EPW or TMY3 file. Nothing is stored."""
    system = get_system(pk)
    installation = system.installation
    site, site_reason = _site(system)
    if file is not None:
        chosen = _of_file(file)
    elif weather == SITE:
        if site is None:
            raise TableError(f"weather: {site_reason}.")
        chosen = site
    else:
        if weather not in set(Climate):
            raise TableError(f"weather: '{weather[:40]}' is none of the choices.")
        chosen = climate_weather(Climate(weather))
    need = need_in(installation.house, chosen)
    picked = [int(k) for k in others.split(",") if k.isdigit()]
    choices = [WeatherChoice(c.value, climate_weather(c).name, None) for c in Climate]
    choices.append(WeatherChoice(SITE, "the site's own, as logged", site_reason))
    return InHouseShown(
        chosen.name,
        chosen.design,
        choices,
        None if isinstance(need, NotAvailable) else as_shown(need),
        need.reason if isinstance(need, NotAvailable) else None,
        *_before(system),
        _tables(installation, chosen, picked),
        picked,
    )


def _before(system: System) -> tuple[FigureShown | None, str | None]:
    """What the heating before gave a year by its bills, and in words what that is."""
    replaced = system.installation.replaced
    if replaced is None:
        return None, None
    bills = [bill_of(e) for e in system.entries.filter(kind=Entry.Kind.BILL)]
    words = f"{replaced.fuel.replace('_', ' ')} at {replaced.efficiency:.0%}"
    words += ", hot water in it" if replaced.hot_water else ", without hot water"
    return figure(heat_before(bills, replaced)), words


def _tables(installation: Installation, weather: Weather, others: list[int]) -> list[Any]:
    found = []
    airflow = next((a.nominal_m3h for a in installation.air if a.nominal_m3h), None)
    altitude = installation.air[0].altitude_m if installation.air else 0.0
    if installation.rated is not None:
        found.append(
            for_house(
                installation.rated,
                installation.house,
                weather,
                installation.rated.name or installation.name,
                installation.unit.low_outdoor_limit,
                least_share(installation),
                airflow,
                altitude,
            )
        )
    kind = kind_of(installation)
    for row in LibraryTable.objects.filter(pk__in=others).order_by("name"):
        table = table_from_json(orjson.loads(row.table))
        if (table.kind == TableKind.AIR) != (kind == TableKind.AIR):
            raise TableError(f"{row.name}: a table on air and one on water are not laid over.")
        found.append(
            for_house(
                table,
                installation.house,
                weather,
                row.name,
                None,
                least_share(installation),
                airflow,
                altitude,
            )
        )
    return [as_shown(one) for one in found]


def _site(system: System) -> tuple[Weather | None, Reason | None]:
    """The weather of the last year of the record, or why there is none."""
    span = span_of(system)
    if span is None or not system.blocks.exists():
        return None, because(ReasonCode.NOTHING_LOGGED)
    stop = span[1]
    trace = trace_of(system, max(span[0], stop - 365 * DAY), stop, ("outdoor_temp",))
    found = logged_weather("the site's own weather, as logged", trace, "outdoor_temp")
    return (None, found.reason) if isinstance(found, NotAvailable) else (found, None)


def _of_file(file: UploadedFile) -> Weather:
    outdoor, name = typical_hours(file)
    return hourly_weather(name, outdoor)


def typical_hours(file: UploadedFile) -> tuple[Floats, str]:
    """Outdoor temperature of the hours of an EPW or TMY3 file, (8760,) [degC], and its name. Raises
    TableError where it is none."""
    name = Path(file.name or "weather").name
    if (file.size or 0) > FOR_HOUSE_LARGEST:
        raise TableError(
            f"{name}: larger than {FOR_HOUSE_LARGEST >> 20} MB; a year of weather is small."
        )
    content = file.read()
    if not is_weather(content[:4096]):
        raise TableError(f"{name}: this is no EPW or TMY3 weather file.")
    with NamedTemporaryFile(suffix=Path(name).suffix, dir=settings.VAR) as cached:
        cached.write(content)
        cached.flush()
        return typical_year(Path(cached.name))["outdoor_temp"], name
