"""Log: a file in, looked at, stored, taken out again."""

from dataclasses import asdict, dataclass, field
from itertools import chain
from math import ceil
from pathlib import Path
from typing import Any, Literal

import orjson
from django.contrib.auth.models import User
from django.http import HttpRequest, StreamingHttpResponse
from django.http.response import HttpResponseBase
from ninja import Body, File, Router
from ninja.files import UploadedFile

from ember.basis.channels import QUANTITIES, Kind, quantity_of
from ember.basis.clock import zone_named
from ember.basis.errors import IntakeError
from ember.basis.quantity import compatible_units, symbol
from ember.description.fresh import fresh, meter_list, with_meter
from ember.description.installation import Consumer, HeatSource, channels_of
from ember.intake import joined, read_pieces
from ember.intake.read import columns_without, opened
from ember.messages import Reason
from ember.unpacked.apart import is_packed
from server.api.files import attachment, written_file
from server.api.fleet import get_system
from server.api.jobs import JobShown, shown
from server.api.typed import Short
from server.assessments.cache import renew
from server.assessments.times import instant
from server.background.handlers import read_with
from server.jobs.queueing import start
from server.readings.export import as_csv, as_parquet, as_xlsx
from server.readings.models import Import, Upload
from server.readings.store import Conflict, NotThere, digest_of
from server.readings.uploads import name_of, small_enough, sweep, write
from server.readings.weather import outdoors
from server.systems.models import System
from server.systems.names import clean

LOG_WEATHER = frozenset({"outdoor_temp", "outdoor_humidity", "solar_radiation"})
router = Router(tags=["log"])
LOG_SAMPLE = 3  # rows of a file that are shown


@dataclass(frozen=True)
class ModeShown:
    """A word or code of a column of modes, and the state that it means."""

    word: str
    state: str


@dataclass(frozen=True)
class ColumnChoice:
    """A column set by hand: its header, its channel, and its unit if the header does not say.

    counts : what one pulse is worth, in that unit; each_row : it holds the amount of each row.
    modes : of a column of modes, each word with the state that it means."""

    header: str
    channel: str
    unit: str | None
    counts: float | None = None
    each_row: bool = False
    modes: list[ModeShown] = field(default_factory=list)


@dataclass(frozen=True)
class ImportChoice:
    """The columns to read; null for those that a recipe remembers, unless `guess`."""

    columns: list[ColumnChoice] | None
    guess: bool


@dataclass(frozen=True)
class Storing:
    """As Choice; and what happens where readings are stored: fill (they stay), replace, or keep
    (the file adds nothing at such times). remember : the name under which columns set by hand are
    kept for the next file with these headers."""

    columns: list[ColumnChoice] | None
    guess: bool
    remember: str | None
    rule: Literal["fill", "replace", "keep"]


@dataclass(frozen=True)
class ColumnShown:
    """A column and what becomes of it. valid : cells with a reading. modes : of a column of modes,
    each word with the state that it was taken for."""

    header: str
    channel: str
    unit: str
    symbol: str
    reason: str
    valid: int
    modes: list[ModeShown]


@dataclass(frozen=True)
class ColumnAnswer:
    """An answer to what a column is: a channel, or none. preview : what it would give."""

    channel: str
    words: str
    preview: str


@dataclass(frozen=True)
class QuestionShown:
    """What only a person can say of a column."""

    header: str
    sentence: str
    choices: list[ColumnAnswer]


@dataclass(frozen=True)
class NoteShown:
    """Something that reading did: read, converted, doubted, left out."""

    treatment: str
    text: str
    count: int


@dataclass(frozen=True)
class ReportShown:
    """What reading a file did. cells : of the grid that it fills."""

    file: str
    dialect: str
    clock: str
    rows: int
    start: float
    stop: float
    step: int
    cells: int
    columns: list[ColumnShown]
    ignored: list[str]
    notes: list[NoteShown]
    questions: list[QuestionShown]


@dataclass(frozen=True)
class GivenShown:
    """A column of the same file that another system reads already."""

    header: str
    system: str


@dataclass(frozen=True)
class Preview:
    """A file as it would be stored, or why it can't be. already : the import that holds it.
    opening : the job that opens it first. recipe : by which the columns were read. given : columns
    that other systems have of it."""

    upload: int
    name: str
    size: int
    report: ReportShown | None
    problem: str | None
    already: int | None
    overlap_days: int
    headers: list[str]
    sample: list[list[str]]
    recipe: str | None
    given: list[GivenShown]
    opening: JobShown | None


