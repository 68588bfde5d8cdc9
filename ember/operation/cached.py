"""An operation as bytes and back: a NumPy archive of its arrays, the rest as JSON in it."""

import io
import json
from dataclasses import asdict, fields
from typing import Any

import numpy as np

from ember.boundary import Level
from ember.events.defrosts import Defrosts
from ember.events.frost import Frost
from ember.events.hot_water_charges import HotWaterCharges
from ember.events.hours import Hours
from ember.events.runs import Runs
from ember.events.starts import Starts
from ember.operation.record import Operation

TABLES = ("runs", "starts", "defrosts", "charges")


def to_bytes(found: Operation) -> bytes:
    """An operation in an open format (.npz)."""
    arrays: dict[str, Any] = {}
    for name in TABLES:
        table = getattr(found, name)
        if table is not None:
            arrays |= {f"{name}/{f.name}": getattr(table, f.name) for f in fields(table)}
    arrays |= {
        f"hours/{name}": values.astype(np.float32) for name, values in found.hours.of.items()
    }
    arrays |= {f"profiles/{name}": values for name, values in found.profiles.items()}
    rest = {
        "level": found.level,
        "first": found.first,
        "step": found.step,
        "notes": found.notes,
        "hours": found.hours.start,
        "frost": asdict(found.frost) if found.frost else None,
    }
    sink = io.BytesIO()
    np.savez_compressed(sink, rest=np.array(json.dumps(rest)), **arrays)
    return sink.getvalue()


def from_bytes(content: bytes) -> Operation:
    """The operation that was written. Raises ValueError if the bytes are not one."""
    with np.load(io.BytesIO(content), allow_pickle=False) as file:
        arrays = {name: file[name] for name in file.files}
    rest = json.loads(str(arrays.pop("rest")))

    def of(group: str) -> dict[str, Any]:
        begin = f"{group}/"
        return {k.removeprefix(begin): v for k, v in arrays.items() if k.startswith(begin)}

    starts = of("starts")
    return Operation(
        level=Level(rest["level"]) if rest["level"] else None,
        first=rest["first"],
        step=rest["step"],
        runs=Runs(**of("runs")),
        starts=Starts(**{**starts, "step": int(starts["step"])}) if starts else None,
        defrosts=Defrosts(**of("defrosts")),
        frost=Frost(**rest["frost"]) if rest["frost"] else None,
        charges=HotWaterCharges(**of("charges")),
        hours=Hours(rest["hours"], of("hours")),
        profiles=of("profiles"),
        notes=tuple(rest["notes"]),
    )
