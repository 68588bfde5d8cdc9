"""Stretches of a log from all over it, as numbers: what the recognition of columns looks at."""

from contextlib import suppress
from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv

from ember.intake.dialect import NULLS, Dialect
from ember.intake.stamps import Stamps, seconds_of
from ember.trace import Floats, Ints

PLACES = 24  # in a large file
LENGTH = 48 << 10  # bytes of each
WHOLE = 2 << 20  # bytes of a file that is looked at as a whole


@dataclass(frozen=True)
class Sample:
    """Rows in stretches. seconds : array, (n,)  Of the rows by the file's own clock, NaN where
    unreadable. stretch : array, (n,)  Number of the stretch. numbers : column → array, (n,), NaN
    where it is no number. texts : column → cells, where most are no numbers."""

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
    lines = _lines(buffer, dialect)
    table = csv.read_csv(
        pa.BufferReader("\n".join(lines).encode("utf-8", "replace")),
        read_options=csv.ReadOptions(
            column_names=["#", *(f"c{k}" for k in range(len(dialect.headers)))]
        ),
        parse_options=csv.ParseOptions(
            delimiter=dialect.separator, invalid_row_handler=lambda _: "skip"
        ),
        convert_options=csv.ConvertOptions(
            column_types={f"c{k}": pa.string() for k in range(len(dialect.headers))}
            | {"#": pa.int64()},
            null_values=NULLS, strings_can_be_null=True,
        ),
    ) if lines else None  # fmt: skip
    if table is None or not table.num_rows:
        return Sample(np.empty(0), np.empty(0, np.int64), {}, {})
    numbers: dict[int, Floats] = {}
    texts: dict[int, list[str]] = {}
    for k in range(len(dialect.headers)):
        if k in stamps.columns:
            continue
        cells = pc.utf8_trim_whitespace(table.column(f"c{k}"))
        values = np.asarray(numbers_in(cells, dialect.decimal).to_numpy(), np.float64)
        there = len(cells) - cells.null_count
        if there and int(np.isfinite(values).sum()) < 0.5 * there:
            texts[k] = cells.to_pylist()
        else:
            numbers[k] = values
    columns = {k: table.column(f"c{k}") for k in sorted(stamps.columns)}
    return Sample(
        seconds_of(stamps, columns), table.column("#").to_numpy().astype(np.int64), numbers, texts
    )


def _lines(buffer: pa.Buffer, dialect: Dialect) -> list[str]:
    """Lines from all over the file, each with the number of its stretch before it."""
    codec = "utf-8" if dialect.encoding == "UTF-8" else "cp1252"
    if len(buffer) <= WHOLE:
        text = bytes(buffer).decode(codec, "replace").removeprefix("\ufeff")
        rows = text.splitlines()[dialect.data_row - 1 :]
        return [f"0{dialect.separator}{row}" for row in rows if row.strip()]
    found: list[str] = []
    for number, offset in enumerate(np.linspace(0, len(buffer) - LENGTH, PLACES, dtype=int)):
        text = bytes(buffer[offset : offset + LENGTH]).decode(codec, "replace")
        rows = text.splitlines()[1:-1]  # the first and the last may be cut
        if offset < LENGTH:
            rows = rows[dialect.data_row :]
        found += [f"{number}{dialect.separator}{row}" for row in rows if row.strip()]
    return found


def numbers_in(cells: pa.ChunkedArray, decimal: str) -> pa.ChunkedArray:
    """Cells as numbers; null where one is none. decimal : sign of the file."""
    if decimal == ",":
        cells = pc.replace_substring(cells, ",", ".")
    with suppress(pa.ArrowInvalid):  # as nearly all columns are
        return cells.cast(pa.float64())
    good = pc.match_substring_regex(cells, r"^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$")
    return pc.if_else(good, cells, None).cast(pa.float64())
