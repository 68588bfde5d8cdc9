"""Tables that are no text: spreadsheets, Parquet, Arrow and JSON lines, made into one.

From then on there is one road: the same header, clock, columns and row numbers as in a CSV file.
Row numbers are those of the sheet; of formats without rows of their own, record k is row k + 1.
"""

import csv
import io
import json
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv as arrow_csv
from pyarrow import ipc, parquet

from ember.errors import IntakeError

LARGEST = 512 << 20  # bytes that a packed file may unpack to
MOST_CELLS = 20_000_000  # of a spreadsheet
SAMPLE = 200  # rows in which times of day are looked for
MOST_RATIO = 200  # unpacked to packed, above which an archive is a trap


@dataclass(frozen=True)
class Source:
    """A table as text. what : it was before, in words; None for a text file."""

    buffer: pa.Buffer
    what: str | None


def spreadsheet(path: Path) -> Source:
    """The fullest sheet of an XLSX or ODS file. Raises IntakeError."""
    from python_calamine import CalamineError, CalamineWorkbook

    name = path.name
    _check_archive(path)
    try:
        book = CalamineWorkbook.from_path(str(path))
        sheets = [book.get_sheet_by_name(title) for title in book.sheet_names]
        sheets = [sheet for sheet in sheets if sheet.total_height and sheet.total_width]
        if not sheets:
            raise IntakeError(f"{name}: no sheet of the spreadsheet holds anything.")
        sheet = max(sheets, key=lambda s: s.total_height * s.total_width)
        if sheet.total_height * sheet.total_width > MOST_CELLS:
            raise IntakeError(
                f"{name}: sheet '{sheet.name}' has {sheet.total_height:,} × {sheet.total_width:,} "
                f"cells; at most {MOST_CELLS:,} are read. Export the readings as CSV."
            )
        rows = sheet.to_python(skip_empty_area=False)
    except (CalamineError, zipfile.BadZipFile, OSError, ValueError) as error:
        raise IntakeError(
            f"{name}: the spreadsheet cannot be read ({error}). Save it again as XLSX, ODS or CSV."
        ) from error
    others = len(book.sheet_names) - 1
    more = f" ({others} other{'s' * (others > 1)} not read)" if others else ""
    return Source(_text(rows), f"sheet '{sheet.name}' of a spreadsheet{more}")


def check_zip(path: Path) -> list[str]:
    """The names in a zip archive; refuses one that would unpack to far more than it is.

    Raises IntakeError.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            size = sum(entry.file_size for entry in archive.infolist())
            names = archive.namelist()
    except (zipfile.BadZipFile, OSError) as error:
        raise IntakeError(
            f"{path.name}: the file begins like a spreadsheet or zip archive and is damaged."
        ) from error
    packed = max(path.stat().st_size, 1)
    if size > LARGEST or (size > 100 << 20 and size > MOST_RATIO * packed):
        raise IntakeError(
            f"{path.name}: it would unpack to {size / 1e6:,.0f} MB, {size / packed:,.0f} times its "
            f"size; at most {LARGEST >> 20} MB are read. Send it in parts; readings as CSV."
        )
    return names


def _check_archive(path: Path) -> None:
    names = check_zip(path)
    if not any(n in names for n in ("xl/workbook.xml", "content.xml", "xl/workbook.bin")):
        raise IntakeError(
            f"{path.name}: this is a zip archive, not a log. Unpack it and use the file inside; an "
            "archive of installations goes into the Fleet."
        )


def _text(rows: Sequence[Sequence[Any]]) -> pa.Buffer:
    """Rows as CSV text, one line each. Cell by cell only where a cell would not stand as it is."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    if any(isinstance(cell, timedelta) for row in rows[:SAMPLE] for cell in row):
        rows = [[_cell(cell) for cell in row] for row in rows]
    writer.writerows(rows)
    text = out.getvalue()
    if text.count("\n") != len(rows):  # a line break within a cell
        return _text([[_cell(cell) for cell in row] for row in rows])
    return pa.py_buffer(text.encode())


