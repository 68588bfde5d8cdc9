"""What an archive must be: every part of it, looked at as a whole before anything is stored.

    python -m server.archives.contents FILE NAME

looks at one in a process of its own, and says as JSON why it is refused; nothing where it is whole.
"""

import hashlib
import json
import re
import sys
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from io import BytesIO
from pathlib import Path
from typing import Annotated, Any, Literal, TypeVar

import numpy as np
import pyarrow as pa
from pyarrow import parquet
from pydantic import (
    AfterValidator,
    AwareDatetime,
    BaseModel,
    ConfigDict,
    Field,
    StringConstraints,
    TypeAdapter,
    ValidationError,
)
from pydantic_core import PydanticCustomError

from ember.assessment.former import code_of_finding, upgraded
from ember.basis.channels import quantity_of
from ember.basis.codes import FindingCode
from ember.basis.errors import EmberError
from ember.basis.quantity import unit_named
from ember.basis.series import Trace
from ember.description.as_json import (
    installation_from_json,
    installation_to_json,
    sentences,
    table_from_json,
)
from ember.description.installation import Installation
from ember.description.logged import Column
from ember.readings import Turn
from ember.unpacked import check_zip
from ember.unpacked.apart import confine, say

FORMAT, FORMAT_VERSION = "honest-ember/archive", 2
READABLE = (1, FORMAT_VERSION)
WEEK, MONDAY = 604_800, 345_600  # as server.readings.codec has them, which needs no Django either
MOST_SYSTEMS = 5000
MOST_PART = 256 << 20  # of one file in it [bytes]
ARCHIVED_EARLIEST, LATEST = -2_208_988_800, 4_102_444_800  # 1900 … 2100 [s]
_ARCHIVED_INVISIBLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff]")
T = TypeVar("T")


class ArchiveError(EmberError):
    """An archive that is not whole; a sentence for the user."""


def _plain(text: str) -> str:
    if _ARCHIVED_INVISIBLE.search(text):
        raise PydanticCustomError("text", "holds characters that are no text")
    return text


def _channel(name: str) -> str:
    try:
        quantity_of(name)
    except EmberError as error:
        raise PydanticCustomError("channel", "is no channel") from error
    return name


def _unit(name: str) -> str:
    if name and unit_named(name) is None:
        raise PydanticCustomError("unit", "is no unit")
    return name


Text = AfterValidator(_plain)


Instant = Annotated[int, Field(ge=ARCHIVED_EARLIEST, le=LATEST)]
Moment = Annotated[float, Field(ge=ARCHIVED_EARLIEST, le=LATEST, allow_inf_nan=False)]
Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e30, le=1e30)]
Step = Annotated[int, Field(ge=1, le=WEEK)]
Key = Annotated[int, Field(ge=0, lt=2**53)]
Digest = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
Short = Annotated[str, StringConstraints(max_length=40), Text]
Name = Annotated[str, StringConstraints(max_length=80), Text]
Sentence = Annotated[str, StringConstraints(max_length=200), Text]
File = Annotated[str, StringConstraints(max_length=255), Text]
Line = Annotated[str, StringConstraints(max_length=300), Text]
Note = Annotated[str, StringConstraints(max_length=20_000), Text]


class Part(BaseModel):
    """One part; fields that it does not know are refused."""

    model_config = ConfigDict(extra="forbid", strict=False, defer_build=True)


class Listed(Part):
    """A system by its folder in the archive."""

    folder: Annotated[str, StringConstraints(pattern=r"^systems/[\w-]{1,120}$")]
    name: Name
    revision: Annotated[int, Field(ge=0, lt=2**31)] | None = None


class ArchiveHead(Part):
    """archive.json. files : SHA-256 of every other file; archives of before have none."""

    format: str
    version: int
    core: Short
    made: AwareDatetime
    systems: Annotated[list[Listed], Field(min_length=1, max_length=MOST_SYSTEMS)]
    files: dict[str, Digest] | None = None


class ArchivedEdition(Part):
    """A description as it was."""

    text: Annotated[str, StringConstraints(max_length=4 << 20)]
    created: AwareDatetime


