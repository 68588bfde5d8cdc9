"""A maker's table as it is pasted or typed: read leniently, its usual misreadings caught.

What is read may be wrong in a hundred ways that are no errors of syntax. Nothing is corrected
silently: each doubt says what is odd and, where one reading makes sense of it, offers that.
"""

import csv
import io
import re
from collections.abc import Mapping

from pydantic import ValidationError

from ember.basis.errors import TableError
from ember.basis.quantity import conversion, symbol, unit_named
from ember.description.as_json import sentences
from ember.description.installation import RatedPoint, Speed, TableKind
from ember.rated.entries import (
    AS_WRITTEN,
    TARGET,
    TableDoubt,
    TableEntry,
    TableReading,
    TableSheet,
    cop_of,
)
from ember.rated.misread import against, duplicates, grave, odd, offers

MOST_TEXT, SHEET_MOST_CELLS = 500_000, 20_000  # characters, and cells, of a table
SHEET_LARGEST = 1e9  # number in a cell
FIELDS = {"outdoor": "outdoor", "flow": "flow", "capacity": "capacity_kw", "input": "input_kw"}
WORDS = {
    "outdoor": "outdoor|outside|ambient|source|brine|oat|odb|air temp",
    "flow": "flow|supply|leaving|water|lwt|indoor|room|idb|return air|sink",
    "capacity": "capacity|heating capacity|output|heat|hc|cap|tc",
    "input": "input|power|pi|electric",
    "cop": "cop|eer",
    "speed": "speed|stage|level|frequency|compressor|load|part load|modulation|hz|rps",
    "airflow": "airflow|air flow|cfm",
}  # fmt: skip
SPEEDS = {
    Speed.MINIMUM: "min minimum low least",
    Speed.NOMINAL: "nom nominal rated mid normal",
    Speed.MAXIMUM: "max maximum high full boost",
}


def read_sheet(
    text: str,
    kind: TableKind = TableKind.WATER,
    reading: TableReading = AS_WRITTEN,
    nominal_kw: float | None = None,
) -> TableSheet:
    """Reads a table from pasted cells or CSV text: one row a point, or blocks with the flow
    temperatures across.

    Parameters
    ----------
    nominal_kw : float | None
        capacity of the unit as described [kW], against which a wrong unit shows.

    A header names the columns, each with its unit where it gives one ("capacity [kBtu/h]"). Without
    units °C and kW are taken, and said to be assumed.

    Raises
    ------
    TableError
        for what is far more than a table.

    Source: usual misreadings, common practice; the second law for what cannot be.
    """
    if len(text) > MOST_TEXT or max(map(text.count, "\t;,|\n")) > SHEET_MOST_CELLS:
        raise TableError("rated: that is far more than a table; paste the table alone.")
    lines = [line for line in text.splitlines() if line.strip()]
    remark = re.search(r"^#\s*includes defrost:\s*(yes|no)", text, re.M | re.I)
    includes = None if remark is None else remark.group(1).lower() == "yes"
    cells, mended = _as_rows(_cells([line for line in lines if not line.startswith("#")]))
    if not cells:
        return TableSheet(
            kind=kind,
            entries=(),
            points=(),
            units={},
            assumed=(),
            doubts=(grave("empty", "the rated table is empty.", ()),),
            left_out=(),
            includes_defrost=includes,
        )
    rows, units, problems = _across(cells) if _is_across(cells[0]) else _down(cells)
    units = {**units, **reading.units}
    entries = [_entry(number, values, units, reading) for number, values in rows]
    columns = frozenset(
        name
        for name, field in FIELDS.items()
        if any(getattr(e, field) is not None for e in entries)
    ) | ({"cop"} if any(cop_of(e) is not None for e in entries) else set())
    assumed = tuple(c for c in ("outdoor", "flow", "capacity", "input") if c not in units)
    assumed = tuple(c for c in assumed if any(getattr(e, FIELDS[c]) is not None for e in entries))
    doubts = [*problems, *mended]
    points: list[RatedPoint] = []
    usable: list[TableEntry] = []
    for entry in entries:
        point, problem = _point(entry, columns)
        if point is not None:
            points.append(point)
            usable.append(entry)
        elif problem is not None:
            doubts.append(problem)
    doubts += duplicates(entries)
    strange = odd(entries, kind)
    offered = offers(entries, kind, reading, units, nominal_kw)
    left_out: tuple[int, ...] = ()
    if strange is not None and not strange.grave:
        left_out, offered = strange.rows, []
        row_of = {id(p): e.row for e, p in zip(usable, points, strict=True)}
        points = [p for p in points if row_of[id(p)] not in left_out]
    doubts += offered
    if strange is not None and not offered:
        doubts.append(strange)
    if not any(d.grave for d in doubts):
        doubts += against(entries, kind)
    if len({p.outdoor for p in points}) < 2 and not any(d.grave for d in doubts):
        doubts.append(
            grave(
                "few",
                f"{len(points)} usable points; a table has at least 2: of two outdoor "
                "temperatures.",
                (),
            )
        )
    return TableSheet(
        kind=kind,
        entries=tuple(entries),
        points=tuple(points),
        units={**{c: TARGET[c] for c in assumed}, **units},
        assumed=assumed,
        doubts=tuple(doubts),
        left_out=left_out,
        includes_defrost=includes,
    )


