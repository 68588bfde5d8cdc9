"""Tables that are no plain text, made into one: how each format is read.

From then on there is one road: the same header, clock, columns and row numbers as in a CSV file.
Row numbers are those of the sheet; of formats without rows of their own, record k is row k + 1.
"""

import csv
import gzip
import io
import json
import re
import zipfile
import zlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any, BinaryIO

import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv as arrow_csv
from pyarrow import ipc, parquet

from ember.basis.errors import IntakeError

FORMATS_LARGEST = 512 << 20  # bytes that a packed file may unpack to
FORMATS_MOST_CELLS = 8_000_000  # of a spreadsheet: a year of minutes in fifteen columns
MOST_COLUMNS = 500  # of any table; keys of JSON objects
MOST_RATIO = 200  # unpacked to packed, above which an archive is a trap
CHUNK = 1 << 20  # unpacked at once [bytes]
FORMATS_HEAD = 1 << 16  # looked at to tell what a file is [bytes]
_FORMATS_MAGIC = {
    b"PK\x03\x04": "spreadsheet", b"PAR1": "parquet", b"ARROW1": "arrow",
    b"\xff\xff\xff\xff": "arrow", b"\x1f\x8b": "gzip", b"\xff\xfe": "utf-16", b"\xfe\xff": "utf-16",
}  # fmt: skip
_JSON = (b'{"', b"{ ", b"{\n", b"{\r", b"[{", b"[\n", b"[\r", b"[ ")
_WORDS: frozenset[type] = frozenset((str, timedelta))  # cells that are not written as they are
_DIMENSION = re.compile(rb'<dimension ref="([A-Z]{1,3})(\d{1,7}):([A-Z]{1,3})(\d{1,7})"')


@dataclass(frozen=True)
class Source:
    """A table as text.

    Attributes
    ----------
    what : str | None
        it was before, in words; None for a text file.
    """

    buffer: pa.Buffer
    what: str | None


def kind_of(head: bytes) -> str | None:
    """What a file must be unpacked as, by its first bytes; None for plain text."""
    for magic, kind in _FORMATS_MAGIC.items():
        if head.startswith(magic):
            return kind
    return "json" if head.lstrip(b"\xef\xbb\xbf \t\r\n")[:2] in _JSON else None


def to_text(path: Path, kind: str, out: BinaryIO) -> str | None:
    """Writes a file's table as text, UTF-8.

    Returns
    -------
    what the file was, in words; None where it was text too. Raises IntakeError.
    """
    return _READERS[kind](path, out)


# --- spreadsheets ---------------------------------------------------------------------------


def _spreadsheet(path: Path, out: BinaryIO) -> str:
    """The fullest sheet of an XLSX or ODS file."""
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
        _few_enough(name, sheet.name, sheet.total_height, sheet.total_width)
        lead = [""] * (sheet.start or (0, 0))[1]  # rows above the first are given, columns are not
        _write_rows(([*lead, *row] for row in sheet.iter_rows()), out)
    except (CalamineError, zipfile.BadZipFile, OSError, ValueError) as error:
        raise IntakeError(
            f"{name}: the spreadsheet cannot be read ({error}). Save it again as XLSX, ODS or CSV."
        ) from error
    others = len(book.sheet_names) - 1
    more = f" ({others} other{'s' * (others > 1)} not read)" if others else ""
    return f"sheet '{sheet.name}' of a spreadsheet{more}"