class LoggerPart(Part):
    """A logger without its token."""

    name: Name
    columns: Annotated[list[Column], Field(max_length=500)]
    step: Step | None
    seen: Moment | None
    latest: Moment | None
    drift: Number | None
    readings: Key
    problem: Line


class ImportPart(Part):
    """An import; its readings lie in a file of their own."""

    file: File
    digest: Digest
    rule: Literal["fill", "replace", "keep"]
    state: Literal["stored", "undone"]
    rows: Annotated[int, Field(ge=0, lt=2**31)]
    start: Instant
    stop: Instant
    step: Step
    report: Annotated[str, StringConstraints(max_length=16 << 20)]
    created: AwareDatetime
    logger: Name | None
    readings: Annotated[
        str, StringConstraints(pattern=r"^systems/[\w-]{1,120}/readings/\d+\.parquet$")
    ]


class _ReportPart(BaseModel):
    """A part of intake's report; what else stands in it is kept."""

    model_config = ConfigDict(extra="allow", defer_build=True)


class ColumnOfReport(_ReportPart):
    """A column, and what it was taken for."""

    header: str
    channel: Annotated[str, AfterValidator(_channel)]
    unit: Annotated[str, AfterValidator(_unit)]
    reason: str
    valid: int
    modes: list[tuple[str, str]] = Field(default_factory=list)


class NoteOfReport(_ReportPart):
    """Something that reading did."""

    treatment: str
    text: str
    count: int


class AnswerOfReport(_ReportPart):
    """An answer to what a column is."""

    channel: str
    words: str
    preview: str


class QuestionOfReport(_ReportPart):
    """What only a person can say of a column."""

    header: str
    sentence: str
    choices: list[AnswerOfReport]


class Report(_ReportPart):
    """What reading a file did, as far as screens show it."""

    file: str
    dialect: str
    clock: str
    rows: int
    step: Step
    columns: Annotated[list[ColumnOfReport], Field(max_length=600)]
    ignored_columns: Annotated[list[str], Field(max_length=600)]
    notes: list[NoteOfReport]
    questions: list[QuestionOfReport] = Field(default_factory=list)


class Reported(_ReportPart):
    """The report as an import keeps it."""

    intake: Report


class ReadingContent(Part):
    """A reading by hand."""

    values: Annotated[dict[Name, Number], Field(max_length=200)]
    since: Moment | None
    note: Note
    turns: Annotated[dict[Name, Turn], Field(max_length=200)]


class ObservationContent(Part):
    """Something seen or done."""

    kind: Short
    note: Note
    photo: Sentence
    cost: Number | None = None
    done_by: Short = ""


class BillContent(Part):
    """A bill."""

    carrier: Short
    amount: Annotated[Number, Field(ge=0)]
    unit: Short
    kwh_per_unit: Annotated[Number, Field(gt=0)]
    cost: Number | None
    estimated: bool
    before: bool
    note: Note
    meter: Name | None = None


class TrialContent(Part):
    """The plan of a trial."""

    a: Sentence
    b: Sentence
    days: Annotated[int, Field(ge=2, le=730)]
    block: Annotated[int, Field(ge=1, le=60)]
    carry: Annotated[int, Field(ge=0, le=59)]
    seed: Annotated[int, Field(ge=0, le=2**31)]


CONTENTS: dict[str, type[Part]] = {
    "reading": ReadingContent, "observation": ObservationContent, "bill": BillContent,
    "trial": TrialContent,
}  # fmt: skip


class WrittenPart(Part):
    """An entry by hand."""

    id: Key
    kind: Literal["reading", "observation", "bill", "trial"]
    time: Instant
    stop: Instant | None
    content: dict[str, Any]

    def model_post_init(self, _: Any) -> None:
        """Its content fits its kind."""
        CONTENTS[self.kind].model_validate(self.content)


class EntryPart(WrittenPart):
    """An entry that stands now."""

    created: AwareDatetime


class ChangePart(Part):
    """Entries that were put in and taken out together."""

    words: Sentence
    before: list[WrittenPart]
    after: list[WrittenPart]
    undone: bool
    created: AwareDatetime


