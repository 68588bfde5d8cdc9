"""How a text file is written: encoding, separator, header, decimal sign."""

import csv
import errno
import io
import re
from collections import Counter
from dataclasses import dataclass
from pathlib import Path

import pyarrow as pa

from ember.basis.errors import IntakeError
from ember.basis.quantity import unit_named
from ember.intake.weather import is_weather, weather_csv
from ember.unpacked import Source, kind_of, unpacked
from ember.unpacked.formats import FORMATS_HEAD, MOST_COLUMNS

SAMPLE_ROWS = 200
SEPARATORS = {";": "semicolon", "\t": "tab", "|": "bar", ",": "comma"}
NULLS = ["", "NaN", "nan", "NAN", "NA", "N/A", "n/a", "null", "NULL", "None", "-", "--", "---",
         "#N/A", "unknown", "unavailable", "?"]  # fmt: skip
_DIALECT_MAGIC = {
    b"\x89PNG": "a PNG picture",
    b"\xff\xd8\xff": "a JPEG picture",
    b"GIF8": "a GIF picture",
    b"%PDF": "a PDF document",
    b"\xd0\xcf\x11\xe0": "an old Office document",
    b"SQLite": "an SQLite database",
}
NUMBER = re.compile(r"^[+-]?(\d+[.,]?\d*|[.,]\d+)([eE][+-]?\d+)?$")
_COMMA_NUMBER = re.compile(r"^[+-]?\d+,\d+$")
TIMELIKE = re.compile(r"\d{1,4}[-./]\d{1,2}[-./]\d{1,4}|\d{1,2}:\d\d")


@dataclass(frozen=True, slots=True)
class Dialect:
    """How a log is written.

    Attributes
    ----------
    header_row : int
        1-based
    data_row : int
        first row of readings, 1-based.
    what : str | None
        the file is, where it is no text.
    """

    encoding: str
    separator: str
    decimal: str
    headers: tuple[str, ...]
    units_row: tuple[str, ...] | None
    header_row: int
    data_row: int
    sample: tuple[tuple[str, ...], ...]
    what: str | None

    def __str__(self) -> str:
        if self.what is not None:
            skipped = (
                f", {self.header_row - 1} rows above the header" if self.header_row > 1 else ""
            )
            return self.what + skipped
        sign = "comma" if self.decimal == "," else "point"
        skipped = f", {self.header_row - 1} rows above the header" if self.header_row > 1 else ""
        return f"{SEPARATORS[self.separator]}-separated, decimal {sign}, {self.encoding}{skipped}"


def load(path: Path) -> Source:
    """The table in a file as text, unpacked where it is packed. Raises IntakeError if there is
    none."""
    name = path.name
    try:
        with path.open("rb") as file:
            head = file.read(FORMATS_HEAD)
        if not head.strip():
            raise IntakeError(f"{name}: the file is empty. Export the log again.")
        for magic, what in _DIALECT_MAGIC.items():
            if head.startswith(magic):
                raise IntakeError(
                    f"{name}: this is {what}, not a log. Export the readings as CSV and use that "
                    "file."
                )
        kind = kind_of(head)
        if kind is not None:
            source = unpacked(path, kind)
            head = bytes(source.buffer[:FORMATS_HEAD])
        else:
            source = Source(pa.memory_map(str(path)).read_buffer(), None)
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):  # of the room to unpack, not of the file
            raise
        why = error.strerror or error
        raise IntakeError(f"{name}: the file cannot be read ({why}).") from error
    if kind is None and is_weather(head):
        text, what = weather_csv(path)
        return Source(pa.py_buffer(text.encode()), what)
    if b"\x00" in head:
        raise IntakeError(
            f"{name}: this is a binary file, not a text log. Export the readings as CSV."
        )
    return source