@dataclass(frozen=True)
class ImportShown:
    """A file that was stored."""

    id: int
    file: str
    state: str
    rule: str
    rows: int
    start: float
    stop: float
    step: int
    created: float
    report: ReportShown


@dataclass(frozen=True)
class OutdoorsShown:
    """Share of the record that knows the outdoor temperature; why none can be fetched."""

    known: float
    reason: Reason | None


@dataclass(frozen=True)
class UnitChoice:
    """A unit of the closed list."""

    unit: str
    symbol: str


@dataclass(frozen=True)
class MeterOffered:
    """A meter that the description could be given for a channel. words : what it is; holds : what
    may be behind it, empty where that need not be said; usual : what is, without a word."""

    words: str
    holds: list[str]
    usual: list[str]


@dataclass(frozen=True)
class MeterAdded:
    """A meter to describe: the channel that it reads, its name, and what it holds."""

    channel: Short
    name: Short
    includes: list[Short]


@dataclass(frozen=True)
class MeterNow:
    """The channel that a new meter reads."""

    channel: str


@dataclass(frozen=True)
class ChannelShown:
    """A channel that a column may be. needed : the description reads it; counter : a register.
    meter : what the description would be given to read it; null where it needs none."""

    channel: str
    meaning: str
    needed: bool
    counter: bool
    units: list[UnitChoice]
    meter: MeterOffered | None


@router.get("/systems/{pk}/channels", response=list[ChannelShown])
def channels(request: HttpRequest, pk: int) -> list[ChannelShown]:
    """What a column may be, those that the description reads first."""
    needed = channels_of(get_system(pk).installation)
    named = [c for c in QUANTITIES if c not in needed]
    found = []
    for channel in [*needed, *named]:
        quantity = quantity_of(channel)
        plain = quantity.kind in (Kind.FLAG, Kind.WORDS)
        units = [] if plain else compatible_units(quantity.unit)
        choices = [UnitChoice(unit, symbol(unit)) for unit in units]
        label = channel.partition(":")[2]
        meaning = f"{quantity.meaning}, {label}" if label else quantity.meaning
        counter = quantity.kind == Kind.COUNTER
        offered = None if channel in needed else _offered(channel)
        found.append(ChannelShown(channel, meaning, channel in needed, counter, choices, offered))
    return found


METERS_SAID = {
    "electricity": "an electricity meter",
    "registers": "a heat register",
    "reported": "heat that the controller reports",
    "yields": "environmental yield",
    "circuits": "heat by flow × ΔT, with flow and return temperature",
}


def _offered(channel: str) -> MeterOffered | None:
    where = meter_list(channel)
    if where is None:
        return None
    usual = fresh()[where].get("includes")
    kinds = Consumer if where == "electricity" else HeatSource
    holds = [] if usual is None else [one.value for one in kinds]
    return MeterOffered(METERS_SAID[where], holds, usual or [])


@router.post("/systems/{pk}/meters", response=MeterNow)
def add_meter(request: HttpRequest, pk: int, asked: Body[MeterAdded]) -> MeterNow:
    """Describes a meter for what a file holds; set up has all else that can be said of it."""
    system = get_system(pk)
    described, channel = with_meter(system.installation, asked.channel, asked.name, asked.includes)
    system.put(described, request.user)
    renew(system, request.user)
    return MeterNow(channel)


@router.post("/systems/{pk}/uploads", response=Preview)
def send(request: HttpRequest, pk: int, file: File[UploadedFile]) -> Preview:
    """Takes a file and looks at it; nothing is stored yet. One that is packed is opened by a job
    first; then it is to be looked at again."""
    system = get_system(pk)
    name = name_of(file)
    small_enough(file, name)
    sweep()
    user = request.user if isinstance(request.user, User) else None
    upload = Upload.objects.create(system=system, user=user, name=name, size=file.size or 0)
    try:
        write(file, upload.path)
    except OSError:
        upload.forget()
        raise
    if is_packed(upload.path):
        job = start("open", f"Opening {name}"[:200], system, request.user, upload=upload.pk)
        return Preview(
            upload=upload.pk,
            name=name,
            size=upload.size,
            report=None,
            problem=None,
            already=None,
            overlap_days=0,
            headers=[],
            sample=[],
            recipe=None,
            given=[],
            opening=shown(job),
        )
    return _preview(upload, None)


@router.post("/uploads/{pk}/preview", response=Preview)
def look(request: HttpRequest, pk: int, choice: Body[ImportChoice]) -> Preview:
    """Looks at a file again, with other columns."""
    return _preview(_opened(pk), choice)


