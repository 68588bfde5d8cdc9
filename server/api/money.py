"""Money: months of a period in a table; results and the whole assessment as files."""

import csv
from dataclasses import dataclass
from io import StringIO
from typing import Literal

from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from ninja import Router

from ember.assessment.assess import answer
from ember.assessment.export import plain, to_json
from ember.balance.sums import PeriodFigures, figures
from ember.basis.calendar import months, whole
from ember.basis.periods import Period
from ember.cost import Cost, Own, carbon_of, own_told, slots_of, supply_said
from ember.description.installation import Carbon
from ember.operation.within import Within
from ember.views.season_summary import season_summary
from ember.views.uses import uses
from server.api.figures import cut_to
from server.api.files import attachment, harmless, written_file
from server.api.fleet import get_system
from server.assessments.cache import find, operation_of, steady
from server.assessments.results import write
from server.assessments.shown import (
    CostShown,
    FigureShown,
    ReckoningShown,
    cost,
    figure,
    known,
    widest,
)

router = Router(tags=["rooms"])


@dataclass(frozen=True)
class MonthShown:
    """A month, or the whole, at the widest level; cost with its bands; by_band : kWh of each of the
    tariff's, over all its prices; carbon : of the electricity [kg CO2], by a described factor."""

    name: str
    start: float
    stop: float
    reckoning: ReckoningShown | None
    electricity: FigureShown | None
    cost: CostShown | None
    by_band: list[float]
    carbon: FigureShown | None


@dataclass(frozen=True)
class PriceShown:
    """One price of the tariff, per kWh with VAT; null where prices come as readings. since : local
    date from which it holds, null for the first."""

    name: str
    price: float | None
    since: str | None
    vat: float


@dataclass(frozen=True)
class UseShown:
    """What the unit did, for how long, what all metered electricity meanwhile was and cost at the
    prices of its moments."""

    name: str
    hours: float
    electricity: FigureShown
    paid: FigureShown | None
    price_paid: float | None


@dataclass(frozen=True)
class MoneyShown:
    """Months of a period and the whole. bands : names in order; prices : every price of the
    tariff; hours_known : whether the readings tell how much fell into each. carbon : of the whole
    [kg CO2], by a described factor, without own solar; carbon_by : its words. uses : what the
    electricity went to. supply : how own solar and a battery are priced, or why they cannot be."""

    local: str
    stale: bool
    level: str | None
    currency: str | None
    bands: list[str]
    prices: list[PriceShown]
    uses: list[UseShown]
    hours_known: bool
    carbon: FigureShown | None
    carbon_by: str | None
    supply: str | None
    months: list[MonthShown]
    total: MonthShown


@router.get("/systems/{pk}/money", response=MoneyShown)
def money(request: HttpRequest, pk: int, start: str, stop: str) -> MoneyShown:
    """Months as a table: electricity, cost, price paid, heat, COP."""
    return money_of(pk, start, stop)


def money_of(pk: int, start: str, stop: str) -> MoneyShown:
    """The months of a period, at whose ends the record analysis is cut."""
    cut = cut_to(get_system(pk), start, stop)
    analysis, period = cut.analysis, cut.period
    parts = figures(analysis, months(period.start, period.stop, analysis.zone))
    total = figures(analysis, [Period("all", period.start, period.stop)])[0]
    tariff, carbon = analysis.installation.tariff, analysis.installation.carbon
    slots = slots_of(tariff) if tariff else ()
    told = own_told(analysis.installation.supply, analysis.segments)
    bands = list(dict.fromkeys(slot.name for slot in slots))
    gave = {row.band for row in total.cost.bands} if total.cost else set()
    bands += [own.value for own in Own if own.value in gave]
    shown = [
        MonthShown(
            f.period.name,
            f.period.start,
            f.period.stop,
            widest(f),
            figure(f.electricity),
            cost(f.cost),
            _by_band(f.cost, bands),
            _carbon(f, carbon),
        )
        for f in [*parts, total]
    ]
    prices = [PriceShown(s.name, s.price, s.since, s.prices.vat) for s in slots]
    last = total.reckonings[-1].level.value if total.reckonings else None
    return MoneyShown(
        local=period.name,
        stale=cut.stale,
        level=last,
        currency=tariff.currency if tariff else None,
        bands=bands,
        prices=prices,
        uses=[
            UseShown(u.state.words, u.hours, known(u.electricity), figure(u.paid), u.price_paid)
            for u in uses(analysis, period)
        ],
        hours_known=analysis.facts.interval == 0 and told,
        carbon=shown[-1].carbon,
        supply=supply_said(analysis.installation, analysis.facts.channels, analysis.segments),
        carbon_by=f"{carbon.kg_per_kwh:g} kg a kWh, {carbon.source}" if carbon else None,
        months=shown[:-1],
        total=shown[-1],
    )


