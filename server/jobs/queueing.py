"""Starting jobs, and going on with those that stopped."""

from typing import Any

from django.db import transaction

from server.jobs.models import Job
from server.jobs.running import JobError
from server.jobs.tasks import perform_job, queued
from server.systems.models import System


def start(kind: str, title: str, system: System | None, user: Any, **asked: Any) -> Job:
    """Queues a job."""
    known = user if getattr(user, "pk", None) else None
    job = Job.objects.create(kind=kind, title=title, system=system, user=known, asked=asked)
    queue(job)
    return job


def queue(job: Job) -> None:
    """Puts a waiting job into the worker's queue. Twice is no harm: it is begun once; and where
    that fails the job waits, and is queued within a minute."""
    transaction.on_commit(lambda: perform_job.enqueue(job.pk), robust=True)


def queue_lost() -> int:
    """Queues jobs that wait and that the queue does not hold: the worker died as it took one, or
    the queue's file is another than it was. How many those were."""
    waiting = set(Job.objects.filter(state=Job.State.WAITING).values_list("pk", flat=True))
    lost = waiting - queued() if waiting else set()
    for job in Job.objects.filter(pk__in=lost).order_by("pk"):
        queue(job)
    return len(lost)


def go_on(job: Job) -> None:
    """Starts an interrupted, failed or cancelled job again; one that waits is queued anew, should
    the queue have lost it. Raises JobError if it is none of these."""
    again = (Job.State.INTERRUPTED, Job.State.FAILED, Job.State.CANCELLED)
    changed = Job.objects.filter(pk=job.pk, state__in=again).update(
        state=Job.State.WAITING,
        cancel=False,
        progress=0.0,
        doing="waiting for the worker",
        message="",
        finished=None,
        heartbeat=None,
    )
    if not changed and not Job.objects.filter(pk=job.pk, state=Job.State.WAITING).exists():
        job.refresh_from_db()
        raise JobError(f"{job.title}: this job is {job.state}; there is nothing to go on with.")
    queue(job)
