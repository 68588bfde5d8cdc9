"""A record analysis as bytes and back: an Arrow stream of its segments, the rest as JSON in its
metadata."""

import json

import numpy as np
import pyarrow as pa
from pydantic import TypeAdapter

from ember.assessment.record_analysis import Facts, RecordAnalysis
from ember.basis.series import Ints
from ember.description.as_json import installation_from_json, installation_to_json
from ember.reckoning import Meter, Segments

_FACTS = TypeAdapter(Facts)
_METERS = TypeAdapter(dict[str, Meter])
_LEVEL = 1  # of zstd


def to_bytes(analysis: RecordAnalysis) -> bytes:
    """A record analysis in an open format: one row a segment, one column a sum."""
    segments = analysis.segments
    columns = {
        "edge": segments.edges[:-1],
        "state": segments.state,
        "excluded": segments.excluded,
        **segments.sums,
    }
    rest = {
        "installation": installation_to_json(analysis.described),
        "facts": _FACTS.dump_json(analysis.facts).decode(),
        "meters": _METERS.dump_json(dict(segments.meters)).decode(),
        "reasons": json.dumps(segments.reasons),
        "grid": json.dumps([segments.start, segments.step, int(segments.edges[-1])]),
        "runs": json.dumps(analysis.runs.tolist()),
        "defrosts": json.dumps(analysis.defrosts.tolist()),
    }
    batch = pa.record_batch([pa.array(v) for v in columns.values()], names=list(columns))
    batch = batch.replace_schema_metadata(rest)
    sink = pa.BufferOutputStream()
    options = pa.ipc.IpcWriteOptions(compression=pa.Codec("zstd", _LEVEL))
    with pa.ipc.new_stream(sink, batch.schema, options=options) as writer:
        writer.write_batch(batch)
    content: bytes = sink.getvalue().to_pybytes()
    return content


def from_bytes(content: bytes) -> RecordAnalysis:
    """The record analysis that was written. Raises ValueError if the bytes are not one."""
    batch = pa.ipc.open_stream(pa.py_buffer(content)).read_next_batch()
    rest = {key.decode(): value.decode() for key, value in batch.schema.metadata.items()}
    columns = {
        name: batch.column(name).to_numpy(zero_copy_only=False) for name in batch.schema.names
    }
    start, step, end = json.loads(rest["grid"])
    segments = Segments(
        start=start,
        step=step,
        edges=np.append(columns.pop("edge"), end),
        state=columns.pop("state"),
        excluded=columns.pop("excluded"),
        reasons=tuple(json.loads(rest["reasons"])),
        sums=columns,
        meters=_METERS.validate_json(rest["meters"]),
    )
    return RecordAnalysis(
        installation_from_json(rest["installation"]),
        _FACTS.validate_json(rest["facts"]),
        segments,
        _pairs(rest["runs"]),
        _pairs(rest["defrosts"]),
    )


def _pairs(text: str) -> Ints:
    return np.array(json.loads(text), np.int64).reshape(-1, 2)
