"""The time column: which one it is, how it is written, and the instants it names."""

import csv
import io
import re
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from itertools import product

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from ember.basis.clock import DAY, Seconds, utc_from_local, zone_named
from ember.basis.errors import IntakeError
from ember.basis.series import Floats
from ember.intake import when
from ember.intake.dialect import NUMBER, Dialect
from ember.intake.report import Note, Treatment, note
from ember.unpacked.formats import FORMATS_HEAD

_ISO = re.compile(
    r"^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(:\d\d(\.\d{1,6})?)?(?P<zone>Z|[+-]\d\d(:?\d\d)?)?$"
)
_EPOCH = re.compile(r"^\d{10}(\.\d+)?$|^\d{13}$|^\d{16}$")
_DATES = ("%d.%m.%Y", "%d.%m.%y", "%d/%m/%Y", "%m/%d/%Y", "%Y/%m/%d", "%d-%m-%Y", "%m-%d-%Y")
_TIMES = ("%H:%M:%S", "%H:%M", "%I:%M:%S %p", "%I:%M %p")
_SERIAL = re.compile(r"^[3-7]\d{4}(\.\d+)?$")  # days since 1899-12-30, as spreadsheets count
_SERIAL_ZERO = 25_569  # 1970-01-01 in that count
SLICES = 100  # places of a file at which its times are looked at
_STAMPS_WORDS = (
    "time",
    "timestamp",
    "datetime",
    "date",
    "zeit",
    "uhrzeit",
    "datum",
    "epoch",
    "ts",
    "utc",
    "day",
)


class Clock(StrEnum):
    """What the stamps say."""

    ZONED = "zoned"  # ISO 8601 with an offset
    NAIVE = "naive"  # a wall clock
    EPOCH = "epoch"  # seconds since 1970, or parts of them
    SERIAL = "serial"  # days as a spreadsheet counts them, by a wall clock


@dataclass(frozen=True, slots=True)
class Stamps:
    """How the time column is written.

    Attributes
    ----------
    pattern : str | None
        strptime
    scale : int
        parts of a second (epoch).
    time_of_day : int | None
        the column that holds it, where date and time are apart; None where they are not.
    order : str | None
        of day, month and year in a way of writing that no pattern describes (see `when`).
    """

    column: int
    clock: Clock
    pattern: str | None
    scale: int
    ambiguous: bool
    time_of_day: int | None = None
    order: str | None = None

    @property
    def columns(self) -> set[int]:
        """The columns that the clock takes."""
        return {self.column} if self.time_of_day is None else {self.column, self.time_of_day}

    @property
    def arrow_type(self) -> pa.DataType:
        """The type as which pyarrow reads the column."""
        if self.time_of_day is not None or self.order is not None:
            return pa.string()
        if self.clock in (Clock.EPOCH, Clock.SERIAL):
            return pa.float64()
        return pa.timestamp("us", "UTC" if self.clock == Clock.ZONED else None)


def find_stamps(dialect: Dialect, buffer: pa.Buffer, wanted: str | None, name: str) -> Stamps:
    """The time column, by name or by what stands in it. Raises IntakeError if there is none."""
    more = _elsewhere(buffer, dialect)
    if wanted is not None:
        if wanted not in dialect.headers:
            raise IntakeError(
                f"{name}: the time column '{wanted}' of the description is not in the header "
                f"(row {dialect.header_row}): {_listed(dialect.headers)}."
            )
        candidates = [dialect.headers.index(wanted)]
    else:
        candidates = sorted(
            range(len(dialect.headers)), key=lambda k: (not _looks_timely(dialect.headers[k]), k)
        )
    whole = any(
        cells and all(_ISO.match(cell) for cell in cells)
        for cells in ([row[k] for row in dialect.sample[:20] if row[k]] for k in candidates)
    )
    if wanted is None and not whole and (apart := _apart(dialect, more)) is not None:
        return apart
    for timely in (None, True):  # numbers are believed to be days only where nothing else is a time
        for column in candidates:
            cells = [row[column] for row in (*dialect.sample, *more) if row[column]]
            if timely and wanted is None and not _counts_days(cells):
                continue
            said = _looks_timely(dialect.headers[column]) if timely is None else True
            found = written(column, cells, said)
            if found is not None:
                return found
    where = f"column '{wanted}'" if wanted else "any column"
    raise IntakeError(
        f"{name}: no time was found in {where}; row {dialect.data_row} begins "
        f"'{dialect.separator.join(dialect.sample[0])[:60]}'. Each row needs a time, such as "
        "2026-01-22T05:10:00Z, 22.01.2026 05:10 or seconds since 1970."
    )


