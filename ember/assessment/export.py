"""Results as JSON, complete: docs/formats.md describes it field by field."""

from dataclasses import fields, is_dataclass
from datetime import UTC, date, datetime
from enum import Enum
from typing import Any

import orjson

from ember.basis.quantity import Estimate
from ember.states import State

_INSTANTS = {"start", "stop"}


def plain(value: Any, name: str = "") -> Any:
    """Any result of the core as dicts, lists, numbers and text.

    An Estimate becomes value, unit, U (k = 2) and its budget; instants become ISO 8601 UTC.
    """
    if isinstance(value, Estimate):
        budget = [
            {"code": p.cause.code, "of": p.cause.of, "source": p.source, "u": p.u}
            for p in value.budget
        ]
        return {"value": value.value, "unit": value.unit, "U": value.U, "budget": budget}
    if is_dataclass(value) and not isinstance(value, type):
        return {f.name: plain(getattr(value, f.name), f.name) for f in fields(value)}
    if isinstance(value, State):
        return value.name.lower()
    if isinstance(value, Enum):
        return value.value
    if isinstance(value, dict):
        return {str(plain(k)): plain(v) for k, v in value.items()}
    if isinstance(value, tuple | list):
        return [plain(item, name) for item in value]
    if isinstance(value, datetime | date):
        return value.isoformat()
    if name in _INSTANTS and isinstance(value, int | float):
        return datetime.fromtimestamp(value, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    return value


def to_json(**results: Any) -> bytes:
    """Results by name as one JSON object, indented, UTF-8."""
    document = {name: plain(result) for name, result in results.items()}
    return orjson.dumps(document, option=orjson.OPT_INDENT_2 | orjson.OPT_APPEND_NEWLINE)
