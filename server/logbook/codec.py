"""A week of readings as bytes: an Arrow IPC stream with zstd, an open format.

Levels and rates are kept as 32-bit floats, far finer than any sensor; counters as 64-bit ones.
Any column can be read without the others.
"""

from collections.abc import Iterable, Mapping

import numpy as np
import pyarrow as pa

from ember.channels import Kind, quantity_of
from ember.trace import Floats, Trace

WEEK = 604_800  # [s]
MONDAY = 345_600  # 1970-01-05T00:00Z, the first Monday
QUARTER = 900  # step of the overview [s]
LEVEL = 1  # zstd: the cheapest is within a tenth of the densest on such data

Channels = Mapping[str, Floats]


def week_of(instant: float) -> int:
    """The week, counted from the first Monday of 1970, UTC, in which an instant lies."""
    return int((instant - MONDAY) // WEEK)


def week_start(week: int) -> int:
    """When a week begins [s]."""
    return MONDAY + week * WEEK


def weeks_of(trace: Trace) -> dict[int, Trace]:
    """A trace cut at week boundaries; only weeks that hold a reading."""
    parts = {}
    for week in range(week_of(trace.start), week_of(trace.stop - 1) + 1):
        begin = week_start(week)
        part = trace.between(begin, begin + WEEK)
        if any(np.isfinite(values).any() for values in part.channels.values()):
            parts[week] = part
    return parts


def encode(trace: Trace) -> bytes:
    """A trace of at most a week."""
    arrays, fields = [], []
    for channel in sorted(trace.channels):
        counter = quantity_of(channel).kind == Kind.COUNTER
        kind = pa.float64() if counter else pa.float32()
        values = trace[channel]
        arrays.append(pa.array(values if counter else values.astype(np.float32)))
        native = str(trace.native_of(channel)).encode()
        fields.append(pa.field(channel, kind, metadata={b"native": native}))
    metadata = {b"start": str(trace.start).encode(), b"step": str(trace.step).encode()}
    return _written(pa.record_batch(arrays, schema=pa.schema(fields, metadata=metadata)))


def _written(batch: pa.RecordBatch) -> bytes:
    sink = pa.BufferOutputStream()
    options = pa.ipc.IpcWriteOptions(compression=pa.Codec("zstd", LEVEL))
    with pa.ipc.new_stream(sink, batch.schema, options=options) as writer:
        writer.write_batch(batch)
    content: bytes = sink.getvalue().to_pybytes()
    return content


def _batch(payload: bytes, channels: Iterable[str] | None) -> pa.RecordBatch:
    options = pa.ipc.IpcReadOptions()
    if channels is not None:
        schema = pa.ipc.open_stream(pa.py_buffer(payload)).schema
        wanted = [schema.get_field_index(c) for c in channels if c in schema.names]
        options = pa.ipc.IpcReadOptions(included_fields=wanted)
    return pa.ipc.open_stream(pa.py_buffer(payload), options=options).read_next_batch()


def decode(payload: bytes, channels: Iterable[str] | None = None) -> Trace:
    """A trace from its bytes; only some channels if they are named."""
    batch = _batch(payload, channels)
    metadata = batch.schema.metadata
    values = {
        field.name: batch.column(k).to_numpy(zero_copy_only=False).astype(np.float64)
        for k, field in enumerate(batch.schema)
    }
    native = {field.name: float(field.metadata[b"native"]) for field in batch.schema}
    return Trace(int(metadata[b"start"]), int(metadata[b"step"]), values, native)


def summarise(trace: Trace, week: int) -> bytes:
    """The overview of a week: min, mean and max of each level and rate over 15 minutes."""
    per = max(1, QUARTER // trace.step)
    n = WEEK // QUARTER
    arrays, names = [], []
    for channel in sorted(trace.channels):
        if quantity_of(channel).kind == Kind.COUNTER:
            continue
        cells = np.full(n * per, np.nan)
        first = (trace.start - week_start(week)) // trace.step
        values = trace[channel]
        if trace.step > QUARTER:  # slower than the overview: each reading fills its cells
            values = np.repeat(values, trace.step // QUARTER)
            first *= trace.step // QUARTER
        cells[first : first + len(values)] = values[: n * per - first]
        table = cells.reshape(n, per)
        known = np.isfinite(table)
        count = known.sum(axis=1)
        filled = np.where(known, table, 0.0)
        with np.errstate(invalid="ignore", divide="ignore"):
            mean = filled.sum(axis=1) / count
        empty = count == 0
        low = np.where(known, table, np.inf).min(axis=1)
        high = np.where(known, table, -np.inf).max(axis=1)
        low[empty] = high[empty] = np.nan
        for what, column in (("min", low), ("mean", mean), ("max", high)):
            arrays.append(pa.array(column.astype(np.float32)))
            names.append(f"{channel}/{what}")
    return _written(pa.record_batch(arrays, names=names))


def overview(payload: bytes, channel: str) -> tuple[Floats, Floats, Floats]:
    """Min, mean and max of a channel over a week's 15-minute cells; NaN if it is not there."""
    names = [f"{channel}/{what}" for what in ("min", "mean", "max")]
    batch = _batch(payload, names)
    if batch.num_columns < 3:
        nothing = np.full(WEEK // QUARTER, np.nan)
        return nothing, nothing, nothing
    low, mean, high = (batch.column(name).to_numpy().astype(np.float64) for name in names)
    return low, mean, high


def laid_over(parts: list[Trace]) -> Trace:
    """Traces of one week laid over each other: what an earlier one knows stays.

    The grid is the finest of them; a slower level is held over its own cells, a slower counter
    keeps its readings where they were made.
    """
    step = min(part.step for part in parts)
    start = min(part.start for part in parts) // step * step
    stop = max(part.stop for part in parts)
    n = -(-(stop - start) // step)
    channels: dict[str, Floats] = {}
    native: dict[str, float] = {}
    for part in parts:
        times = part.step // step
        first = (part.start - start) // step
        for channel, values in part.channels.items():
            fine = values
            if times > 1:
                fine = np.repeat(values, times)
                if quantity_of(channel).kind == Kind.COUNTER:
                    fine[np.arange(len(fine)) % times != 0] = np.nan
            whole = channels.setdefault(channel, np.full(n, np.nan))
            here = slice(first, first + len(fine))
            known = np.isfinite(whole[here])
            whole[here] = np.where(known, whole[here], fine[: len(known)])
            native[channel] = max(native.get(channel, 0.0), part.native_of(channel))
    return Trace(start, step, channels, native)
