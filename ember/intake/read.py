"""A log file in, a Trace and the report out."""

import re
import time
from collections.abc import Collection
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import cast

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from pyarrow import csv

from ember.basis.channels import Kind, quantity_of
from ember.basis.clock import DAY
from ember.basis.errors import IntakeError
from ember.basis.series import Floats, Ints, Trace
from ember.description.installation import Installation
from ember.description.logged import Column, ModeState
from ember.intake.columns import (
    cleaned,
    converted,
    falls,
    flow_by_volume,
    mode_flags,
    running_total,
)
from ember.intake.dialect import NULLS, Dialect, load, sniff
from ember.intake.grid import MESSY, Placement, place, place_held, to_grid
from ember.intake.interval import Marks, marked, moved_back
from ember.intake.long import long_columns, widened
from ember.intake.mapping import Mapped, map_columns
from ember.intake.onchange import on_change
from ember.intake.report import ColumnReport, IntakeReport, Note, Treatment, in_words, note
from ember.intake.sample import numbers_in, sampled
from ember.intake.stamps import Stamps, find_stamps, instants, joined_times, times_of
from ember.unpacked import Source

Modes = tuple[tuple[str, ModeState], ...]
READ_BLOCK = 4 << 20  # bytes that the reader takes at a time
READ_EARLIEST = 946_684_800  # 2000-01-01; an older log is a clock that was never set


def read_log(
    path: Path,
    installation: Installation,
    now: float | None = None,
    skipped: int = 0,
    alone: bool = True,
) -> tuple[Trace, IntakeReport]:
    """Reads a log in any of the formats and dialects of docs/formats.md.

    Parameters
    ----------
    path : Path
        the file.
    installation : Installation
        says the zone of naive times, and the columns if they are not to be guessed.
    now : float | None
        instant after which readings lie in the future [s]; None: this moment.
    skipped : int
        rows of a larger file that stand before those of this piece of it.
    alone : bool
        this file must hold something that the description reads; else others may.

    Returns
    -------
    Trace on the log's own step; IntakeReport with every conversion, doubt and loss.

    Raises
    ------
    IntakeError
        : a sentence with the file, the row or column, and what to do.
    """
    source, dialect, stamps, per = opened(path, installation.time_column)
    mapped, questions = map_columns(
        dialect,
        installation,
        stamps.columns,
        path.name,
        partial(sampled, source.buffer, dialect, stamps),
        alone,
    )
    table = _Table.read(source.buffer, dialect, stamps, mapped, path.name, skipped)
    del source  # the text is not needed any more
    times, clock_notes, clock = instants(
        stamps, table.times, _zone(installation, dialect.headers[stamps.column]), table.rows
    )
    notes = [*table.notes, *clock_notes]
    electricity = [meter.channel for meter in installation.electricity]
    if not any(m.channel in electricity for m in mapped):
        text = (
            f"No column was recognised as electricity ({', '.join(electricity)}). That is right "
            "where another log holds it; else say which column it is."
        )
        notes.append(note(Treatment.DOUBTED, text))
    times, table, more = _believable(times, table, now or time.time(), path.name)
    # Taken out as arrays, once, so that the table's memory is free again.
    numbers = {
        k: table.columns.pop(k).to_numpy()
        for k in [k for k, c in table.columns.items() if pa.types.is_floating(c.type)]
        if k not in table.clock
    }
    pa.default_memory_pool().release_unused()
    placement, ordered = _placed(
        times, table.rows, list(numbers.values()), path.name, per, installation.log_heartbeat
    )
    notes += more + ordered

    channels: dict[str, Floats] = {}
    native: dict[str, float] = {}
    columns = []
    holding: list[str] = []
    clean = {
        m.column: cleaned(numbers.pop(m.column), quantity_of(m.channel), m.header, table.rows)
        for m in mapped
        if quantity_of(m.channel).kind != Kind.WORDS
    }
    markers = frozenset(marker for one in clean.values() for marker in one.found)
    for column in mapped:
        if quantity_of(column.channel).kind == Kind.WORDS:
            flags, said_of = mode_flags(column, table.columns.pop(column.column))
            valid = 0
            for channel, flag in flags.items():
                if any(m.channel == channel for m in mapped):
                    continue  # a flag of its own says more
                grid, interval, _ = to_grid(flag, channel, placement)
                channels[channel], native[channel] = grid, interval
                valid = max(valid, int(np.isfinite(grid).sum()))
            columns.append(
                ColumnReport(column.header, column.channel, "", column.reason, valid, column.modes)
            )
            notes.append(said_of)
            continue
        values, unit, found = converted(column, clean.pop(column.column), table.rows, path, markers)
        if quantity_of(column.channel).kind == Kind.COUNTER:
            values, said = _register(column, values, times, table.rows, placement)
            found += said
        grid, interval, held = to_grid(values, column.channel, placement)
        valid = int(np.isfinite(grid).sum())
        if valid or column.needed:  # an empty guess must not stand for a channel
            channels[column.channel], native[column.channel] = grid, interval
        columns.append(ColumnReport(column.header, column.channel, unit, column.reason, valid, ()))
        notes += found
        if held:
            holding.append(f"'{column.header}' {held:,}")
    notes += _flow_by_volume(installation, channels, native, placement)
    what = marked(channels, placement.step)
    if what == Marks.END:
        channels, placement = moved_back(channels, placement)
        text = (
            "The stamps mark the end of their interval, by what the registers count; means and "
            "temperatures are put where they belong."
        )
        notes.append(note(Treatment.CONVERTED, text))
    if holding:
        text = f"Cells that hold the reading before them: {', '.join(holding)}."
        notes.append(note(Treatment.CONVERTED, text))
    if not any(report.valid for report in columns):
        raise IntakeError(
            f"{path.name}: none of the {len(table.rows):,} rows has a usable number in any of the "
            f"columns {', '.join(c.header for c in mapped)}. Check the export."
        )
    used = {column.column for column in mapped} | stamps.columns
    ignored = tuple(h for k, h in enumerate(dialect.headers) if k not in used)
    trace = Trace(placement.start, placement.step, channels, native)
    report = IntakeReport(
        file=path.name,
        dialect=str(dialect),
        clock=clock,
        rows=len(table.rows),
        start=trace.start,
        stop=trace.stop,
        step=trace.step,
        columns=tuple(columns),
        ignored_columns=ignored,
        notes=tuple(notes),
        questions=questions,
    )
    return trace, report