def _cells(lines: list[str]) -> list[list[str]]:
    if not lines:
        return []
    separator = max("\t;,", key=lines[0].count)
    if not any(separator in line for line in lines):
        return [_apart(line) for line in lines]
    if separator == "," and re.search(r"\S {2,}\S", lines[0]):  # a comma inside a header's words
        return [_apart(line) for line in lines]
    try:
        rows = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=separator))
    except csv.Error as error:
        raise TableError(f"rated: the table cannot be taken apart ({error}).") from error
    return [[cell.strip() for cell in row] for row in rows]


def _apart(line: str) -> list[str]:
    """The cells of a line without separators, as a PDF gives it: by wide spaces or bars; else a
    line of numbers by every space, and a header where the next column's name begins."""
    wide = [c for c in re.split(r"\s{2,}|\s*\|\s*", line.strip(" |")) if c]
    if len(wide) > 1:
        return wide
    words = line.split()
    if sum(number_in(word) is not None for word in words) > len(words) / 2:
        return [w for w in words if w not in ("°C", "°F", "kW")]
    cells: list[str] = []
    for word in words:
        if column_of(word)[0] or not cells:
            cells.append(word)
        else:
            cells[-1] = f"{cells[-1]} {word}"
    return cells


def _as_rows(cells: list[list[str]]) -> tuple[list[list[str]], list[TableDoubt]]:
    """A table as a page of print leaves it made whole again: rows that were split, cells that were
    merged over several rows, the header once more on the next page, lines of footnotes. The rows
    keep their numbers; those that go are left empty."""
    if not cells or _is_across(cells[0]):
        return cells, []
    header = cells[0]
    axes = [k for k, cell in enumerate(header) if column_of(cell)[0] in ("outdoor", "flow")]
    made, gone, merged = [header], list[int](), list[int]()
    split = list[int]()
    last = dict[int, str]()
    for number, row in enumerate(cells[1:], 2):
        cells_in = list(row)
        before = made[-1] if len(made) > 1 else []
        numbers = sum(number_in(c) is not None for c in cells_in)
        if cells_in == header or (any(cells_in) and not numbers):
            gone.append(number)
            made.append([])
            continue
        open_ = 0 < len(before) < len(header)
        if open_ and len(before) + len(cells_in) == len(header):
            split.append(number)
            made[-1] = []
            cells_in = before + cells_in
        for k in axes:
            if k < len(cells_in) and cells_in[k]:
                last[k] = cells_in[k]
            elif k < len(cells_in) and numbers and k in last:
                cells_in[k] = last[k]
                merged.append(number)
        made.append(cells_in)
    said = []
    for kind, rows, words in (
        ("merged", merged, "an empty outdoor or flow temperature is that of the row above"),
        ("split", split, "the row goes on in this line; both are read as one"),
        ("remarks", gone, "no number stands in it; it is passed over"),
    ):
        if rows:
            more = f", and {len(rows) - 1} more" if len(rows) > 1 else ""
            said.append(
                TableDoubt(kind, f"row {rows[0]}{more}: {words}.", tuple(rows), False, None, None)
            )
    return made, said


