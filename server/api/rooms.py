"""Rating and Money: the whole of a period, in tables and over the weather."""

import csv
from dataclasses import dataclass
from io import StringIO
from typing import Literal

from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from ninja import Router

from ember.assess import answer
from ember.curves import over_weather
from ember.export import plain, to_json
from ember.period import Period
from ember.season import months
from ember.sums import compared_between, figures, judge
from server.analysis.keep import cut_at, find
from server.analysis.results import write
from server.analysis.shown import (
    CheckShown,
    ComparisonShown,
    CostShown,
    FigureShown,
    FindingShown,
    ReckoningShown,
    VerdictShown,
    check,
    comparison,
    cost,
    finding,
    known,
    reckoning,
    verdict,
    widest,
)
from server.api.files import attachment, harmless, written_file
from server.api.fleet import get_system
from server.api.running import span_of

router = Router(tags=["rooms"])


@dataclass(frozen=True)
class PointShown:
    """A point of the maker's table [degC, kW]."""

    outdoor: float
    flow: float
    capacity_kw: float
    cop: float


@dataclass(frozen=True)
class TableShown:
    """The maker's table."""

    points: list[PointShown]
    includes_defrost: bool
    tolerance: float


@dataclass(frozen=True)
class BinShown:
    """Compared running in a band of outdoor temperature [degC]; flow : mean [degC]."""

    low: float
    high: float
    flow: float | None
    hours: float
    measured: ReckoningShown
    rated: FigureShown
    ratio: FigureShown


@dataclass(frozen=True)
class HoursShown:
    """Each hour of compared running: its instant, mean outdoor temperature [degC], COPs."""

    start: list[float]
    outdoor: list[float]
    measured: list[float]
    rated: list[float]


@dataclass(frozen=True)
class RatingShown:
    """Measured against rated over a period. below : the limit of the verdict."""

    local: str
    stale: bool
    table: TableShown | None
    comparison: ComparisonShown | None
    why_none: str | None
    verdict: VerdictShown
    below: float
    bins: list[BinShown]
    hours: HoursShown
    findings: list[FindingShown]
    checks: list[CheckShown]


@dataclass(frozen=True)
class MonthShown:
    """A month, or the whole, at the widest level; cost with its bands."""

    name: str
    start: float
    stop: float
    reckoning: ReckoningShown | None
    cost: CostShown | None


@dataclass(frozen=True)
class MoneyShown:
    """Months of a period and the whole. bands : names in order, with their prices."""

    local: str
    stale: bool
    level: str | None
    currency: str | None
    bands: list[str]
    prices: list[float]
    months: list[MonthShown]
    total: MonthShown


@router.get("/systems/{pk}/rating", response=RatingShown)
def rating(request: HttpRequest, pk: int, start: str, stop: str) -> RatingShown:
    """Measured COP over outdoor temperature against the table, and the verdict."""
    system = get_system(pk)
    found = find(system)
    period = span_of(found.survey, start, stop)
    surveyed = cut_at(system, found, (period.start, period.stop))
    compared = compared_between(surveyed, period)
    bins, hours = over_weather(surveyed, period)
    table = surveyed.installation.rated
    shown = None
    if table is not None:
        points = [PointShown(p.outdoor, p.flow, p.capacity_kw, p.cop) for p in table.points]
        shown = TableShown(points, table.includes_defrost, table.tolerance)
    assessed = answer(surveyed, period.start, period.stop)
    return RatingShown(
        period.name, found.stale, shown, comparison(compared.comparison),
        None if compared.comparison else compared.why_none,
        verdict(judge(surveyed, compared, period)),
        surveyed.installation.thresholds.below_rated,
        [
            BinShown(
                b.low, b.high, b.flow, b.comparison.hours, reckoning(b.comparison.measured),
                known(b.comparison.rated_cop), known(b.comparison.ratio),
            )
            for b in bins
        ],
        HoursShown(
            [h.start for h in hours], [h.outdoor for h in hours],
            [h.measured for h in hours], [h.rated for h in hours],
        ),
        [finding(f) for f in assessed.findings],
        [check(c) for c in surveyed.facts.checks],
    )  # fmt: skip


@router.get("/systems/{pk}/money", response=MoneyShown)
def money(request: HttpRequest, pk: int, start: str, stop: str) -> MoneyShown:
    """Months as a table: electricity, cost, price paid, heat, COP."""
    return money_of(pk, start, stop)


def money_of(pk: int, start: str, stop: str) -> MoneyShown:
    """The months of a period, at whose ends the survey is cut."""
    system = get_system(pk)
    found = find(system)
    period = span_of(found.survey, start, stop)
    surveyed = cut_at(system, found, (period.start, period.stop))
    parts = figures(surveyed, months(period.start, period.stop, surveyed.zone))
    total = figures(surveyed, [Period("all", period.start, period.stop)])[0]
    tariff = surveyed.installation.tariff
    shown = [
        MonthShown(f.period.name, f.period.start, f.period.stop, widest(f), cost(f.cost))
        for f in [*parts, total]
    ]
    bands = ([tariff.name] + [b.name for b in tariff.bands]) if tariff else []
    prices = ([tariff.price] + [b.price for b in tariff.bands]) if tariff else []
    last = total.reckonings[-1].level.value if total.reckonings else None
    return MoneyShown(
        period.name, found.stale, last, tariff.currency if tariff else None, bands, prices,
        shown[:-1], shown[-1],
    )  # fmt: skip


@router.get("/systems/{pk}/results")
def results(
    request: HttpRequest, pk: int, form: Literal["csv", "xlsx", "parquet"]
) -> HttpResponseBase:
    """One row a month and a local day of the whole record, every figure with its U (k = 2)."""
    system = get_system(pk)
    surveyed = find(system).survey
    return written_file(f"{system.name} results", form, lambda path: write(surveyed, form, path))


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
    writer.writerow([harmless(cell) for cell in head])
    for month in [*found.months, found.total]:
        sums, paid = month.reckoning, month.cost
        row: list[object] = [month.name]
        for figure in (sums and sums.heat, sums and sums.electricity, sums and sums.cop):
            row += [f"{figure.value:.4f}", f"{figure.U:.4f}"] if figure else ["", ""]
        row.append(f"{sums.coverage:.5f}" if sums else "")
        used = {band.band: band.electricity.value for band in paid.bands} if paid else {}
        row += [f"{used.get(band, 0.0):.4f}" for band in found.bands]
        if paid:
            average = "" if paid.average_price is None else f"{paid.average_price:.5f}"
            row += [f"{paid.total.value:.2f}", f"{paid.total.U:.2f}", f"{paid.standing:.2f}"]
            row.append(average)
        else:
            row += ["", "", "", ""]
        writer.writerow(row)
    response = HttpResponse(text.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = attachment(f"{get_system(pk).name} months", "csv")
    return response


@router.get("/systems/{pk}/assessment.json")
def assessment(request: HttpRequest, pk: int) -> HttpResponse:
    """Everything the core says about the record, as docs/formats.md describes it."""
    system = get_system(pk)
    surveyed = find(system).survey
    content = to_json(assessment=answer(surveyed), installation=plain(surveyed.installation))
    return HttpResponse(content, content_type="application/json")