def columns_without(
    path: Path, installation: Installation, given: Collection[str]
) -> tuple[Column, ...]:
    """The columns that a description reads of a file that it shares with others.

    Parameters
    ----------
    given : Collection[str]
        headers of columns that are another unit's already; they are taken for nothing here.

    Raises
    ------
    IntakeError
        as `read_log` does.
    """
    source, dialect, stamps, _ = opened(path, installation.time_column)
    taken = {k for k, header in enumerate(dialect.headers) if header in given}
    mapped, _ = map_columns(
        dialect,
        installation,
        stamps.columns | taken,
        path.name,
        partial(sampled, source.buffer, dialect, stamps),
    )
    return tuple(
        Column(m.header, m.channel, m.unit, m.counts, m.each_row, cast(Modes, m.modes))
        for m in mapped
    )


def _placed(
    times: Ints, rows: Ints, columns: list[Floats], name: str, per: int, heartbeat: float | None
) -> tuple[Placement, list[Note]]:
    """The grid: by the clock, or held where the log is written on change."""
    rising = times
    if bool((np.diff(times) < 0).any()):
        order = np.argsort(times, kind="stable")
        rising, columns = times[order], [c[order] for c in columns]
    how = on_change(rising, columns, heartbeat)
    if how is not None:
        return place_held(times, how, name)
    return place(times, rows, name, per)


def _flow_by_volume(
    installation: Installation,
    channels: dict[str, Floats],
    native: dict[str, float],
    placement: Placement,
) -> list[Note]:
    """A flow that is not logged, from the volume register, for the circuit that lacks it."""
    wanted = next((c.flow_rate for c in installation.circuits), "flow_rate")
    if wanted in channels or "water_volume" not in channels:
        return []
    channels[wanted] = flow_by_volume(channels["water_volume"], placement.step)
    native[wanted] = native["water_volume"]
    text = "No flow is logged; it is taken from what the volume register counts."
    return [note(Treatment.CONVERTED, text)]


def opened(path: Path, time_column: str | None = None) -> tuple[Source, Dialect, Stamps, int]:
    """A file as a wide table: its text, how it is written, its clock; and for one that was long the
    usual number of rows from one reading of a channel to its next. Raises IntakeError."""
    source = load(path)
    dialect = sniff(source, path.name)
    stamps = find_stamps(dialect, source.buffer, time_column, path.name)
    long = long_columns(dialect, stamps)
    if long is None:
        return source, dialect, stamps, 1
    source, per = widened(source, dialect, stamps, long, path.name)
    dialect = sniff(source, path.name)
    return source, dialect, find_stamps(dialect, source.buffer, time_column, path.name), max(per, 1)