def _carbon(found: PeriodFigures, carbon: Carbon | None) -> FigureShown | None:
    """Of the electricity but own solar."""
    if carbon is None or found.electricity is None:
        return None
    bought = found.electricity
    for row in found.cost.bands if found.cost else ():
        if row.band == Own.SOLAR:
            bought -= row.electricity
    return figure(carbon_of(bought, carbon))


def _by_band(found: Cost | None, bands: list[str]) -> list[float]:
    """What fell into each band, whatever its price was then [kWh]."""
    rows = [row for row in found.bands if not row.on_top] if found else []
    return [sum(row.electricity.value for row in rows if row.band == band) for band in bands]


@router.get("/systems/{pk}/results")
def results(
    request: HttpRequest, pk: int, form: Literal["csv", "xlsx", "parquet"]
) -> HttpResponseBase:
    """One row a month and a local day of the whole record, every figure with its U (k = 2)."""
    system = get_system(pk)
    analysis = find(system).analysis
    return written_file(f"{system.name} results", form, lambda path: write(analysis, form, path))


@router.get("/systems/{pk}/money.csv")
def money_csv(request: HttpRequest, pk: int, start: str, stop: str) -> HttpResponse:
    """The same table as CSV, complete: every figure with its U (k = 2)."""
    found = money_of(pk, start, stop)
    text = StringIO()
    writer = csv.writer(text, lineterminator="\n")
    currency = found.currency or ""
    head = ["month", "heat [kWh]", "U heat [kWh]", "electricity [kWh]", "U electricity [kWh]"]
    head += [f"COP {found.level or ''}".strip(), "U COP", "covered"]
    head += [f"{band} [kWh]" for band in found.bands]
    head += [f"cost [{currency}]", f"U cost [{currency}]", f"standing charge [{currency}]"]
    head += [f"price paid [{currency}/kWh]"]
    head += ["carbon [kg CO2]"] if found.carbon else []
    writer.writerow([harmless(cell) for cell in head])
    for month in [*found.months, found.total]:
        sums, paid = month.reckoning, month.cost
        row: list[object] = [month.name]
        used = sums.electricity if sums else month.electricity
        for one in (sums and sums.heat, used, sums and sums.cop):
            row += [f"{one.value:.4f}", f"{one.U:.4f}"] if one else ["", ""]
        row.append(f"{sums.coverage:.5f}" if sums else f"{paid.covered:.5f}" if paid else "")
        known = found.hours_known
        row += [f"{kwh:.4f}" if known else "" for kwh in month.by_band]
        if paid:
            average = "" if paid.average_price is None else f"{paid.average_price:.5f}"
            row += [f"{paid.total.value:.2f}", f"{paid.total.U:.2f}", f"{paid.standing:.2f}"]
            row.append(average)
        else:
            row += ["", "", "", ""]
        if found.carbon:
            row.append(f"{month.carbon.value:.3f}" if month.carbon else "")
        writer.writerow(row)
    response = HttpResponse(text.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = attachment(f"{get_system(pk).name} months", "csv")
    return response


@router.get("/systems/{pk}/assessment.json")
def assessment(request: HttpRequest, pk: int) -> HttpResponse:
    """Everything the core says about the record, as docs/formats.md describes it."""
    system = get_system(pk)
    analysis, ran = steady(system, lambda found: (found.analysis, operation_of(system, found)))
    period = whole(analysis.start, analysis.stop)
    content = to_json(
        assessment=answer(analysis, ran=ran),
        season=season_summary(Within(analysis, ran, period)),
        installation=plain(analysis.installation),
    )
    return HttpResponse(content, content_type="application/json")