def _counts_days(cells: list[str]) -> bool:
    """Whether numbers rise as the times of a log do that a spreadsheet has turned into days."""
    if not cells or not all(_SERIAL.match(cell) for cell in cells[:200]):
        return False
    steps = np.diff(np.array([float(cell) for cell in cells[:200]])) * DAY
    return len(steps) > 2 and bool((steps > 0).all()) and float(np.median(steps)) <= 2 * 3600


def _listed(headers: tuple[str, ...]) -> str:
    shown = ", ".join(headers[:8])
    return shown if len(headers) <= 8 else f"{shown} and {len(headers) - 8} more"


def _looks_timely(header: str) -> bool:
    return any(word in _STAMPS_WORDS for word in re.split(r"[^a-z]+", header.lower()))


def _elsewhere(buffer: pa.Buffer, dialect: Dialect) -> list[tuple[str, ...]]:
    """Rows from all over the file, to see days above 12."""
    if len(buffer) <= FORMATS_HEAD:
        return []
    width = len(dialect.headers)
    found = []
    for offset in np.linspace(FORMATS_HEAD, len(buffer) - 1, SLICES, dtype=int):
        text = bytes(buffer[max(0, offset - 4096) : offset]).decode("utf-8", "replace")
        lines = text.splitlines()[1:-1]  # the first and the last may be cut
        rows = csv.reader(io.StringIO("\n".join(lines[:2])), delimiter=dialect.separator)
        found += [tuple(cell.strip() for cell in row) for row in rows if len(row) == width]
    return found


def written(column: int, cells: list[str], timely: bool) -> Stamps | None:
    """How a column's times are written; None if they are no times.

    Parameters
    ----------
    timely : bool
        its header says so.
    """
    cells = cells[:200] + cells[200:][-2 * SLICES :]
    if not cells:
        return None
    iso = [_ISO.match(cell) for cell in cells]
    if sum(match is not None for match in iso) > 0.9 * len(cells):
        zoned = sum(bool(match and match["zone"]) for match in iso)
        return Stamps(column, Clock.ZONED if zoned else Clock.NAIVE, None, 1, False)
    epochs = [cell for cell in cells if _EPOCH.match(cell)]
    if len(epochs) > 0.9 * len(cells):
        scale = 10 ** (max(len(epochs[0].partition(".")[0]), 10) - 10)
        return Stamps(column, Clock.EPOCH, None, scale, False)
    if sum(_SERIAL.match(cell) is not None for cell in cells) > 0.9 * len(cells):
        return Stamps(column, Clock.SERIAL, None, 1, False) if timely else None
    fitting = [p for d in _DATES for t in _TIMES if _fits(p := f"{d} {t}", cells)]
    if not fitting:
        return _freely(column, cells)
    # Where day and month could be either way round, the right one makes the shorter record.
    fitting.sort(key=lambda p: _length(p, cells))
    return Stamps(column, Clock.NAIVE, fitting[0], 1, len({p[:5] for p in fitting}) > 1)


def _freely(column: int, cells: list[str], time_of_day: int | None = None) -> Stamps | None:
    """Times in a way of writing that no pattern describes."""
    orders = when.fitting(cells)
    if not orders:
        return None
    clock = Clock.ZONED if when.zoned(cells) else Clock.NAIVE
    return Stamps(column, clock, None, 1, len(orders) > 1, time_of_day, orders[0])


