"""Readings out again: CSV, XLSX or Parquet, in the core's units; they come in again equal."""

from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pyarrow as pa
import xlsxwriter
from pyarrow import csv, parquet

from ember.basis.channels import quantity_of
from ember.basis.quantity import symbol
from ember.basis.series import Trace
from server.readings.codec import MONDAY, WEEK, channels_in
from server.readings.store import NotThere, StoreError, trace_of
from server.systems.models import System

ODD = frozenset('",\n\r')  # in a channel's label, it is quoted
EXPORT_MOST_ROWS = 1_048_575  # of an XLSX sheet, under its header


def header(channel: str) -> str:
    """A channel with its unit, as intake reads it."""
    unit = quantity_of(channel).unit
    return channel if unit == "fraction" else f"{channel} [{symbol(unit)}]"


def weeks(system: System, start: float, stop: float) -> Iterator[Trace]:
    """The stored readings between two instants, a week at a time, all with the same channels.

    Raises StoreError if there are none.
    """
    first, last = int((start - MONDAY) // WEEK), int(-(-(stop - MONDAY) // WEEK))
    numbers = system.blocks.filter(week__gte=first, week__lt=last).order_by("week")
    stored = list(numbers.values_list("week", flat=True))
    if not stored:
        raise NotThere(f"{system.name}: no readings are stored for this time.")
    payloads = numbers.values_list("payload", flat=True).iterator()
    names = sorted({name for payload in payloads for name in channels_in(bytes(payload))})
    for week in stored:
        trace = _week(system, week, start, stop)
        nothing = np.full(len(trace), np.nan)
        yield Trace(trace.start, trace.step, {n: trace.channels.get(n, nothing) for n in names})


def _week(system: System, week: int, start: float, stop: float) -> Trace:
    begin = MONDAY + week * WEEK
    return trace_of(system, max(start, begin), min(stop, begin + WEEK))


def table(trace: Trace) -> pa.Table:
    """A trace as a table: time, UTC, and a column a channel; null where nothing is known."""
    seconds = trace.start + trace.step * np.arange(len(trace))
    columns = {"time": pa.array(seconds.astype("datetime64[s]"), pa.timestamp("s", "UTC"))}
    for channel, values in trace.channels.items():
        columns[header(channel)] = pa.array(values, mask=~np.isfinite(values))
    return pa.table(columns)


def as_csv(system: System, start: float, stop: float) -> Iterator[bytes]:
    """CSV, a week at a time."""
    for k, trace in enumerate(weeks(system, start, stop)):
        sink = pa.BufferOutputStream()
        written = table(trace)
        stamps = written.column("time").cast(pa.int64()).to_numpy().astype("datetime64[s]")
        text = pa.array(np.char.add(np.datetime_as_string(stamps), "Z"))
        odd = any(set(name) & ODD for name in written.column_names)
        options = csv.WriteOptions(
            include_header=k == 0,
            quoting_style="none",
            quoting_header="needed" if odd else "none",
        )
        csv.write_csv(written.set_column(0, "time", text), sink, options)
        yield sink.getvalue().to_pybytes()


def as_parquet(system: System, start: float, stop: float, path: Path) -> None:
    """Parquet, a row group a week."""
    writer = None
    try:
        for trace in weeks(system, start, stop):
            written = table(trace)
            writer = writer or parquet.ParquetWriter(path, written.schema, compression="zstd")
            writer.write_table(written)
    finally:
        if writer is not None:
            writer.close()


def as_xlsx(system: System, start: float, stop: float, path: Path) -> None:
    """XLSX, one sheet; times UTC. Raises StoreError where a sheet has too few rows."""
    with xlsxwriter.Workbook(path, {"constant_memory": True, "nan_inf_to_errors": True}) as book:
        sheet = book.add_worksheet("Readings")
        stamp = book.add_format({"num_format": "yyyy-mm-dd hh:mm:ss"})
        sheet.set_column(0, 0, 19)
        row = 0
        for trace in weeks(system, start, stop):
            if row + len(trace) > EXPORT_MOST_ROWS:
                raise StoreError(
                    f"{system.name}: more than {EXPORT_MOST_ROWS:,} rows, which a sheet "
                    "cannot hold. "
                    "Choose a shorter period, or take Parquet or CSV."
                )
            if row == 0:
                sheet.write_row(0, 0, ["time UTC", *(header(c) for c in trace.channels)])
            for k in range(len(trace)):
                row += 1
                when = datetime.fromtimestamp(trace.instant(k), UTC).replace(tzinfo=None)
                sheet.write_datetime(row, 0, when, stamp)
                for column, values in enumerate(trace.channels.values(), 1):
                    if np.isfinite(values[k]):
                        sheet.write_number(row, column, float(values[k]))