NOTED = r"(?:\s*(?:[*†‡¹²³⁴⁵⁶⁷⁸⁹]+|\(?\d\)))?"  # a footnote's mark behind a number


def number_in(cell: str) -> float | None:
    """The number in a cell, with either decimal sign, a degree letter, a footnote's mark; None for
    none."""
    found = re.fullmatch(rf"[AWBL]?\s*([+\-−–]?\d+(?:[.,]\d+)?)\s*(?:°?[CF])?{NOTED}", cell.strip())
    if found is None:
        return None
    number = float(found.group(1).replace(",", ".").replace("−", "-").replace("–", "-"))
    return number if abs(number) <= SHEET_LARGEST else None


def column_of(header: str) -> tuple[str, str]:
    """The column that a header names, and its unit; empty where it says none."""
    words = re.sub(r"[\[\]()_,/\\]+", " ", header.lower()).strip()
    kind = ""
    for name, alternatives in WORDS.items():
        if any(re.match(rf"{a}\b", words) for a in alternatives.split("|")):
            kind = name
            break
    units = re.findall(r"[\[(]([^\])]+)[\])]", header) + header.replace("_", " ").split()[1:]
    return kind, next((u for one in units if (u := unit_named(one))), "")


def _is_across(first: list[str]) -> bool:
    """Whether the first row gives flow temperatures across, under a corner that names a value."""
    return (
        len(first) >= 3
        and all(number_in(c) is not None for c in first[1:] if c)
        and (column_of(first[0])[0] in ("capacity", "input", "cop"))
    )


Rows = list[tuple[int, dict[str, str]]]


def _down(cells: list[list[str]]) -> tuple[Rows, dict[str, str], list[TableDoubt]]:
    header = [column_of(cell) for cell in cells[0]]
    named = [kind for kind, _ in header]
    lacking = [c for c in ("outdoor", "flow") if c not in named]
    if "capacity" not in named and "cop" not in named:
        lacking.append("capacity or cop")
    problems = []
    if lacking:
        problems.append(
            grave(
                "header",
                f"no column for {', '.join(lacking)}. The header must name outdoor, flow "
                "(or indoor), and capacity, or cop, or both (input in place of one of them).",
                (1,),
            )
        )
    elif "capacity" not in named:
        problems.append(
            TableDoubt(
                "half",
                "no capacity is given: the table is kept for its COP; it says nothing of "
                "capacity and need.",
                (1,),
                False,
                None,
                None,
            )
        )
    elif "cop" not in named and "input" not in named:
        problems.append(
            TableDoubt(
                "half",
                "neither COP nor input is given: the table is kept for its capacity; no "
                "running is compared with it.",
                (1,),
                False,
                None,
                None,
            )
        )
    units: dict[str, str] = {}
    for (kind, unit), cell in zip(header, cells[0], strict=True):
        if kind == "speed" and unit:
            units[kind] = unit
        elif kind and unit and kind in TARGET:
            if conversion(unit, TARGET[kind]) is None:
                problems.append(
                    grave(
                        "unit",
                        f"column '{cell}' has the unit {unit}, which is not of {kind}.",
                        (1,),
                    )
                )
            else:
                units[kind] = unit
    rows = [
        (k, {kind: cell for (kind, _), cell in zip(header, row, strict=False) if kind})
        for k, row in enumerate(cells[1:], 2)
        if any(row)  # none in one that was passed over
    ]
    return rows, units, problems