def _register(
    column: Mapped, values: Floats, times: Ints, rows: Ints, placement: Placement
) -> tuple[Floats, list[Note]]:
    """A register's readings; amounts of each row become one. And where it falls."""
    order = slice(None) if placement.order is None else placement.order
    if not column.each_row:
        said = falls(column, values[order], rows[order])
        return values, [said] if said else []
    made = np.full(len(values), np.nan)
    made[order] = running_total(values[order], times[order])
    text = f"'{column.header}': the amounts of the rows, added up to a register."
    return made, [note(Treatment.CONVERTED, text)]


def _zone(installation: Installation, header: str) -> str:
    """The zone of naive times: as described, UTC where the header says so, else local."""
    if installation.log_zone is not None:
        return installation.log_zone
    says_utc = {"utc", "gmt"} & set(re.split(r"[^a-z]+", header.lower()))
    return "UTC" if says_utc else installation.zone


@dataclass(frozen=True)
class _Table:
    """The mapped columns of a file.

    Attributes
    ----------
    rows : Ints
        row number in the file of each entry, (n,).
    """

    times: pa.ChunkedArray
    columns: dict[int, pa.ChunkedArray]
    rows: Ints
    notes: list[Note]
    clock: frozenset[int]

    @classmethod
    def read(
        cls,
        buffer: pa.Buffer,
        dialect: Dialect,
        stamps: Stamps,
        mapped: list[Mapped],
        name: str,
        before: int,
    ) -> "_Table":
        """Numbers as numbers if every cell is one; else cell by cell, naming those that are not."""
        types = {
            m.column: pa.string() if quantity_of(m.channel).kind == Kind.WORDS else pa.float64()
            for m in mapped
        }
        types |= dict.fromkeys(stamps.columns, stamps.arrow_type)
        bad_rows: list[int] = []
        try:
            table = _parsed(buffer, dialect, types, stamps)
        except (pa.ArrowInvalid, pa.ArrowKeyError):
            strings: dict[int, pa.DataType] = {column: pa.string() for column in types}
            try:
                table = _parsed(buffer, dialect, strings, stamps, bad_rows)
            except pa.ArrowInvalid as error:
                raise IntakeError(f"{name}: the table cannot be read: {error}.") from error
        skipped = np.array(bad_rows, np.int64)
        rows = np.arange(dialect.data_row, dialect.data_row + table.num_rows + len(skipped))
        rows = np.delete(rows, skipped - dialect.data_row) + before
        notes = []
        if bad_rows:
            width = len(dialect.headers)
            if len(bad_rows) > MESSY * (len(rows) + len(bad_rows)):
                raise IntakeError(
                    f"{name}: {in_words(np.array(bad_rows))} have another number of fields than "
                    f"the header's {width}. Is a second separator or a second table in the file?"
                )
            text = f"{{rows}}: not {width} fields as in the header."
            notes.append(note(Treatment.LEFT_OUT, text, np.array(bad_rows) + before))
        columns = {k: table.column(f"c{k}") for k in types}
        if stamps.time_of_day is not None:
            time_of_day = columns.pop(stamps.time_of_day)
            columns[stamps.column] = joined_times(columns[stamps.column], time_of_day)
        words = {k: c for k, c in columns.items() if pa.types.is_string(c.type)}
        if words:
            cast, more = _cast(words, mapped, dialect, stamps, rows, name)
            columns |= cast
            notes += more
        times = columns[stamps.column]
        if times.null_count:
            known = pc.is_valid(times)
            flags = known.to_numpy()
            if not flags.any():
                raise IntakeError(f"{name}: no row has a time that can be read.")
            blank = np.logical_and.reduce([pc.is_null(c).to_numpy() for c in columns.values()])
            lost = rows[~flags & ~blank]
            if len(lost):
                notes.append(note(Treatment.LEFT_OUT, "{rows}: no time.", lost))
            columns = {k: column.filter(known) for k, column in columns.items()}
            times, rows = columns[stamps.column], rows[flags]
        return cls(times, columns, rows, notes, frozenset(stamps.columns))


