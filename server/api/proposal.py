"""Log first: a description proposed from a file that is dropped before anything is described."""

from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

import orjson
from django.conf import settings
from django.http import HttpRequest
from ninja import Body, File, Form, Router
from ninja.files import UploadedFile

from ember.describe import Proposal, answered, propose
from ember.description import installation_from_json, installation_to_json
from ember.errors import DescriptionError, IntakeError
from server.analysis.shown import FigureShown, figure
from server.api.fleet import Described
from server.api.log import named
from server.installations.models import System

router = Router(tags=["fleet"])


@dataclass(frozen=True)
class ReplyShown:
    """An answer. preview : what it gives."""

    key: str
    words: str
    preview: str


@dataclass(frozen=True)
class AskedShown:
    """A question that only a person can answer. skipped : what it costs not to; number : it takes a
    number."""

    key: str
    sentence: str
    answers: list[ReplyShown]
    taken: str
    skipped: str
    number: bool


@dataclass(frozen=True)
class OpenColumn:
    """A column that the readings leave open, with what each answer would give."""

    header: str
    sentence: str
    answers: list[ReplyShown]


@dataclass(frozen=True)
class ColumnTaken:
    """A column with what it is taken for, and why."""

    header: str
    channel: str
    reason: str


@dataclass(frozen=True)
class LogProposal:
    """What a log gives by itself. description : as JSON, before any answer."""

    description: str
    found: list[str]
    columns: list[ColumnTaken]
    open: list[OpenColumn]
    asked: list[AskedShown]
    cop: FigureShown | None
    level: str | None
    why_not: str | None
    days: float


@dataclass(frozen=True)
class BeginFromLog:
    """A proposal, the name it gets, and the answers by question."""

    name: str
    description: str
    answers: dict[str, str]


@router.post("/proposal", response=LogProposal)
def look(
    request: HttpRequest, file: File[list[UploadedFile]], zone: Form[str] = "UTC"
) -> LogProposal:
    """Looks at the logs of a system that is not described; nothing is stored."""
    size = sum(one.size or 0 for one in file)
    if size > settings.LARGEST_UPLOAD:
        raise IntakeError(f"Larger than {settings.LARGEST_UPLOAD >> 20} MB together.")
    with TemporaryDirectory(prefix="ember-proposal-", dir=settings.VAR) as folder:
        paths = []
        for k, one in enumerate(file):
            path = Path(folder) / str(k) / named(one)
            path.parent.mkdir()
            with path.open("wb") as out:
                for chunk in one.chunks():
                    out.write(chunk)
            paths.append(path)
        called = paths[0].name.split(".")[0][:60] or "new system"
        return _shown(propose(paths, called, zone.strip()))


def _shown(found: Proposal) -> LogProposal:
    return LogProposal(
        installation_to_json(found.installation), list(found.found),
        [ColumnTaken(c.header, c.channel, c.reason) for r in found.reports for c in r.columns],
        [
            OpenColumn(
                q.header, q.sentence, [ReplyShown(c.channel, c.words, c.preview) for c in q.choices]
            )
            for r in found.reports
            for q in r.questions
        ],
        [
            AskedShown(
                a.key, a.sentence, [ReplyShown(o.key, o.words, o.preview) for o in a.answers],
                a.taken, a.skipped, a.number,
            )
            for a in found.asked
        ],
        figure(found.cop), found.level, found.why_not, found.days,
    )  # fmt: skip


@router.post("/proposal/accept", response=Described)
def accept(request: HttpRequest, asked: Body[BeginFromLog]) -> Described:
    """Adds the system that a proposal describes, with what was answered."""
    name = asked.name.strip()
    if not name:
        raise DescriptionError("name: give the system a name.")
    if System.objects.filter(name=name).exists():
        raise DescriptionError(f"There is a system called '{name}' already.")
    value = orjson.loads(asked.description)
    described = installation_from_json(orjson.dumps({**value, "name": name}), "proposal")
    made = System.describe(answered(described, asked.answers))
    return Described(made.pk, made.name)