class RecipePart(Part):
    """Columns set by hand."""

    name: Name
    headers: Annotated[list[Note], Field(max_length=1000)]
    columns: Annotated[list[dict[str, Any]], Field(max_length=500)]


class EventPart(Part):
    """What happened to a finding."""

    state: Literal["new", "accepted", "dismissed", "fixed", "gone"]
    words: Note
    at: AwareDatetime


class FindingStatusPart(Part):
    """Where a finding stands."""

    code: FindingCode
    state: Literal["new", "accepted", "dismissed", "fixed", "gone"]
    sentence: Note
    measured: Number
    U: Number
    above: bool
    reason: Note
    fixed_on: Annotated[str, StringConstraints(pattern=r"^\d{4}-\d\d-\d\d$")] | None
    events: list[EventPart]


class ProofPart(Part):
    """A pinned figure."""

    key: Annotated[str, StringConstraints(pattern=r"^[\w-]{1,22}$")]
    made_from: Digest
    made: AwareDatetime
    asked: Annotated[str, StringConstraints(max_length=2000)]
    shown: Annotated[str, StringConstraints(max_length=4 << 20)]


class TablePart(Part):
    """A rated table of the library."""

    name: Name
    table: dict[str, Any]
    created: AwareDatetime


class WeekPart(Part):
    """A week of an import, as its Parquet file's metadata say."""

    week: Annotated[int, Field(ge=-5000, le=10_000)]
    start: Instant
    step: Step
    rows: Annotated[int, Field(ge=1, le=WEEK)]
    native: dict[str, Annotated[float, Field(gt=0, allow_inf_nan=False)]]


@dataclass(frozen=True)
class SystemArchived:
    """A system of an archive, whole. readings : an import's weeks, read when they are asked for."""

    listed: Listed
    text: str
    described: Installation
    history: list[ArchivedEdition]
    loggers: list[LoggerPart]
    imports: list[ImportPart]
    entries: list[EntryPart]
    changes: list[ChangePart]
    recipes: list[RecipePart]
    statuses: list[FindingStatusPart]
    proofs: list[ProofPart]
    readings: Callable[[ImportPart], Iterator[tuple[int, Trace]]]


@dataclass(frozen=True)
class Archived:
    """What an archive holds."""

    systems: list[SystemArchived]
    library: list[TablePart]


class _Reader:
    """The files of an archive, each checked as it is read."""

    def __init__(self, archive: zipfile.ZipFile, name: str) -> None:
        self.archive, self.name = archive, name
        self.names = set(archive.namelist())
        self.sums: dict[str, str] | None = None
        self.version = FORMAT_VERSION

    def content(self, path: str) -> bytes:
        """A file. Raises ArchiveError."""
        if path not in self.names:
            raise ArchiveError(
                f"{self.name}: {path} is missing in the archive; nothing was stored. Is this a "
                "whole archive of Honest Ember?"
            )
        if self.archive.getinfo(path).file_size > MOST_PART:
            raise self.damaged(path, f"larger than {MOST_PART >> 20} MB")
        try:
            found = self.archive.read(path)
        except (zipfile.BadZipFile, zlib.error, EOFError, OSError) as error:
            raise self.damaged(path, str(error)) from error
        except (RuntimeError, NotImplementedError) as error:  # a password, an unknown packing
            raise ArchiveError(
                f"{self.name}: {path} is locked with a password or packed in an unknown way; "
                "nothing was stored. Write the archive again."
            ) from error
        if self.sums is not None and self.sums.get(path) != hashlib.sha256(found).hexdigest():
            raise self.damaged(path, "it is not what was written")
        return found

    def read(self, path: str, kind: Any) -> Any:
        """A file's content as a type. Raises ArchiveError."""
        try:
            return TypeAdapter(kind).validate_json(self.content(path))
        except ValidationError as error:
            raise self.damaged(path, sentences(error)[:500]) from error

    def optional(self, path: str, kind: type[T]) -> list[T]:
        """A list that archives of before have not."""
        found: list[T] = self.read(path, list[kind]) if path in self.names else []  # type: ignore[valid-type]
        return found

    def damaged(self, path: str, why: str) -> ArchiveError:
        """What is said of a file that is not as it should be."""
        return ArchiveError(
            f"{self.name}: the archive is damaged ({path}: {why}); nothing was stored."
        )


