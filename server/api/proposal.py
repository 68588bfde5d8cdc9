"""Log first: a description proposed from a file that is dropped before anything is described."""

from dataclasses import dataclass
from typing import Any

import orjson
from django.conf import settings
from django.http import HttpRequest
from ninja import Body, File, Form, Router
from ninja.files import UploadedFile

from ember.basis.clock import zone_named
from ember.basis.errors import DescriptionError, IntakeError
from ember.description.as_json import installation_from_json
from ember.proposal.proposed import answered
from server.api.fleet import Described
from server.api.jobs import JobShown, result_of, shown
from server.assessments.proposed import LogProposal
from server.jobs.queueing import start
from server.readings.uploads import aside, forget, name_of, write
from server.systems.models import System
from server.systems.names import twin_of

router = Router(tags=["fleet"])
MOST_FILES = 50


@dataclass(frozen=True)
class BeginFromLog:
    """A proposal, the name it gets, and the answers by question."""

    name: str
    description: str
    answers: dict[str, str]


@router.post("/proposal", response=JobShown)
def look(request: HttpRequest, file: File[list[UploadedFile]], zone: Form[str] = "UTC") -> JobShown:
    """Looks at the logs of a system that is not described, as a job; nothing is stored."""
    if sum(one.size or 0 for one in file) > settings.LARGEST_UPLOAD or len(file) > MOST_FILES:
        limit = settings.LARGEST_UPLOAD >> 20
        raise IntakeError(f"More than {limit} MB or {MOST_FILES} files together.")
    zone_named(zone.strip())
    folder = aside()
    names = [f"{k}/{name_of(one)}" for k, one in enumerate(file)]
    try:
        for name, one in zip(names, file, strict=True):
            write(one, folder / name)
    except OSError:
        forget(folder)
        raise
    title = f"Looking at {name_of(file[0])}"[:200]
    asked = {"folder": str(folder), "files": names, "zone": zone.strip()}
    return shown(start("proposal", title, None, request.user, **asked))


@router.get("/jobs/{job}/proposal", response=LogProposal)
def proposed(request: HttpRequest, job: int) -> Any:
    """What was found, once the job is done."""
    return result_of(job, "proposal")


@router.post("/proposal/accept", response=Described)
def accept(request: HttpRequest, asked: Body[BeginFromLog]) -> Described:
    """Adds the system that a proposal describes, with what was answered."""
    name = asked.name.strip()
    if not name:
        raise DescriptionError("name: give the system a name.")
    if (other := twin_of(name)) is not None:
        raise DescriptionError(f"There is a system called '{other.name}' already.")
    installation_from_json(asked.description, "proposal")  # so that it is JSON, and an object
    value = {**orjson.loads(asked.description), "name": name}
    described = installation_from_json(orjson.dumps(value), "proposal")
    made = System.describe(answered(described, asked.answers))
    return Described(made.pk, made.name)
