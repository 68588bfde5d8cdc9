"""Long tables: one reading a row, with a column that names what was read."""

from dataclasses import dataclass

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv

from ember.basis.errors import IntakeError
from ember.basis.quantity import unit_named
from ember.basis.series import Ints
from ember.intake.dialect import NUMBER, TIMELIKE, Dialect
from ember.intake.stamps import Stamps
from ember.unpacked import Source
from ember.unpacked.formats import as_csv

MOST_NAMES = 200
_VALUES = {"value", "reading", "wert", "state", "val"}


@dataclass(frozen=True)
class Long:
    """Which columns hold what.

    Attributes
    ----------
    unit : int | None
        None where there is no such column.
    """

    name: int
    value: int
    unit: int | None


def long_columns(dialect: Dialect, stamps: Stamps) -> Long | None:
    """How a long table is laid out; None for a wide one.

    It has one column of names that repeat, one of values, at most one of units and others that are
    left out; and several rows of one time, or of nearly one.
    """
    rows = dialect.sample
    columns = [k for k in range(len(dialect.headers)) if k not in stamps.columns]
    if len(rows) < 4 or not 2 <= len(columns) <= 8:
        return None
    texts: list[int] = []
    numbers: list[int] = []
    for k in columns:
        cells = [row[k] for row in rows if row[k]]
        numeric = sum(bool(NUMBER.match(cell)) for cell in cells)
        if cells and numeric > 0.5 * len(cells):
            numbers.append(k)
        elif cells and not any(TIMELIKE.search(cell) for cell in cells):
            texts.append(k)
    units = [k for k in texts if all(unit_named(row[k]) for row in rows if row[k])]
    names = [k for k in texts if k not in units and _repeats([row[k] for row in rows])]
    named = [k for k in numbers if dialect.headers[k].strip().lower() in _VALUES]
    values = numbers if len(numbers) == 1 else named
    if len(names) < 1 or len(values) != 1 or len(numbers) > 2:
        return None
    name = max(names, key=lambda k: len({row[k] for row in rows}))
    return Long(name, values[0], units[0] if units else None)


def _repeats(cells: list[str]) -> bool:
    distinct = {cell for cell in cells if cell}
    return 2 <= len(distinct) <= MOST_NAMES and len(distinct) <= len(cells) / 2


def widened(
    source: Source, dialect: Dialect, stamps: Stamps, long: Long, name: str
) -> tuple[Source, int]:
    """The same readings as a wide table, one row a time; and the usual time between two readings of
    one name, in rows of that table.

    Raises IntakeError where one name has two units.
    """
    wanted = [*sorted(stamps.columns), long.name, long.value]
    wanted += [long.unit] if long.unit is not None else []
    table = csv.read_csv(
        pa.BufferReader(source.buffer),
        read_options=csv.ReadOptions(
            skip_rows=dialect.data_row - 1,
            column_names=[f"c{k}" for k in range(len(dialect.headers))],
            encoding="utf8" if dialect.encoding == "UTF-8" else "cp1252",
        ),
        parse_options=csv.ParseOptions(
            delimiter=dialect.separator, invalid_row_handler=lambda _: "skip"
        ),
        convert_options=csv.ConvertOptions(
            column_types={f"c{k}": pa.string() for k in wanted},
            include_columns=[f"c{k}" for k in wanted],
        ),
    ).combine_chunks()
    times = [table.column(f"c{k}") for k in sorted(stamps.columns)]
    stamp = times[0] if len(times) == 1 else pc.binary_join_element_wise(*times, "\x1f")
    at, distinct = _codes(stamp)
    which, names = _codes(pc.utf8_trim_whitespace(table.column(f"c{long.name}")))
    if len(names) > MOST_NAMES:
        raise IntakeError(
            f"{name}: the column '{dialect.headers[long.name]}' holds {len(names):,} names; a long "
            f"table with more than {MOST_NAMES} is not read."
        )
    values = table.column(f"c{long.value}")
    columns: dict[str, pa.Array] = {}
    parts = list(zip(*(text.split("\x1f") for text in distinct), strict=True))
    for k, cells in zip(sorted(stamps.columns), parts, strict=True):
        columns[dialect.headers[k]] = pa.array(cells)
    apart = []
    for code, one in enumerate(names):
        if not one:
            continue
        rows = np.flatnonzero(which == code)
        take = np.full(len(distinct), -1)
        take[at[rows]] = rows  # of two readings of one time the later row counts
        if len(rows) > 1:
            apart.append(float(np.median(np.diff(np.sort(at[rows])))))
        header = _header(one, table, long, rows, name)
        columns[header] = values.take(pa.array(take, mask=take < 0))
    what = f"long table of {len(names)} names"
    sink = pa.BufferOutputStream()
    as_csv(pa.table(columns), name, sink)
    return Source(sink.getvalue(), f"{source.what}, {what}" if source.what else what), round(
        min(apart, default=1.0)
    )


def _codes(column: pa.ChunkedArray) -> tuple[Ints, list[str]]:
    """Each cell as the number of its text, and the texts."""
    encoded = pc.fill_null(column, "").combine_chunks().dictionary_encode()
    return encoded.indices.to_numpy().astype(np.int64), encoded.dictionary.to_pylist()


def _header(one: str, table: pa.Table, long: Long, rows: Ints, name: str) -> str:
    if long.unit is None:
        return one
    units = pc.unique(table.column(f"c{long.unit}").take(pa.array(rows))).to_pylist()
    found = [unit for unit in units if unit]
    if len({unit_named(unit) for unit in found}) > 1:
        raise IntakeError(
            f"{name}: '{one}' is given in {' and in '.join(found[:3])}. Split the file by unit, or "
            "export it in one."
        )
    return f"{one} [{found[0]}]" if found else one