def opened(path: Path, name: str) -> Archived:
    """The contents of an archive, each part looked at. Raises ArchiveError, IntakeError."""
    check_zip(path)
    try:
        archive = zipfile.ZipFile(path)
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise ArchiveError(
            f"{name}: the archive is damaged ({error}); nothing was stored."
        ) from error
    reader = _Reader(archive, name)
    first = reader.read("archive.json", dict[str, Any])
    if first.get("format") != FORMAT or first.get("version") not in READABLE:
        raise ArchiveError(
            f"{name}: this is no archive of a kind that is read here ({FORMAT}, version "
            f"{READABLE[0]} or {READABLE[-1]})."
        )
    reader.version = first["version"]
    head: ArchiveHead = reader.read("archive.json", ArchiveHead)
    _once(reader, "archive.json", [one.folder for one in head.systems])
    _once(reader, "archive.json", [one.name for one in head.systems])
    reader.sums = head.files
    for file in head.files or ():
        reader.content(file)
    library = reader.optional("library.json", TablePart)
    for table in library:
        _described(reader, "library.json", partial(table_from_json, table.table))
    return Archived([_system(reader, one) for one in head.systems], library)


def _system(reader: _Reader, listed: Listed) -> SystemArchived:
    folder = listed.folder
    text_of = reader.content(f"{folder}/description.json")
    described = _described(
        reader,
        f"{folder}/description.json",
        lambda: installation_from_json(text_of, f"{folder}/description.json"),
    )
    if described.name != listed.name:
        raise reader.damaged(f"{folder}/description.json", f"it is not that of '{listed.name}'")
    found = SystemArchived(
        listed=listed,
        text=installation_to_json(described) if reader.version == 1 else text_of.decode(),
        described=described,
        history=reader.read(f"{folder}/history.json", list[ArchivedEdition]),
        loggers=reader.read(f"{folder}/loggers.json", list[LoggerPart]),
        imports=reader.read(f"{folder}/imports.json", list[ImportPart]),
        entries=reader.read(f"{folder}/entries.json", list[EntryPart]),
        changes=reader.read(f"{folder}/changes.json", list[ChangePart]),
        recipes=reader.read(f"{folder}/recipes.json", list[RecipePart]),
        statuses=_statuses(reader, f"{folder}/findings.json"),
        proofs=[_of_today(reader, p) for p in reader.optional(f"{folder}/proofs.json", ProofPart)],
        readings=lambda part: _weeks(reader, part),
    )
    for edition in found.history:
        _described(reader, f"{folder}/history.json", partial(_object, edition.text))
    _once(reader, f"{folder}/loggers.json", [one.name for one in found.loggers])
    _once(reader, f"{folder}/entries.json", [one.id for one in found.entries])
    _once(reader, f"{folder}/recipes.json", [one.name for one in found.recipes])
    _once(reader, f"{folder}/findings.json", [one.code for one in found.statuses])
    _once(reader, f"{folder}/proofs.json", [one.key for one in found.proofs])
    known = {one.name for one in found.loggers}
    for part in found.imports:
        place = f"{folder}/imports.json"
        if part.stop <= part.start:
            raise reader.damaged(place, f"'{part.file}' ends before it begins")
        if part.logger is not None and part.logger not in known:
            raise reader.damaged(place, f"there is no logger '{part.logger}'")
        try:
            Reported.model_validate_json(part.report)
        except ValidationError as error:
            raise reader.damaged(place, f"report: {sentences(error)[:300]}") from error
        for _ in found.readings(part):
            pass
    for proof in found.proofs:
        for content in (proof.asked, proof.shown):
            _described(reader, f"{folder}/proofs.json", partial(_object, content))
    return found


def _statuses(reader: _Reader, path: str) -> list[FindingStatusPart]:
    """Where findings stand; version 1 knew them by their names."""
    if reader.version == 1:
        former = reader.optional(path, dict[str, Any])
        for one in former:
            try:
                one["code"] = code_of_finding(one.pop("kind"))
            except (KeyError, TypeError) as error:
                raise reader.damaged(path, f"there is no finding {error}") from error
        try:
            return TypeAdapter(list[FindingStatusPart]).validate_json(json.dumps(former))
        except ValidationError as error:
            raise reader.damaged(path, sentences(error)[:500]) from error
    return reader.optional(path, FindingStatusPart)