@router.post("/uploads/{pk}/store", response=JobShown)
def keep_it(request: HttpRequest, pk: int, choice: Body[Storing]) -> JobShown:
    """Stores a file, as a job."""
    upload = _opened(pk)
    headers, _ = _head(upload.path)
    columns, _ = _columns(upload, choice, headers)
    read_with(upload.system, columns)
    if choice.columns is not None and choice.remember:
        upload.system.recipes.update_or_create(
            name=clean(choice.remember), defaults={"headers": headers, "columns": columns}
        )
    job = start(
        "import",
        f"Importing {upload.name}",
        upload.system,
        request.user,
        upload=upload.pk,
        columns=columns,
        rule=choice.rule,
    )
    return shown(job)


@router.delete("/uploads/{pk}", response=Preview)
def discard(request: HttpRequest, pk: int) -> Preview:
    """Forgets a file that was sent."""
    upload = _upload(pk)
    gone = Preview(
        upload=pk,
        name=upload.name,
        size=upload.size,
        report=None,
        problem=None,
        already=None,
        overlap_days=0,
        headers=[],
        sample=[],
        recipe=None,
        given=[],
        opening=None,
    )
    upload.forget()
    return gone


@router.get("/systems/{pk}/weather", response=OutdoorsShown)
def weather(request: HttpRequest, pk: int) -> OutdoorsShown:
    """How much is known outdoors, and whether the rest can be fetched."""
    found = outdoors(get_system(pk))
    return OutdoorsShown(found.known, found.reason)


@router.post("/systems/{pk}/weather", response=JobShown)
def fetch_weather(request: HttpRequest, pk: int) -> JobShown:
    """Fetches outdoor weather for times that lack it, as a job."""
    system = get_system(pk)
    found = outdoors(system)
    if found.reason is not None:
        raise IntakeError(f"{system.name}: {found.reason}.")
    return shown(start("weather", f"Weather of {system.name}", system, request.user))


@router.get("/systems/{pk}/imports", response=list[ImportShown])
def imports(request: HttpRequest, pk: int) -> list[ImportShown]:
    """The imports of a system, the latest first."""
    return [
        ImportShown(
            id=batch.pk,
            file=batch.file,
            state=batch.state,
            rule=batch.rule,
            rows=batch.rows,
            start=batch.start,
            stop=batch.stop,
            step=batch.step,
            created=batch.created.timestamp(),
            report=_stored_report(batch),
        )
        for batch in get_system(pk).imports.order_by("-pk")
    ]


@router.get("/systems/{pk}/readings")
def readings(
    request: HttpRequest, pk: int, start: str, stop: str, form: Literal["csv", "xlsx", "parquet"]
) -> HttpResponseBase:
    """The stored readings between two local days or times as a file, in the core's units, UTC."""
    system = get_system(pk)
    zone = zone_named(system.installation.zone)
    begin, end = instant(start, zone, "from"), instant(stop, zone, "to", 1)
    words = f"{system.name} {start[:10]} {stop[:10]}"
    if form == "csv":
        chunks = as_csv(system, begin, end)
        first = next(chunks)  # so that a refusal comes as one
        response: HttpResponseBase = StreamingHttpResponse(
            chain([first], chunks), content_type="text/csv; charset=utf-8"
        )
    else:
        write = as_xlsx if form == "xlsx" else as_parquet
        return written_file(words, form, lambda path: write(system, begin, end, path))
    response["Content-Disposition"] = attachment(words, form)
    return response


@router.post("/imports/{pk}/undo", response=JobShown)
def take_out(request: HttpRequest, pk: int) -> JobShown:
    """Takes an import out again, as a job."""
    return _turn(request, pk, "undo", Import.State.STORED, "undone already")


@router.post("/imports/{pk}/redo", response=JobShown)
def put_back(request: HttpRequest, pk: int) -> JobShown:
    """Puts an import back that was taken out, as a job."""
    return _turn(request, pk, "redo", Import.State.UNDONE, "stored already")


def _turn(request: HttpRequest, pk: int, kind: str, before: str, otherwise: str) -> JobShown:
    batch = Import.objects.filter(pk=pk).select_related("system").first()
    if batch is None:
        raise NotThere(f"There is no import {pk}.")
    if batch.state != before:
        raise Conflict(f"{batch.file}: this import is {otherwise}.")
    title = f"{'Taking out' if kind == 'undo' else 'Putting back'} {batch.file}"
    job = start(kind, title, batch.system, request.user, **{"import": pk})
    return shown(job)


