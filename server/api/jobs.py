"""Long work: looking at it, stopping it, going on."""

from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest
from ninja import Router

from server.api.fleet import get_system
from server.jobs.models import Job
from server.jobs.queueing import go_on
from server.jobs.running import JobError, cancel, mark_interrupted

router = Router(tags=["jobs"])


@dataclass(frozen=True)
class JobShown:
    """A job. state : waiting, running, done, failed, cancelled, interrupted. progress : 0 … 1;
    left : how long it still takes [s], null where that cannot be told.
    stored, already, turned : keys of imports, where it has to do with one: stored by it, held by
    the same file before, taken out or put back."""

    id: int
    kind: str
    title: str
    system: int | None
    state: str
    progress: float
    left: float | None
    doing: str
    message: str
    rows: int | None
    stored: int | None
    already: int | None
    turned: int | None
    created: float
    finished: float | None


def shown(job: Job) -> JobShown:
    """A job's row."""
    return JobShown(
        id=job.pk,
        kind=job.kind,
        title=job.title,
        system=job.system_id,
        state=job.state,
        progress=job.progress,
        left=job.left,
        doing=job.doing,
        message=job.message,
        rows=job.result.get("rows"),
        stored=job.result.get("import"),
        already=job.result.get("already"),
        turned=job.result.get("turned"),
        created=job.created.timestamp(),
        finished=job.finished.timestamp() if job.finished else None,
    )


def get_job(pk: int) -> Job:
    """A job by its key. Raises JobError."""
    found = Job.objects.filter(pk=pk).first()
    if found is None:
        raise JobError(f"There is no job {pk}.")
    if found.silent:
        mark_interrupted()
        found.refresh_from_db()
    return found


def result_of(pk: int, what: str) -> Any:
    """What came of a job. Raises JobError where nothing did yet, or no such thing."""
    found = get_job(pk)
    if found.state != Job.State.DONE or what not in found.result:
        raise JobError(f"{found.title}: {found.message or found.doing}.")
    return found.result[what]


@router.get("/jobs/{pk}", response=JobShown)
def job(request: HttpRequest, pk: int) -> JobShown:
    """How far a job is."""
    return shown(get_job(pk))


@router.get("/systems/{pk}/jobs", response=list[JobShown])
def jobs(request: HttpRequest, pk: int) -> list[JobShown]:
    """The latest jobs of a system, the latest first."""
    mark_interrupted()
    return [shown(job) for job in get_system(pk).jobs.all()[:10]]


@router.post("/jobs/{pk}/cancel", response=JobShown)
def stop(request: HttpRequest, pk: int) -> JobShown:
    """Asks a job to stop."""
    cancel(get_job(pk))
    return shown(get_job(pk))


@router.post("/jobs/{pk}/go-on", response=JobShown)
def again(request: HttpRequest, pk: int) -> JobShown:
    """Goes on with a job that was interrupted, failed or was cancelled."""
    go_on(get_job(pk))
    return shown(get_job(pk))