def _parsed(
    buffer: pa.Buffer,
    dialect: Dialect,
    types: dict[int, pa.DataType],
    stamps: Stamps,
    bad_rows: list[int] | None = None,
) -> pa.Table:
    """One pass of pyarrow's reader; with a list, rows of another width are skipped and listed."""
    first = dialect.data_row

    def skip(row: csv.InvalidRow) -> str:
        assert bad_rows is not None
        bad_rows.append(int(row.number))
        return "skip"

    careful = bad_rows is not None
    return csv.read_csv(
        pa.BufferReader(buffer),
        read_options=csv.ReadOptions(
            skip_rows=first - 1,
            column_names=[f"c{k}" for k in range(len(dialect.headers))],
            encoding="utf8" if dialect.encoding == "UTF-8" else "cp1252",
            use_threads=not careful,
            block_size=READ_BLOCK,
        ),
        parse_options=csv.ParseOptions(
            delimiter=dialect.separator,
            invalid_row_handler=skip if careful else None,
            ignore_empty_lines=not careful,
        ),
        convert_options=csv.ConvertOptions(
            column_types={f"c{k}": kind for k, kind in types.items()},
            include_columns=[f"c{k}" for k in types],
            null_values=NULLS,
            strings_can_be_null=True,
            decimal_point=dialect.decimal,
            timestamp_parsers=[stamps.pattern or csv.ISO8601],
        ),
    )


def _cast(
    columns: dict[int, pa.ChunkedArray],
    mapped: list[Mapped],
    dialect: Dialect,
    stamps: Stamps,
    rows: Ints,
    name: str,
) -> tuple[dict[int, pa.ChunkedArray], list[Note]]:
    """Text to numbers and times; what is neither becomes null and is reported."""
    cast, notes = {}, []
    by_column = {m.column: m for m in mapped}
    for k, column in columns.items():
        text, what = pc.utf8_trim_whitespace(column), by_column.get(k)
        if what is None:
            cast[k] = times_of(text, stamps)
        elif quantity_of(what.channel).kind == Kind.WORDS:
            cast[k] = text
        elif quantity_of(what.channel).kind == Kind.FLAG:
            cast[k] = _flags(text)
        else:
            cast[k] = numbers_in(text, dialect.decimal)
        lost = pc.and_(pc.is_valid(column), pc.is_null(cast[k])).to_numpy()
        if not lost.any():
            continue
        header = dialect.headers[k]
        example = str(column[int(np.flatnonzero(lost)[0])].as_py())[:30]
        if lost.sum() <= MESSY * len(rows):
            text = f"{{rows}}: '{header}' is '{example}', not readable."
            notes.append(note(Treatment.LEFT_OUT, text, rows[lost]))
        elif what is not None and not what.needed:
            cast[k] = pa.chunked_array([pa.nulls(len(column), pa.float64())])
            text = f"'{header}', not needed, is '{example}' and not readable; the column is unused."
            notes.append(note(Treatment.LEFT_OUT, text))
        else:
            raise IntakeError(
                f"{name}: column '{header}', {in_words(rows[lost]).lower()}: '{example}' is no "
                f"{'time' if what is None else 'number'}. Is one separator and one decimal sign "
                "used throughout?"
            )
    return cast, notes


def _flags(text: pa.ChunkedArray) -> pa.ChunkedArray:
    """Words for on and off, or a number."""
    word = pc.utf8_lower(text)
    on = pc.is_in(word, pa.array(["on", "true", "yes", "open"]))
    off = pc.is_in(word, pa.array(["off", "false", "no", "closed"]))
    return pc.if_else(on, 1.0, pc.if_else(off, 0.0, numbers_in(text, ".")))


def _believable(
    times: Ints, table: _Table, now: float, name: str
) -> tuple[Ints, _Table, list[Note]]:
    """Rows without those whose date cannot be."""
    wrong = (times > now + DAY) | (times < READ_EARLIEST)
    if not wrong.any():
        return times, table, []
    rows = table.rows[wrong]
    stamp = str(np.datetime64(int(times[wrong][0]), "s"))
    when = "in the future" if times[wrong][0] > now else "before the year 2000"
    if wrong.sum() > MESSY * len(times):
        raise IntakeError(
            f"{name}: {in_words(rows)}: the time, {stamp}Z, lies {when}. Was the logger's clock "
            "set, and are day and month the right way round?"
        )
    keep = pa.array(~wrong)
    columns = {k: column.filter(keep) for k, column in table.columns.items()}
    kept = _Table(table.times.filter(keep), columns, table.rows[~wrong], table.notes, table.clock)
    text = f"{{rows}}: the time lies {when} ({stamp}Z)."
    return times[~wrong], kept, [note(Treatment.LEFT_OUT, text, rows)]