def _apart(dialect: Dialect, more: list[tuple[str, ...]]) -> Stamps | None:
    """Date and time in two columns, if they are."""
    rows = [*dialect.sample, *more]
    dates: list[tuple[int, list[str]]] = []
    times: list[tuple[int, str]] = []
    for column in range(len(dialect.headers)):
        cells = [row[column].removesuffix(" 00:00:00") for row in rows if row[column]]
        if not cells or all(NUMBER.match(cell) and "." not in cell for cell in cells[:20]):
            continue
        pattern = next((t for t in _TIMES if _fits(t, cells)), None)
        if pattern is not None:
            times.append((column, pattern))
        elif fitting := [d for d in ("%Y-%m-%d", *_DATES) if _fits(d, cells)]:
            dates.append((column, sorted(fitting, key=lambda d: _length(d, cells))))
    if len(dates) != 1 or len(times) != 1:
        return _apart_freely(dialect, rows)
    (date, patterns), (time, pattern) = dates[0], times[0]
    return Stamps(
        date, Clock.NAIVE, f"{patterns[0]} {pattern}", 1, len(patterns) > 1, time_of_day=time
    )


def _apart_freely(dialect: Dialect, rows: list[tuple[str, ...]]) -> Stamps | None:
    """Date and time in two columns in a way of writing that no pattern describes."""
    dates, times = [], []
    for column, header in enumerate(dialect.headers):
        cells = [row[column] for row in rows[:20] if row[column]]
        plain = all(NUMBER.match(cell) for cell in cells) and not _looks_timely(header)
        if not cells or plain:
            continue
        if all(when.is_date(cell) for cell in cells):
            dates.append(column)
        if all(when.is_time(cell) for cell in cells):  # 1.02.03 could be either
            times.append(column)
    found = []
    for date, time in product(dates, times):
        both = [f"{row[date]} {row[time]}" for row in rows if row[date] and row[time]]
        if date != time and (stamps := _freely(date, both, time)) is not None:
            found.append(stamps)
    return found[0] if len(found) == 1 else None


def times_of(text: pa.ChunkedArray, stamps: Stamps) -> pa.ChunkedArray:
    """Cells of the time column, date and time joined, as `stamps.arrow_type`, or as timestamps
    where that is text; null where a cell is no time."""
    if stamps.order is not None:
        found = when.seconds(text, stamps.order)
        micro = pa.array(
            np.where(np.isfinite(found), np.rint(found * 1e6), 0).astype(np.int64),
            mask=~np.isfinite(found),
        )
        kind = pa.timestamp("us", "UTC" if stamps.clock == Clock.ZONED else None)
        return pa.chunked_array([micro.cast(kind)])
    if stamps.pattern is not None:
        parsed = pc.strptime(text, format=stamps.pattern, unit="us", error_is_null=True)
        return pa.chunked_array([parsed.combine_chunks()])
    if stamps.clock in (Clock.EPOCH, Clock.SERIAL):
        good = pc.match_substring_regex(text, r"^\d+(\.\d+)?$")
        return pc.if_else(good, text, None).cast(stamps.arrow_type)
    zoned = stamps.clock == Clock.ZONED
    with suppress(pa.ArrowInvalid):  # as all of them are, in most files
        return text.cast(stamps.arrow_type)
    times = [_iso(cell, zoned) for cell in text.to_pylist()]
    return pa.chunked_array([pa.array(times, stamps.arrow_type)])


def _iso(text: str | None, zoned: bool) -> datetime | None:
    """A time in ISO 8601, None if it is none or has an offset where the others have not."""
    try:
        found = datetime.fromisoformat(text) if text else None
    except ValueError:
        return None
    return found if found is not None and (found.tzinfo is not None) == zoned else None