def _cell(cell: Any) -> Any:
    """A cell without line breaks; a time of day that some files keep as a length of time."""
    if isinstance(cell, timedelta):
        return str(cell).rpartition(" ")[2]
    return " ".join(cell.split("\n")) if isinstance(cell, str) else cell


def parquet_table(path: Path) -> Source:
    """A Parquet file. Raises IntakeError."""
    try:
        return Source(as_csv(parquet.read_table(path), path.name), "Parquet")
    except (pa.ArrowInvalid, pa.ArrowNotImplementedError, OSError) as error:
        raise IntakeError(f"{path.name}: the Parquet file cannot be read ({error}).") from error


def arrow_table(path: Path) -> Source:
    """An Arrow IPC file or stream. Raises IntakeError."""
    try:
        with pa.memory_map(str(path)) as source:
            is_file = source.read(6) == b"ARROW1"
            source.seek(0)
            reader = ipc.open_file(source) if is_file else ipc.open_stream(source)
            return Source(as_csv(reader.read_all(), path.name), "Arrow IPC")
    except (pa.ArrowInvalid, pa.ArrowNotImplementedError, OSError) as error:
        raise IntakeError(f"{path.name}: the Arrow file cannot be read ({error}).") from error


def json_lines(content: bytes, name: str) -> Source:
    """JSON lines, or one JSON array of objects. Raises IntakeError naming the row."""
    text = content.decode("utf-8-sig", "replace")
    records: list[Any] = []
    if text.lstrip().startswith("["):
        try:
            records = json.loads(text)
        except json.JSONDecodeError as error:
            raise IntakeError(
                f"{name}: row {error.lineno}: {error.msg}; this is no JSON."
            ) from error
    else:
        for k, line in enumerate(text.splitlines(), 1):
            if not line.strip():
                continue
            try:
                records.append(json.loads(line))
            except json.JSONDecodeError as error:
                raise IntakeError(
                    f"{name}: row {k}: {error.msg}; each row must be one JSON object."
                ) from error
    if not records or not all(isinstance(record, dict) for record in records):
        raise IntakeError(f"{name}: the JSON holds no list of objects, one for each time.")
    headers = list(dict.fromkeys(key for record in records for key in record))
    for header in headers:
        nested = next((r for r in records if isinstance(r.get(header), dict | list)), None)
        if nested is not None:
            raise IntakeError(
                f"{name}: '{header}' holds a list or an object; each value must be a number, a "
                "text or null."
            )
    rows = [headers, *([r.get(h) for h in headers] for r in records)]
    return Source(_text(rows), "JSON lines")


def as_csv(table: pa.Table, name: str) -> pa.Buffer:
    """An Arrow table as CSV text. Raises IntakeError for columns that are no plain values."""
    if table.nbytes > LARGEST:
        raise IntakeError(f"{name}: larger than {LARGEST >> 20} MB unpacked. Send it in parts.")
    columns = {}
    for field, column in zip(table.schema, table.columns, strict=True):
        kind = field.type
        if pa.types.is_nested(kind):
            raise IntakeError(f"{name}: column '{field.name}' holds lists or objects, not numbers.")
        if pa.types.is_dictionary(kind):
            column = column.cast(kind.value_type)
        if pa.types.is_timestamp(kind):
            column = pc.strftime(column.cast(pa.timestamp("ms", kind.tz)), "%Y-%m-%dT%H:%M:%S")
            if kind.tz:
                column = pc.binary_join_element_wise(column, "Z", "")
        elif pa.types.is_boolean(kind):
            column = column.cast(pa.int8())
        columns[field.name] = column
    sink = pa.BufferOutputStream()
    arrow_csv.write_csv(pa.table(columns), sink, arrow_csv.WriteOptions(quoting_style="needed"))
    return sink.getvalue()