def check_zip(path: Path) -> list[str]:
    """The names in a zip archive; refuses one that would unpack to far more than it is.

    Raises IntakeError.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            size = sum(entry.file_size for entry in archive.infolist())
            names = archive.namelist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
        raise IntakeError(
            f"{path.name}: the file begins like a spreadsheet or zip archive and is damaged."
        ) from error
    packed = max(path.stat().st_size, 1)
    if size > FORMATS_LARGEST or (size > 100 << 20 and size > MOST_RATIO * packed):
        raise IntakeError(
            f"{path.name}: it would unpack to {size / 1e6:,.0f} MB, {size / packed:,.0f} times its "
            f"size; at most {FORMATS_LARGEST >> 20} MB are read. Send it in parts; readings as CSV."
        )
    return names


def _check_archive(path: Path) -> None:
    names = check_zip(path)
    if not any(n in names for n in ("xl/workbook.xml", "content.xml", "xl/workbook.bin")):
        raise IntakeError(
            f"{path.name}: this is a zip archive, not a log. Unpack it and use the file inside; an "
            "archive of installations goes into the Fleet."
        )
    try:
        with zipfile.ZipFile(path) as archive:
            for sheet in (n for n in names if n.startswith("xl/worksheets/")):
                with archive.open(sheet) as part:
                    found = _DIMENSION.search(part.read(FORMATS_HEAD))
                if found:
                    left, top, right, bottom = found.groups()
                    height = int(bottom) - int(top) + 1
                    width = _column(right) - _column(left) + 1
                    _few_enough(path.name, Path(sheet).stem, height, width)
    except (zipfile.BadZipFile, zlib.error, OSError, EOFError, RuntimeError) as error:
        raise IntakeError(
            f"{path.name}: the spreadsheet is damaged or locked with a password ({error}). Save it "
            "again, without a password."
        ) from error


def _few_enough(name: str, sheet: str, height: int, width: int) -> None:
    """Raises IntakeError for more cells than are read: before they are laid out."""
    if height * width > FORMATS_MOST_CELLS:
        raise IntakeError(
            f"{name}: sheet '{sheet}' has {height:,} × {width:,} cells; at most "
            f"{FORMATS_MOST_CELLS:,} are "
            "read. Are there cells far outside the table? Export the readings as CSV."
        )


def _column(letters: bytes) -> int:
    """The number of a column, from 1."""
    number = 0
    for letter in letters:
        number = 26 * number + letter - ord("A") + 1
    return number


def _write_rows(rows: Iterable[Sequence[Any]], out: BinaryIO) -> None:
    """Rows as CSV text, one line each."""
    text = io.TextIOWrapper(out, "utf-8", errors="replace", newline="")
    writer = csv.writer(text, lineterminator="\n")
    writer.writerows(
        row if _WORDS.isdisjoint(map(type, row)) else [_cell(cell) for cell in row] for row in rows
    )
    text.flush()
    text.detach()


def _cell(cell: Any) -> Any:
    """A cell without line breaks; a time of day that some files keep as a length of time."""
    if isinstance(cell, timedelta):
        return str(cell).rpartition(" ")[2]
    return " ".join(cell.splitlines()) if isinstance(cell, str) else cell


# --- Parquet and Arrow ----------------------------------------------------------------------

_BROKEN = (pa.ArrowException, OSError, ValueError, KeyError, OverflowError)


def _parquet(path: Path, out: BinaryIO) -> str:
    try:
        with parquet.ParquetFile(path) as file:
            about = file.metadata
            groups = [about.row_group(k) for k in range(about.num_row_groups)]
            size = max(sum(g.total_byte_size for g in groups), 8 * about.num_rows)
            _small_enough(path.name, size, about.num_columns)
            as_csv(file.read(), path.name, out)
    except MemoryError:
        raise
    except _BROKEN as error:
        raise IntakeError(f"{path.name}: the Parquet file cannot be read ({error}).") from error
    return "Parquet"


def _arrow(path: Path, out: BinaryIO) -> str:
    try:
        with pa.memory_map(str(path)) as source:
            is_file = source.read(6) == b"ARROW1"
            source.seek(0)
            reader = ipc.open_file(source) if is_file else ipc.open_stream(source)
            _small_enough(path.name, 0, len(reader.schema))
            as_csv(reader.read_all(), path.name, out)
    except MemoryError:
        raise
    except _BROKEN as error:
        raise IntakeError(f"{path.name}: the Arrow file cannot be read ({error}).") from error
    return "Arrow IPC"


def _small_enough(name: str, size: int, columns: int) -> None:
    """Raises IntakeError for a table that is too large, before it is read."""
    if size > FORMATS_LARGEST:
        raise IntakeError(
            f"{name}: larger than {FORMATS_LARGEST >> 20} MB unpacked. Send it in parts."
        )
    if columns > MOST_COLUMNS:
        raise IntakeError(f"{name}: {columns:,} columns; a log has at most {MOST_COLUMNS}.")


def as_csv(table: pa.Table, name: str, out: BinaryIO | pa.BufferOutputStream) -> None:
    """An Arrow table as CSV text. Raises IntakeError for columns that are no plain values."""
    _small_enough(name, table.nbytes, table.num_columns)
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
    options = arrow_csv.WriteOptions(quoting_style="needed")
    arrow_csv.write_csv(pa.table(columns), out, options)


# --- JSON -----------------------------------------------------------------------------------


def _json(path: Path, out: BinaryIO) -> str:
    return json_text(path.read_bytes(), path.name, out)


def json_text(content: bytes, name: str, out: BinaryIO) -> str:
    """JSON lines, or one JSON array of objects. Raises IntakeError naming the row."""
    text = content.decode("utf-8-sig", "replace")
    records = _array(text, name) if text.lstrip().startswith("[") else _lines(text, name)
    headers: dict[str, None] = {}
    for k, record in enumerate(records, 1):
        if not isinstance(record, dict):
            raise IntakeError(f"{name}: the JSON holds no list of objects, one for each time.")
        for key, value in record.items():
            if isinstance(value, dict | list):
                raise IntakeError(
                    f"{name}: '{key[:80]}' holds a list or an object; each value must be a number, "
                    "a text or null."
                )
            headers.setdefault(key)
        if len(headers) > MOST_COLUMNS:
            raise IntakeError(
                f"{name}: record {k}: more than {MOST_COLUMNS} different keys. Each object must "
                "hold the readings of one time, with a key for each channel."
            )
    if not headers:
        raise IntakeError(f"{name}: the JSON holds no list of objects, one for each time.")
    rows = ([r.get(h) for h in headers] for r in records)
    _write_rows([list(headers)], out)
    _write_rows(rows, out)
    return "JSON lines"


def _array(text: str, name: str) -> list[Any]:
    try:
        found: list[Any] = json.loads(text)
    except json.JSONDecodeError as error:
        raise IntakeError(f"{name}: row {error.lineno}: {error.msg}; this is no JSON.") from error
    except (RecursionError, ValueError) as error:
        raise IntakeError(f"{name}: this is no list of readings ({_why(error)}).") from error
    return found


def _lines(text: str, name: str) -> list[Any]:
    records = []
    for k, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            records.append(json.loads(line))
        except (RecursionError, ValueError) as error:
            raise IntakeError(
                f"{name}: row {k}: {_why(error)}; each row must be one JSON object."
            ) from error
    return records


def _why(error: Exception) -> str:
    if isinstance(error, RecursionError):
        return "lists or objects within each other without end"
    return getattr(error, "msg", None) or "a number of thousands of digits"


# --- packed and recoded text ----------------------------------------------------------------


def _gzip(path: Path, out: BinaryIO) -> str | None:
    most = min(FORMATS_LARGEST, max(100 << 20, 1000 * path.stat().st_size))
    size = 0
    head = b""
    try:
        with gzip.open(path) as file:
            while chunk := file.read(CHUNK):
                head = head or chunk[:FORMATS_HEAD]
                size += len(chunk)
                if size > most:
                    raise IntakeError(
                        f"{path.name}: unpacked it is larger than {FORMATS_LARGEST >> 20} MB "
                        "or a thousand "
                        "times its size; that is not read. Send it in parts."
                    )
                out.write(chunk)
    except (EOFError, zlib.error, OSError) as error:
        raise IntakeError(
            f"{path.name}: the gzip file breaks off before its end or is damaged; nothing was "
            "read. Copy or export it again."
        ) from error
    if not head.strip():
        raise IntakeError(f"{path.name}: the gzip file holds nothing. Export the log again.")
    inside = kind_of(head)
    if inside is None:
        return None
    if inside not in ("json", "utf-16"):
        raise IntakeError(f"{path.name}: the gzip file holds no text. Unpack it and use that file.")
    out.flush()
    content = Path(out.name).read_bytes()
    out.seek(0)
    out.truncate()
    if inside == "json":
        return json_text(content, path.name, out)
    out.write(_recoded(content, path.name))
    return None


def _utf16(path: Path, out: BinaryIO) -> None:
    out.write(_recoded(path.read_bytes(), path.name))


def _recoded(content: bytes, name: str) -> bytes:
    try:
        return content.decode("utf-16").encode()
    except UnicodeError as error:
        where = f", from byte {error.start}" if isinstance(error, UnicodeDecodeError) else ""
        raise IntakeError(
            f"{name}: the file says it is UTF-16 and is not{where}. Save it as UTF-8."
        ) from error


_READERS: dict[str, Callable[[Path, BinaryIO], str | None]] = {
    "spreadsheet": _spreadsheet, "parquet": _parquet, "arrow": _arrow, "json": _json,
    "gzip": _gzip, "utf-16": _utf16,
}  # fmt: skip
