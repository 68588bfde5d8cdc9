"""Stretches of a log from all over it, as numbers: what the recognition of columns looks at."""

from contextlib import suppress
from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv

from ember.basis.series import Floats, Ints
from ember.intake.dialect import NULLS, Dialect
from ember.intake.stamps import Stamps, seconds_of

PLACES = 24  # in a large file
LENGTH = 48 << 10  # bytes of each
SAMPLE_WHOLE = 2 << 20  # bytes of a file that is looked at as a whole


@dataclass(frozen=True)
class Sample:
    """Rows in stretches.

    Attributes
    ----------
    seconds : Floats
        array, (n,) Of the rows by the file's own clock, NaN where unreadable.
    stretch : Ints
        array, (n,) Number of the stretch.
    numbers : dict[int, Floats]
        column → array, (n,), NaN where it is no number.
    texts : dict[int, list[str]]
        column → cells, where most are no numbers.
    """

    seconds: Floats
    stretch: Ints
    numbers: dict[int, Floats]
    texts: dict[int, list[str]]

    def __len__(self) -> int:
        return len(self.seconds)

    @property
    def steps(self) -> Floats:
        """Time from each row to its next within a stretch, (n − 1,) [s]; NaN between stretches."""
        gaps: Floats = np.where(np.diff(self.stretch) == 0, np.diff(self.seconds), np.nan)
        with np.errstate(invalid="ignore"):
            gaps[(gaps <= 0) | (gaps > 7200)] = np.nan
        return gaps

    def rises(self, values: Floats) -> Floats:
        """Change of a column from each row to its next, (n − 1,); NaN between stretches."""
        rise: Floats = np.where(np.diff(self.stretch) == 0, np.diff(values), np.nan)
        return rise


def sampled(buffer: pa.Buffer, dialect: Dialect, stamps: Stamps) -> Sample:
    """Stretches of a table. What cannot be read there is unknown, never an error."""
    text = _rows(buffer, dialect)
    if not text:
        return Sample(np.empty(0), np.empty(0, np.int64), {}, {})
    cells = {k: f"c{k}" for k in range(len(dialect.headers))}
    kinds = {c: pa.string() if k in stamps.columns else pa.float64() for k, c in cells.items()}
    try:  # as most logs are: numbers throughout
        table = _parsed(text, dialect, kinds)
    except pa.ArrowInvalid:
        table = _parsed(text, dialect, dict.fromkeys(kinds, pa.string()))
    numbers: dict[int, Floats] = {}
    texts: dict[int, list[str]] = {}
    for k, name in cells.items():
        if k in stamps.columns:
            continue
        column = table.column(name)
        if pa.types.is_floating(column.type):
            numbers[k] = column.to_numpy()
            continue
        column = pc.utf8_trim_whitespace(column)
        values = np.asarray(numbers_in(column, dialect.decimal).to_numpy(), np.float64)
        there = len(column) - column.null_count
        if there and int(np.isfinite(values).sum()) < 0.5 * there:
            texts[k] = column.to_pylist()
        else:
            numbers[k] = values
    columns = {k: table.column(cells[k]) for k in sorted(stamps.columns)}
    return Sample(
        seconds_of(stamps, columns), table.column("#").to_numpy().astype(np.int64), numbers, texts
    )


def _parsed(text: bytes, dialect: Dialect, kinds: dict[str, pa.DataType]) -> pa.Table:
    """Rows that begin with the number of their stretch; those of another width are left out."""
    return csv.read_csv(
        pa.BufferReader(text),
        read_options=csv.ReadOptions(column_names=["#", *kinds]),
        parse_options=csv.ParseOptions(
            delimiter=dialect.separator, invalid_row_handler=lambda _: "skip"
        ),
        convert_options=csv.ConvertOptions(
            column_types=kinds | {"#": pa.int64()},
            null_values=NULLS,
            strings_can_be_null=True,
            decimal_point=dialect.decimal,
        ),
    )


def _rows(buffer: pa.Buffer, dialect: Dialect) -> bytes:
    """Rows from all over the file, each with the number of its stretch before it."""
    codec = "utf-8" if dialect.encoding == "UTF-8" else "cp1252"
    whole = len(buffer) <= SAMPLE_WHOLE
    places, length = (
        ([0], len(buffer))
        if whole
        else (np.linspace(0, len(buffer) - LENGTH, PLACES, dtype=int), LENGTH)
    )
    found: list[str] = []
    for number, offset in enumerate(places):
        text = bytes(buffer[offset : offset + length]).decode(codec, "replace")
        text = text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
        before = dialect.data_row - 1 if offset < length else 1  # the first may be cut, as the last
        parts = text.split("\n", before)
        body = parts[before] if len(parts) > before else ""
        body = body if whole else body.rpartition("\n")[0]
        if body := body.strip("\n"):
            mark = f"{number}{dialect.separator}"
            found.append(mark + body.replace("\n", f"\n{mark}"))
    return "\n".join(found).encode("utf-8", "replace")


def numbers_in(cells: pa.ChunkedArray, decimal: str) -> pa.ChunkedArray:
    """Cells as numbers; null where one is none.

    Parameters
    ----------
    decimal : str
        sign of the file.
    """
    if decimal == ",":
        cells = pc.replace_substring(cells, ",", ".")
    with suppress(pa.ArrowInvalid):  # as nearly all columns are
        return cells.cast(pa.float64())
    good = pc.match_substring_regex(cells, r"^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$")
    return pc.if_else(good, cells, None).cast(pa.float64())
