"""A week of readings as bytes: an Arrow IPC stream with zstd, an open format.

Levels and rates are kept as 32-bit floats, far finer than any sensor; counters as 64-bit ones.
Any column can be read without the others.
"""

from collections.abc import Iterable, Mapping

import numpy as np
import pyarrow as pa
from numpy.typing import NDArray

from ember.basis.channels import Kind, quantity_of
from ember.basis.series import Floats, Trace

WEEK = 604_800  # [s]
MONDAY = 345_600  # 1970-01-05T00:00Z, the first Monday
CODEC_QUARTER = 900  # step of the overview [s]
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
    batch = pa.record_batch(arrays, schema=pa.schema(fields, metadata=metadata))
    return _written(batch, pa.Codec("zstd", LEVEL))


def _written(batch: pa.RecordBatch, codec: pa.Codec) -> bytes:
    sink = pa.BufferOutputStream()
    options = pa.ipc.IpcWriteOptions(compression=codec)
    with pa.ipc.new_stream(sink, batch.schema, options=options) as writer:
        writer.write_batch(batch)
    content: bytes = sink.getvalue().to_pybytes()
    return content


def _batch(payload: bytes, channels: Iterable[str] | None = None) -> pa.RecordBatch:
    # One thread: handing out small columns to others takes longer than unpacking them.
    options = pa.ipc.IpcReadOptions(use_threads=False)
    if channels is not None:
        schema = pa.ipc.open_stream(pa.py_buffer(payload)).schema
        options.included_fields = [schema.get_field_index(c) for c in channels if c in schema.names]
    return pa.ipc.open_stream(pa.py_buffer(payload), options=options).read_next_batch()


def channels_in(payload: bytes) -> list[str]:
    """The channels of a week, by its bytes' head alone."""
    names: list[str] = pa.ipc.open_stream(pa.py_buffer(payload)).schema.names
    return names


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
    levels = {
        channel: values
        for channel, values in sorted(trace.channels.items())
        if quantity_of(channel).kind != Kind.COUNTER
    }
    n = WEEK // CODEC_QUARTER
    first, per = (trace.start - week_start(week)) // trace.step, max(1, CODEC_QUARTER // trace.step)
    repeated = max(
        1, trace.step // CODEC_QUARTER
    )  # slower than the overview: a reading fills its cells
    if first == 0 and repeated == 1:
        return quarters(levels, per)
    cells = {}
    for channel, values in levels.items():
        table = np.full(n * per, np.nan)
        fine = np.repeat(values, repeated)[: n * per - first * repeated]
        table[first * repeated : first * repeated + len(fine)] = fine
        cells[channel] = table
    return quarters(cells, per)


def quarters(cells: Channels, per: int) -> bytes:
    """Min, mean and max over each `per` cells of some arrays of one length, as an overview."""
    if not cells:
        return _written(pa.record_batch([], names=[]), pa.Codec("lz4"))
    length = len(next(iter(cells.values())))
    n = -(-length // per)
    table = np.full((len(cells), n * per), np.nan, np.float32)
    for k, values in enumerate(cells.values()):
        table[k, :length] = values
    # Cells of a quarter below each other: so the reductions run along whole rows.
    table = np.ascontiguousarray(table.reshape(len(cells) * n, per).T)
    known = np.isfinite(table)
    if known.all():
        low, high, mean = table.min(axis=0), table.max(axis=0), table.mean(axis=0)
    else:
        low, high = np.fmin.reduce(table, axis=0), np.fmax.reduce(table, axis=0)
        with np.errstate(invalid="ignore", divide="ignore"):
            mean = np.where(known, table, np.float32(0)).sum(axis=0) / known.sum(axis=0)
    arrays, names = [], []
    for k, channel in enumerate(cells):
        here = slice(k * n, (k + 1) * n)
        for what, column in (("min", low), ("mean", mean), ("max", high)):
            arrays.append(pa.array(column[here].astype(np.float32)))
            names.append(f"{channel}/{what}")
    # lz4: it is read in a hurry.
    return _written(pa.record_batch(arrays, names=names), pa.Codec("lz4"))


Singles = NDArray[np.float32]
Quarters = tuple[Singles, Singles, Singles]  # min, mean, max


def overview(payload: bytes, channels: Iterable[str]) -> dict[str, Quarters]:
    """Min, mean and max of channels in an overview, those that are in it."""
    batch = _batch(payload)
    found = {name: batch.column(k).to_numpy() for k, name in enumerate(batch.schema.names)}
    return {
        channel: (found[f"{channel}/min"], found[f"{channel}/mean"], found[f"{channel}/max"])
        for channel in channels
        if f"{channel}/min" in found
    }


def without_known(part: Trace, stored: Trace) -> Trace:
    """A part of a week without its readings at times at which any stored channel is known."""
    step = min(part.step, stored.step)
    times = part.step // step
    start = min(part.start, stored.start) // step * step
    n = (max(part.stop, stored.stop) - start) // step + 1
    known = np.zeros(n, np.bool_)
    first, each = (stored.start - start) // step, stored.step // step
    held = np.logical_or.reduce([np.isfinite(v) for v in stored.channels.values()])
    known[first : first + len(held) * each] = np.repeat(held, each)
    begin = (part.start - start) // step
    taken = known[begin : begin + len(part) * times].reshape(len(part), times).any(axis=1)
    return part.with_channels(
        {channel: np.where(taken, np.nan, values) for channel, values in part.channels.items()}
    )