def _across(cells: list[list[str]]) -> tuple[Rows, dict[str, str], list[TableDoubt]]:
    """Blocks one under the other: a corner that names the value, flow temperatures to its right,
    outdoor temperatures below it."""
    made: dict[tuple[str, str], dict[str, str]] = {}
    where: dict[tuple[str, str], int] = {}
    units: dict[str, str] = {}
    value, flows = "", [""]
    for number, row in enumerate(cells, 1):
        if _is_across(row):
            value, unit = column_of(row[0])
            flows = row[1:]
            if unit:
                units[value] = unit
            continue
        for flow, cell in zip(flows, row[1:], strict=False):
            if cell:
                key = row[0], flow
                where.setdefault(key, number)
                made.setdefault(key, {"outdoor": row[0], "flow": flow})[value] = cell
    for name in ("outdoor", "flow"):
        if any(re.search(r"\d\s*°?F\s*$", cells_of[name]) for cells_of in made.values()):
            units[name] = "degF"
    return [(where[key], values) for key, values in made.items()], units, []


def _entry(
    number: int, values: Mapping[str, str], units: Mapping[str, str], reading: TableReading
) -> TableEntry:
    found: dict[str, float | None] = {}
    unread = {}
    for column in ("outdoor", "flow", "capacity", "input", "cop", "airflow"):
        raw = number_in(values.get(column, ""))
        if raw is None and values.get(column):
            unread[column] = values[column]
        linear = conversion(units[column], TARGET[column]) if column in units else None
        found[column] = raw if raw is None or linear is None else linear[0] * raw + linear[1]
    if found["cop"] is not None:
        found["cop"] /= reading.cop_over
    if reading.swapped:
        found["outdoor"], found["flow"] = found["flow"], found["outdoor"]
    return TableEntry(
        row=number,
        outdoor=found["outdoor"],
        flow=found["flow"],
        capacity_kw=found["capacity"],
        input_kw=found["input"],
        cop=found["cop"],
        speed=_level(values.get("speed", ""), units.get("speed")),
        airflow_m3h=found["airflow"],
        unread=unread,
    )


def _level(cell: str, unit: str | None) -> str:
    """The level of load or speed that a cell names: minimum, nominal, maximum, or a number with
    its unit."""
    word = cell.strip().lower()
    named = next((s for s, names in SPEEDS.items() if word and word in names.split()), None)
    if named is not None or not word:
        return named or Speed.NOMINAL
    number = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*(%|hz|kw|rps)?", word)
    if number is None:
        return cell.strip()[:40]
    written = unit_named(number[2] or "") or unit
    value = float(number[1].replace(",", "."))
    return f"{value:g} {symbol(written)}" if written else f"{value:g}"


def _point(
    entry: TableEntry, columns: frozenset[str] | set[str]
) -> tuple[RatedPoint | None, TableDoubt | None]:
    """The point of a row, or what of the sheet's columns is lacking; neither where its values
    cannot be, which is said elsewhere."""
    cop = cop_of(entry)
    values = {"outdoor": entry.outdoor, "flow": entry.flow}
    values |= {"capacity": entry.capacity_kw} if "capacity" in columns else {}
    values |= {"cop or input": cop} if "cop" in columns else {}
    lacking = [name for name, value in values.items() if value is None]
    if lacking or entry.unread:
        said = [f"{column} is '{cell}', not a number" for column, cell in entry.unread.items()]
        said = said or [f"{', '.join(lacking)} is missing"]
        return None, TableDoubt(
            "missing",
            f"row {entry.row}: {'; '.join(said)}.",
            (entry.row,),
            True,
            "Fill it in, or remove the row.",
            None,
        )
    assert entry.outdoor is not None and entry.flow is not None
    if (
        (cop is None and entry.capacity_kw is None)
        or (cop is not None and not 0.5 < cop < 15)
        or (entry.capacity_kw is not None and entry.capacity_kw <= 0)
    ):
        return None, None
    try:
        point = RatedPoint(
            entry.outdoor, entry.flow, entry.capacity_kw, cop, entry.speed, entry.airflow_m3h
        )
    except ValidationError as error:
        return None, TableDoubt(
            "missing",
            f"row {entry.row}: {sentences(error)}.",
            (entry.row,),
            True,
            "Mend it, or remove the row.",
            None,
        )
    return point, None