def _of_today(reader: _Reader, proof: ProofPart) -> ProofPart:
    """A pinned figure in the form of today."""
    if reader.version != 1:
        return proof
    try:
        shown = json.dumps(upgraded(json.loads(proof.shown)))
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise reader.damaged("proofs.json", f"{proof.key}: {error}") from error
    return proof.model_copy(update={"shown": shown})


def _object(content: str) -> None:
    if not isinstance(json.loads(content), dict):
        raise ValueError("no object")


def _described(reader: _Reader, path: str, make: Callable[[], T]) -> T:
    """What a part describes. Raises ArchiveError."""
    try:
        return make()
    except (EmberError, ValueError, RecursionError) as error:
        raise reader.damaged(path, str(error)[:500]) from error


def _once(reader: _Reader, path: str, keys: list[Any]) -> None:
    if len(set(keys)) != len(keys):
        twice = next(key for key in keys if keys.count(key) > 1)
        raise reader.damaged(path, f"'{twice}' stands in it twice")


def _weeks(reader: _Reader, part: ImportPart) -> Iterator[tuple[int, Trace]]:
    """The weeks of an import. Raises ArchiveError where they are not what they say."""
    path = part.readings

    def wrong(why: str) -> ArchiveError:
        return reader.damaged(path, why)

    try:
        table = parquet.read_table(BytesIO(reader.content(path)))
        weeks = TypeAdapter(list[WeekPart]).validate_json(
            (table.schema.metadata or {}).get(b"weeks", b"")
        )
    except ValidationError as error:
        raise wrong(sentences(error)[:300]) from error
    except MemoryError:
        raise
    except (pa.ArrowException, OSError, ValueError, KeyError) as error:
        raise wrong(str(error)[:300]) from error
    if not weeks:
        raise wrong("it holds no week")
    if sum(one.rows for one in weeks) != table.num_rows:
        raise wrong(
            f"its weeks have {sum(w.rows for w in weeks):,} rows, it has {table.num_rows:,}"
        )
    _once(reader, path, [one.week for one in weeks])
    times = _numbers(table, "time", wrong)
    columns = {name: _numbers(table, name, wrong) for name in table.column_names if name != "time"}
    for name, values in columns.items():
        try:
            quantity_of(name)
        except EmberError as error:
            raise wrong(f"'{name}' is no channel") from error
        if np.isinf(values).any():
            raise wrong(f"'{name}' holds infinite values")
    first = 0
    for one in weeks:
        last = first + one.rows
        begin = MONDAY + one.week * WEEK
        stop = one.start + one.rows * one.step
        inside = begin <= one.start and stop <= begin + WEEK + one.step
        expected = one.start + one.step * np.arange(one.rows)
        if not inside or not np.array_equal(times[first:last], expected):
            raise wrong(f"the times of week {one.week} are not those that it says")
        missing = set(one.native) - set(columns)
        if missing or not one.native:
            raise wrong(f"week {one.week} names {', '.join(sorted(missing)) or 'no channel'}")
        channels = {name: columns[name][first:last] for name in one.native}
        yield one.week, Trace(one.start, one.step, channels, one.native)
        first = last


def _numbers(table: pa.Table, name: str, wrong: Callable[[str], ArchiveError]) -> Any:
    if table.column_names.count(name) != 1:
        raise wrong(f"it has no column '{name}', or several")
    kind = table.schema.field(name).type
    if not (pa.types.is_floating(kind) or pa.types.is_integer(kind)):
        raise wrong(f"'{name}' holds no numbers")
    return table.column(name).to_numpy().astype(np.float64)


def main(path: Path, name: str) -> None:
    """Looks at an archive, and says what is wrong."""
    confine()
    try:
        opened(path, name)
    except EmberError as error:
        say({"error": str(error)})
    say({})


if __name__ == "__main__":
    main(Path(sys.argv[1]), sys.argv[2])