def sniff(source: Source, name: str) -> Dialect:
    """The dialect of a table's text. Raises IntakeError where there is no table in it."""
    buffer = source.buffer
    text, encoding = _decoded(bytes(buffer[:FORMATS_HEAD]), len(buffer) > FORMATS_HEAD, name)
    lines = text.splitlines()
    if len(buffer) > FORMATS_HEAD and len(lines) > 1:
        lines = lines[:-1]  # the last one is cut
    lines = lines[: SAMPLE_ROWS + 100]
    separator, width = _separator(lines, name)
    rows = list(csv.reader(io.StringIO("\n".join(lines)), delimiter=separator))
    first = next((k for k, row in enumerate(rows) if len(row) == width and _is_data(row)), None)
    if first is None:
        raise IntakeError(
            f"{name}: no row with readings was found under the header in the first "
            f"{len(rows)} rows. The file needs a header and rows of numbers with a time each."
        )
    above = [k for k in range(first) if len(rows[k]) == width and any(rows[k])]
    if not above:
        raise IntakeError(
            f"{name}: row {first + 1} already holds readings and no header stands above it. "
            "Add a row with the names of the columns."
        )
    header, units = above[-1], None
    if len(above) > 1 and _is_units(rows[header]):
        header, units = above[-2], tuple(cell.strip() for cell in rows[header])
    data = header + (1 if units is None else 2)
    sample = tuple(tuple(c.strip() for c in r) for r in rows[first:] if len(r) == width)
    cells = [cell for row in sample for cell in row]
    comma = separator != "," and any(_COMMA_NUMBER.match(cell) for cell in cells)
    headers = tuple(cell.strip() for cell in rows[header])
    return Dialect(
        encoding,
        separator,
        "," if comma else ".",
        headers,
        units,
        header + 1,
        data + 1,
        sample,
        source.what,
    )


def _decoded(head: bytes, cut: bool, name: str) -> tuple[str, str]:
    text_codecs = (("utf-8-sig", "UTF-8"), ("cp1252", "Windows-1252"))
    for codec, label in text_codecs:
        for shorter in range(4 if cut else 1):  # a cut may fall inside a character
            try:
                return head[: len(head) - shorter].decode(codec), label
            except UnicodeDecodeError:
                continue
    raise IntakeError(
        f"{name}: the text is in an encoding that is neither UTF-8, UTF-16 nor Windows-1252. "
        "Save it as UTF-8."
    )


def _separator(lines: list[str], name: str) -> tuple[str, int]:
    """The separator and the usual number of fields. A comma is the last to be believed."""
    filled = [line for line in lines if line.strip()]
    for separator in SEPARATORS:
        reader = csv.reader(io.StringIO("\n".join(filled)), delimiter=separator)
        try:
            widths = Counter(len(row) for row in reader)
        except csv.Error:
            continue
        width, rows = widths.most_common(1)[0]
        if width > MOST_COLUMNS:
            raise IntakeError(
                f"{name}: the rows have {width:,} columns; a log has at most {MOST_COLUMNS}. "
                "Export one row for each time, with a column for each channel."
            )
        if width > 1 and rows >= 0.6 * len(filled):
            return separator, width
    raise IntakeError(
        f"{name}: no separator divides the rows into the same number of fields (tried comma, "
        "semicolon, tab and bar). Check that this is one table with one separator throughout."
    )


def _is_data(row: list[str]) -> bool:
    cells = [cell.strip() for cell in row if cell.strip()]
    values = sum(bool(NUMBER.match(cell)) for cell in cells)
    times = sum(bool(TIMELIKE.search(cell)) for cell in cells if not NUMBER.match(cell))
    blanks = sum(cell in NULLS for cell in cells)
    if not values + times:
        return False
    filled = values + times + blanks
    # In a long table a time and a value stand beside a name and perhaps a unit.
    return filled > len(cells) / 2 or (values > 0 and times > 0 and filled >= len(cells) / 2)


def _is_units(row: list[str]) -> bool:
    cells = [cell.strip(" []()") for cell in row if cell.strip()]
    return bool(cells) and sum(unit_named(cell) is not None for cell in cells) > len(cells) / 2