def _columns(
    upload: Upload, choice: ImportChoice | Storing | None, headers: list[str]
) -> tuple[list[dict[str, Any]] | None, str | None]:
    """The columns to read, None to guess them; and the recipe that they are from."""
    if choice is not None and choice.columns is not None:
        return [asdict(column) for column in choice.columns], None
    if (choice is None or not choice.guess) and headers:
        for recipe in upload.system.recipes.order_by("-created"):
            if recipe.headers == headers:
                return recipe.columns, recipe.name
    given = [one.header for one in _given(upload.system, digest_of(upload.path))]
    if given and not upload.system.installation.columns:
        try:
            found = columns_without(upload.path, upload.system.installation, given)
        except IntakeError:
            return None, None  # it is said where the file is read
        return [
            {**asdict(c), "modes": [{"word": word, "state": state} for word, state in c.modes]}
            for c in found
        ], None
    return None, None


def _given(system: System, digest: str) -> list[GivenShown]:
    """Columns of a file that other systems read: each meter is one unit's; the weather is
    everybody's."""
    shared = Import.objects.filter(digest=digest, state=Import.State.STORED).exclude(system=system)
    found = {}
    for batch in shared.select_related("system"):
        for column in orjson.loads(batch.report)["intake"]["columns"]:
            if column["valid"] and quantity_of(column["channel"]).name not in LOG_WEATHER:
                found[column["header"]] = batch.system.name
    return [GivenShown(header, name) for header, name in sorted(found.items())]


def _upload(pk: int) -> Upload:
    upload = Upload.objects.filter(pk=pk).select_related("system").first()
    if upload is None or not upload.path.exists():
        raise NotThere("The file that was sent is no longer there; send it again.")
    return upload


def _opened(pk: int) -> Upload:
    upload = _upload(pk)
    if is_packed(upload.path):
        raise IntakeError(f"{upload.name}: it is not opened yet. Wait until its job is done.")
    return upload


def _preview(upload: Upload, choice: ImportChoice | None) -> Preview:
    digest = digest_of(upload.path)
    same = upload.system.imports.filter(digest=digest, state=Import.State.STORED).first()
    given = _given(upload.system, digest)
    report = problem = None
    overlap = 0
    headers, sample = _head(upload.path)
    columns, recipe = _columns(upload, choice, headers)
    try:
        described = read_with(upload.system, columns)
        found = joined([report for _, report in read_pieces(upload.path, described)])
        report = _shown(orjson.loads(orjson.dumps(found)), found.start, found.stop)
        overlap = _overlap(upload, found.start, found.stop)
    except IntakeError as error:
        problem = str(error)
    return Preview(
        upload=upload.pk,
        name=upload.name,
        size=upload.size,
        report=report,
        problem=problem,
        already=same.pk if same else None,
        overlap_days=overlap,
        headers=headers,
        sample=sample,
        recipe=recipe,
        given=given,
        opening=None,
    )


def _overlap(upload: Upload, start: float, stop: float) -> int:
    """Days for which another import has readings too."""
    seconds, reached = 0.0, start
    stored = upload.system.imports.filter(state=Import.State.STORED)
    for first, last in stored.order_by("start").values_list("start", "stop"):
        seconds += max(0.0, min(last, stop) - max(first, reached))
        reached = max(reached, last)
    return ceil(seconds / 86_400)


def _head(path: Path) -> tuple[list[str], list[list[str]]]:
    """Headers and first rows of a log as they stand in it; nothing where it is none."""
    try:
        _, dialect, _, _ = opened(path)
    except IntakeError:
        return [], []
    return list(dialect.headers), [list(row) for row in dialect.sample[:LOG_SAMPLE]]


def _stored_report(batch: Import) -> ReportShown:
    return _shown(orjson.loads(batch.report)["intake"], batch.start, batch.stop)


def _shown(report: dict, start: float, stop: float) -> ReportShown:  # type: ignore[type-arg]
    columns = [
        ColumnShown(
            c["header"],
            c["channel"],
            c["unit"],
            symbol(c["unit"]) if c["unit"] else "",
            c["reason"],
            c["valid"],
            [ModeShown(word, state) for word, state in c.get("modes", ())],
        )
        for c in report["columns"]
    ]
    notes = [NoteShown(n["treatment"], n["text"], n["count"]) for n in report["notes"]]
    return ReportShown(
        file=report["file"],
        dialect=report["dialect"],
        clock=report["clock"],
        rows=report["rows"],
        start=start,
        stop=stop,
        step=report["step"],
        cells=round((stop - start) / report["step"]),
        columns=columns,
        ignored=list(report["ignored_columns"]),
        notes=notes,
        questions=[
            QuestionShown(
                q["header"],
                q["sentence"],
                [ColumnAnswer(a["channel"], a["words"], a["preview"]) for a in q["choices"]],
            )
            for q in report.get("questions", ())
        ],
    )
