"""A maker's table from CSV."""

import csv
import io
import re
from pathlib import Path

from pydantic import ValidationError

from ember.errors import TableError
from ember.installation import RatedPoint, RatedTable
from ember.quantity import conversion, unit_named

_TARGETS = {"outdoor": "degC", "flow": "degC", "capacity": "kW", "input": "kW", "cop": "fraction"}
_DEFAULT_UNITS = {"outdoor": "degC", "flow": "degC", "capacity": "kW", "input": "kW"}


def read_table(path: Path) -> RatedTable:
    """The rated table in a CSV file. Raises TableError."""
    try:
        text = path.read_text("utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise TableError(f"{path.name}: the rated table cannot be read: {error}.") from error
    return table_from_csv(text, path.name)


def table_from_csv(text: str, name: str) -> RatedTable:
    """A rated table from CSV text.

    One row for each point; columns outdoor, flow, capacity, and cop or input, each with its
    unit in the header (`capacity [kW]`, `outdoor_f`). Lines that begin with # are comments; one
    that says `# includes defrost: no` marks a table without them, else it is taken to include
    them (EN 14511 practice, from memory).

    Raises TableError naming the row.
    """
    includes_defrost = not re.search(r"^#\s*includes defrost:\s*no", text, re.M | re.I)
    lines = [line for line in text.splitlines() if line.strip() and not line.startswith("#")]
    if not lines:
        raise TableError(f"{name}: the rated table is empty.")
    separator = max(";\t,", key=lines[0].count)
    rows = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=separator))
    columns = [_column(header, name) for header in rows[0]]
    kinds = [kind for kind, _ in columns]
    lacking = [k for k in ("outdoor", "flow", "capacity") if k not in kinds]
    if "cop" not in kinds and "input" not in kinds:
        lacking.append("cop or input")
    if lacking:
        raise TableError(
            f"{name}: no column for {', '.join(lacking)}. The header must name outdoor, flow, "
            "capacity, and cop or input."
        )
    points = [_point(row, columns, f"{name}, row {k}") for k, row in enumerate(rows[1:], 2)]
    seen: dict[tuple[float, float], int] = {}
    for k, point in enumerate(points, 2):
        where = (point.outdoor, point.flow)
        if where in seen:
            raise TableError(
                f"{name}, row {k}: the same conditions as row {seen[where]}, outdoor "
                f"{point.outdoor:g} and flow {point.flow:g} °C. Is this another speed? Give one."
            )
        seen[where] = k
    try:
        return RatedTable(points=tuple(points), includes_defrost=includes_defrost)
    except ValidationError as error:
        raise TableError(f"{name}: {error.errors()[0]['msg']}; a table has 4 points.") from error


def _column(header: str, name: str) -> tuple[str, str]:
    words = header.strip().replace("[", " ").replace("]", " ").replace("(", " ").replace(")", " ")
    parts = words.replace("_", " ").lower().split()
    kind = next((k for k in _TARGETS if parts and parts[0].startswith(k)), "")
    if not kind:
        return "", ""
    unit = next((u for p in parts[1:] if (u := unit_named(p))), _DEFAULT_UNITS.get(kind, ""))
    if unit and conversion(unit, _TARGETS[kind]) is None:
        raise TableError(f"{name}: column '{header}' has the unit {unit}, which is not of {kind}.")
    return kind, unit


def _point(row: list[str], columns: list[tuple[str, str]], where: str) -> RatedPoint:
    values: dict[str, float] = {}
    for cell, (kind, unit) in zip(row, columns, strict=False):
        if not kind:
            continue
        try:
            value = float(cell.replace(",", "."))
        except ValueError as error:
            raise TableError(f"{where}: {kind} is '{cell}', not a number.") from error
        linear = conversion(unit, _TARGETS[kind]) if unit else None
        values[kind] = value if linear is None else linear[0] * value + linear[1]
    try:
        cop = values["cop"] if "cop" in values else values["capacity"] / values["input"]
        point = RatedPoint(values["outdoor"], values["flow"], values["capacity"], cop)
    except (KeyError, ZeroDivisionError) as error:
        raise TableError(f"{where}: a value is missing or zero.") from error
    except ValidationError as error:
        raise TableError(
            f"{where}: capacity {values['capacity']:.3g} kW at COP {cop:.3g} cannot be. Is a "
            "column in kBtu/h, or the decimal sign lost? Give the unit in the header."
        ) from error
    return point
