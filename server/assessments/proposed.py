"""What a log gives by itself, as it travels; and looking at one as a job."""

from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ember.description.as_json import installation_to_json
from ember.messages import Reason
from ember.proposal.proposed import Proposal, propose
from server.assessments.shown import FigureShown, figure
from server.jobs.models import Job
from server.jobs.running import JobError, Tell, handles
from server.readings.uploads import forget


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
    reason: Reason | None
    days: float


@handles("proposal")
def _propose(job: Job, tell: Tell) -> dict[str, Any]:
    folder = Path(job.asked["folder"])
    paths = [folder / name for name in job.asked["files"]]
    if not all(path.exists() for path in paths):
        raise JobError("The files that were sent are no longer there; send them again.")
    names = ", ".join(path.name for path in paths)[:150]
    tell(0.1, f"reading {names}")
    called = paths[0].name.split(".")[0][:60].strip() or "new system"
    found = _shown(propose(paths, called, job.asked["zone"]))
    forget(folder)
    return {"proposal": asdict(found)}


def _shown(found: Proposal) -> LogProposal:
    return LogProposal(
        description=installation_to_json(found.installation),
        found=list(found.found),
        columns=[
            ColumnTaken(c.header, c.channel, c.reason) for r in found.reports for c in r.columns
        ],
        open=[
            OpenColumn(
                q.header, q.sentence, [ReplyShown(c.channel, c.words, c.preview) for c in q.choices]
            )
            for r in found.reports
            for q in r.questions
        ],
        asked=[
            AskedShown(
                a.key,
                a.sentence,
                [ReplyShown(o.key, o.words, o.preview) for o in a.answers],
                a.taken,
                a.skipped,
                a.number,
            )
            for a in found.asked
        ],
        cop=figure(found.cop),
        level=found.level,
        reason=found.reason,
        days=found.days,
    )
