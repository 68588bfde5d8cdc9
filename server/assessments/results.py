"""Results out: one row a local day and one a month, as CSV, XLSX or Parquet."""

from collections.abc import Iterator
from pathlib import Path

import pyarrow as pa
import xlsxwriter
from pyarrow import csv, parquet

from ember.assessment.record_analysis import RecordAnalysis
from ember.balance.days import days
from ember.balance.sums import figures
from ember.basis.calendar import months
from ember.basis.clock import iso_local
from ember.basis.quantity import Estimate
from ember.season import SeasonSeen
from ember.views.season_summary import season_of_months

Row = dict[str, str | float | None]
KIND = ("period", "from", "to", "level", "kind of day")
RESULTS_FIGURES = ("electricity", "heat", "cop", "performance_ratio", "cost")
UNITS = {"electricity": "kWh", "heat": "kWh"}


def columns(currency: str | None) -> list[str]:
    """The headers; U is k = 2."""
    units = {**UNITS, "cost": currency or "no tariff"}
    named = [f"{name} [{units[name]}]" if name in units else name for name in RESULTS_FIGURES]
    pairs = [header for name in named for header in (name, f"U of {name}")]
    return [*KIND, *pairs, "coverage", "defrosts"]


def rows(analysis: RecordAnalysis) -> Iterator[Row]:
    """Every month, then every local day of a record."""
    zone, installation = analysis.zone, analysis.installation
    heads = columns(installation.tariff.currency if installation.tariff else None)

    def row(
        kind: tuple[str | None, ...], found: tuple[Estimate | None, ...], *rest: float | None
    ) -> Row:
        cells: list[str | float | None] = list(kind)
        for estimate in found:
            cells += [None, None] if estimate is None else [estimate.value, estimate.U]
        return dict(zip(heads, [*cells, *rest], strict=True))

    periods = months(analysis.start, analysis.stop, zone)
    for period, month in zip(periods, figures(analysis, periods), strict=True):
        begin, end = (iso_local(t, zone) for t in (period.start, period.stop))
        paid = month.cost.total if month.cost else None
        if not month.reckonings:
            yield row((period.name, begin, end, None, None), (None,) * 4 + (paid,), None, None)
            continue
        sums = month.reckonings[-1]
        yield row(
            (period.name, begin, end, sums.level.value, None),
            (sums.electricity, sums.heat, sums.cop, None, paid),
            sums.coverage,
            None,
        )
    level = next(
        (p.level.value for p in reversed(analysis.facts.combinations.values()) if p.reason is None),
        None,
    )
    for day in days(analysis):
        begin, end = (iso_local(t, zone) for t in (day.start, day.stop))
        yield row(
            (day.day, begin, end, level, day.kind.value),
            (day.electricity, day.heat, day.cop, day.ratio, None),
            day.coverage,
            day.defrosts,
        )


def table(analysis: RecordAnalysis) -> pa.Table:
    """All rows, with the name, the zone and the core's version as metadata."""
    installation = analysis.installation
    made = pa.Table.from_pylist(list(rows(analysis)))
    about = {
        "installation": installation.name,
        "zone": installation.zone,
        "core": analysis.facts.core,
    }
    return made.replace_schema_metadata(about)


def write(analysis: RecordAnalysis, form: str, path: Path) -> None:
    """Writes them to a file. form : csv, xlsx or parquet."""
    write_table(table(analysis), form, path, "Results")


def write_table(made: pa.Table, form: str, path: Path, title: str) -> None:
    """Writes a table to a file. form : csv, xlsx or parquet; title : of the sheet."""
    if form == "parquet":
        parquet.write_table(made, path, compression="zstd")
    elif form == "csv":
        csv.write_csv(made, path, csv.WriteOptions(quoting_style="needed"))
    else:
        options = {"strings_to_formulas": False, "strings_to_urls": False}
        with xlsxwriter.Workbook(path, options) as book:
            sheet = book.add_worksheet(title)
            sheet.write_row(0, 0, made.column_names)
            sheet.freeze_panes(1, 1)
            for k, row in enumerate(made.to_pylist(), 1):
                sheet.write_row(k, 0, list(row.values()))


def season_table(seen: SeasonSeen, currency: str | None) -> pa.Table:
    """The months of a season and the whole, each figure with its U (k = 2)."""
    level = seen.level.value if seen.level else ""
    rows: list[Row] = []
    for month in season_of_months(seen):
        row: Row = {"period": month.name, "level": level}
        figures = {
            "heat [kWh]": month.heat,
            "electricity [kWh]": month.electricity,
            "COP": month.cop,
            "heat with what lacks [kWh]": month.filled.heat if month.filled else None,
            "electricity with what lacks [kWh]": month.filled.electricity if month.filled else None,
            "COP with what lacks": month.filled.cop if month.filled else None,
            f"cost [{currency or 'no tariff'}]": month.cost.total if month.cost else None,
        }
        for name, one in figures.items():
            row |= {name: one.value if one else None, f"U of {name}": one.U if one else None}
        days = month.degree_days
        row |= {
            "coverage": month.coverage,
            "outdoor [degC]": month.outdoor,
            f"degree-days below {days.base:g} degC [K d]" if days else "degree-days": (
                days.heating if days else None
            ),
            "price paid": month.cost.average_price if month.cost else None,
        }
        rows.append(row)
    heads = {name: None for row in rows for name in row}
    return pa.Table.from_pylist([{**heads, **row} for row in rows])
