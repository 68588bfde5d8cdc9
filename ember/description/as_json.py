"""The JSON form of an Installation: read, written, and errors that name the field."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeVar, cast, get_args, get_type_hints

import orjson
from pydantic import TypeAdapter, ValidationError

from ember.basis.errors import DescriptionError
from ember.description.former import upgraded
from ember.description.installation import Installation, RatedTable
from ember.description.remedies import REMEDIES_CORRECTIONS, Correction
from ember.description.thresholds import Thresholds

T = TypeVar("T")

_ADAPTER = TypeAdapter(Installation)
_CORRECTION: TypeAdapter[Any] = TypeAdapter(cast(Any, Correction))
_TABLE = TypeAdapter(RatedTable)
_THRESHOLDS = TypeAdapter(Thresholds)
# The kinds of corrections, which pydantic puts into the path of a field.
AS_JSON_KINDS = frozenset(get_args(get_type_hints(one)["kind"])[0] for one in REMEDIES_CORRECTIONS)


def installation_from_json(text: bytes | str, source: str = "installation") -> Installation:
    """The description written as JSON. Raises DescriptionError naming every wrong field."""
    try:
        return _ADAPTER.validate_json(_of_today(text))
    except ValidationError as error:
        raise DescriptionError(f"{source}: {sentences(error)}") from error


def _of_today(text: bytes | str) -> bytes | str:
    """A description as it is read today; what is none is left to what says why."""
    try:
        value = orjson.loads(text)
    except orjson.JSONDecodeError:
        return text
    return orjson.dumps(upgraded(value)) if isinstance(value, dict) else text


def read_installation(path: Path) -> Installation:
    """The description in a file. Raises DescriptionError."""
    try:
        text = path.read_bytes()
    except OSError as error:
        raise DescriptionError(f"{path}: cannot be read ({error.strerror}).") from error
    return installation_from_json(text, path.name)


def installation_to_json(installation: Installation) -> str:
    """The description as JSON, indented; reading it back gives an equal one."""
    return _ADAPTER.dump_json(installation, indent=2).decode() + "\n"


def read_as(kind: type[T], text: bytes | str, what: str) -> T:
    """What is asked, from JSON with the fields of its dataclass. Raises DescriptionError naming
    every wrong field."""
    try:
        return TypeAdapter(kind).validate_json(text)
    except ValidationError as error:
        raise DescriptionError(f"{what}: {sentences(error)}.") from error


def _made(adapter: TypeAdapter[Any], value: object, what: str) -> Any:
    try:
        return adapter.validate_python(value)
    except ValidationError as error:
        raise DescriptionError(f"{what}: {sentences(error)}") from error


def correction_from_json(value: object) -> Correction:
    """A correction in its JSON form. Raises DescriptionError naming every wrong field."""
    found: Correction = _made(_CORRECTION, value, "correction")
    return found


def correction_to_json(correction: Correction) -> dict[str, Any]:
    """A correction in its JSON form."""
    found: dict[str, Any] = _CORRECTION.dump_python(correction, mode="json")
    return found


def table_from_json(value: object) -> RatedTable:
    """A rated table in its JSON form. Raises DescriptionError naming every wrong field."""
    found: RatedTable = _made(_TABLE, value, "rated table")
    return found


def table_to_json(table: RatedTable) -> dict[str, Any]:
    """A rated table in its JSON form."""
    found: dict[str, Any] = _TABLE.dump_python(table, mode="json")
    return found


def thresholds_from_json(value: object) -> Thresholds:
    """Thresholds in their JSON form. Raises DescriptionError naming every wrong field."""
    found: Thresholds = _made(_THRESHOLDS, value, "thresholds")
    return found


def json_schema() -> dict[str, Any]:
    """The JSON Schema of the description."""
    return _ADAPTER.json_schema()


@dataclass(frozen=True)
class FieldProblem:
    """What is wrong with a field.

    Attributes
    ----------
    where : str
        its path, like electricity.0.channel; empty for the whole.
    """

    where: str
    what: str


def problems_of(text: bytes | str) -> list[FieldProblem]:
    """What is wrong with a description, field by field; nothing for a good one."""
    try:
        _ADAPTER.validate_json(_of_today(text))
    except ValidationError as error:
        return _problems(error)
    return []


def sentences(error: ValidationError) -> str:
    """What is wrong with a description, field by field, in one line."""
    return "; ".join(f"{p.where}: {p.what}" if p.where else p.what for p in _problems(error))


def _problems(error: ValidationError) -> list[FieldProblem]:
    found = []
    for item in error.errors():
        where = ".".join(str(part) for part in item["loc"] if part not in AS_JSON_KINDS)
        what = item["msg"].removeprefix("Value error, ")
        match item["type"]:
            case "extra_forbidden" | "unexpected_keyword_argument":
                what = "there is no such field; see docs/formats.md"
            case "json_invalid":
                what = f"this is no JSON ({what.removeprefix('Invalid JSON: ')})"
            case "missing":
                what = "is needed and missing"
            case "too_short" if isinstance(item["input"], str):
                what = "is empty"
            case "too_long" if isinstance(item["input"], str):
                what = f"is longer than {item['ctx']['max_length']} characters"
            case "too_short":
                least = item["ctx"]["min_length"]
                what = f"needs at least {least} {'entry' if least == 1 else 'entries'}"
            case "too_long":
                what = f"has more than {item['ctx']['max_length']} entries"
            case "string_too_long":
                what = f"is longer than {item['ctx']['max_length']} characters"
            case "less_than_equal":
                what = f"must be at most {item['ctx']['le']:g}"
            case "string_too_short":
                what = "is empty"
            case "greater_than":
                what = f"must be more than {item['ctx']['gt']:g}"
        if ": " in what:  # a rule that names its field itself
            named, _, rest = what.partition(": ")
            if " " not in named and (not where or where.startswith("corrections")):
                where, what = f"{where}.{named}".lstrip("."), rest
        found.append(FieldProblem(where, what))
    return found