def seconds_of(stamps: Stamps, columns: dict[int, pa.ChunkedArray]) -> Floats:
    """The times of rows by the file's own clock, (n,) [s], as if it were UTC; NaN where a cell is
    none.

    Parameters
    ----------
    columns : dict[int, pa.ChunkedArray]
        text of the clock's columns.
    """
    text = columns[stamps.column]
    if stamps.time_of_day is not None:
        text = joined_times(text, columns[stamps.time_of_day])
    found = times_of(pc.utf8_trim_whitespace(text), stamps)
    if stamps.clock == Clock.EPOCH:
        return np.asarray(found.cast(pa.float64()).to_numpy() / stamps.scale, np.float64)
    if stamps.clock == Clock.SERIAL:
        return np.asarray((found.to_numpy() - _SERIAL_ZERO) * DAY, np.float64)
    micro = found.cast(pa.int64()).to_numpy().astype(np.float64)
    return np.asarray(micro / 1e6, np.float64)


def joined_times(day: pa.ChunkedArray, time_of_day: pa.ChunkedArray) -> pa.ChunkedArray:
    """Date and time of two columns as one."""
    day = pc.replace_substring(pc.utf8_trim_whitespace(day), " 00:00:00", "")
    return pc.binary_join_element_wise(day, pc.utf8_trim_whitespace(time_of_day), " ")


def _length(pattern: str, cells: list[str]) -> float:
    times = []
    for cell in cells:
        with suppress(ValueError):
            times.append(datetime.strptime(cell, pattern))
    return (max(times) - min(times)).total_seconds()


def _fits(pattern: str, cells: list[str]) -> bool:
    wrong = 0
    for cell in cells:
        try:
            datetime.strptime(cell, pattern)
        except ValueError:
            wrong += 1
            if wrong >= 0.1 * len(cells):
                return False
    return True


def instants(
    stamps: Stamps, column: pa.ChunkedArray, zone: str, rows: Seconds
) -> tuple[Seconds, list[Note], str]:
    """The instants of a column's times.

    Parameters
    ----------
    column : pa.ChunkedArray
        (n,) As read with `stamps.arrow_type`, without nulls.
    zone : str
        IANA name of the wall clock of naive times.
    rows : array, (n,)
        Row numbers in the file.

    Returns
    -------
    instants : array, (n,)  [s]; notes; the clock in words.
    """
    if stamps.clock == Clock.EPOCH:
        values = np.rint(column.to_numpy() / stamps.scale).astype(np.int64)
        return values, [], "seconds since 1970, UTC" if stamps.scale == 1 else "epoch, UTC"
    if stamps.clock == Clock.SERIAL:
        whole = np.rint((column.to_numpy() - _SERIAL_ZERO) * DAY).astype(np.int64)
    else:
        micro = column.cast(pa.int64()).to_numpy()
        whole = np.floor_divide(micro + 500_000, 1_000_000)
    if stamps.clock == Clock.ZONED:
        return whole, [], "ISO 8601 with offset"
    newest_first = np.count_nonzero(np.diff(whole) < 0) > len(whole) / 2
    turn = slice(None, None, -1 if newest_first else 1)  # a doubled hour is told by the order
    result, doubled, missing = utc_from_local(whole[turn], zone_named(zone))
    result, rows = result[turn], rows[turn]
    notes = []
    if len(doubled):
        text = (
            "{rows}: the hour that the clock shows twice; its first time round is taken as "
            "summer time, after the step back as winter time."
        )
        notes.append(note(Treatment.CONVERTED, text, np.sort(rows[doubled])))
    if len(missing):
        text = (
            "{rows}: times in the hour that the clock leaves out; read as if it had not "
            "been moved. Does the logger really keep local time?"
        )
        notes.append(note(Treatment.DOUBTED, text, np.sort(rows[missing])))
    if stamps.ambiguous:
        read = stamps.pattern or {"dmy": "day, month, year", "mdy": "month, day, year"}.get(
            stamps.order or "", "year, month, day"
        )
        text = f"Day and month could be either way round; read as {read}."
        notes.append(note(Treatment.DOUBTED, text))
    counted = "days as a spreadsheet counts, " if stamps.clock == Clock.SERIAL else ""
    return result, notes, f"{counted}wall clock, {zone}"
