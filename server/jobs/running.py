"""Running and cancelling jobs.

A job runs in the worker, one at a time. Its row is all that is known of it from outside: what it
is doing, how far it is, whether it is to stop. A worker that is killed leaves a row without a
heartbeat; whoever sees it next marks it as interrupted, and it can be started again.
"""

import logging
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from django.db import connection
from django.utils import timezone

from ember.basis.errors import EmberError
from ember.unpacked import Limits, limited
from server.jobs.models import Job
from server.jobs.trouble import disk_full

BEAT = 2.0  # [s]
JOBS_EVERY = 1.0  # it is looked up whether a job that waits was cancelled [s]
UNPACKING = 300.0  # that a file may take to be unpacked [s]
FULL_DISK = "The server's disk is full; make room on it."
log = logging.getLogger(__name__)


class JobError(EmberError):
    """Something that cannot be done with a job; a sentence for the user."""


class Cancelled(Exception):
    """The user asked a running job to stop."""


Tell = Callable[[float, str], None]  # how far, 0 … 1, and what is being done; may raise Cancelled
Handler = Callable[[Job, Tell], dict[str, Any]]
HANDLERS: dict[str, Handler] = {}


def handles(kind: str) -> Callable[[Handler], Handler]:
    """Names the function that does a kind of job."""

    def named(handler: Handler) -> Handler:
        HANDLERS[kind] = handler
        return handler

    return named


def cancel(job: Job) -> None:
    """Asks a job to stop. Raises JobError if it is over."""
    waiting = Job.objects.filter(pk=job.pk, state=Job.State.WAITING).update(
        state=Job.State.CANCELLED, finished=timezone.now(), message="Cancelled before it began."
    )
    if waiting:
        return
    if not Job.objects.filter(pk=job.pk, state=Job.State.RUNNING).update(cancel=True):
        raise JobError(f"{job.title}: this job is over already.")


def perform(pk: int) -> None:
    """Does a job. Called in the worker."""
    begun = Job.objects.filter(pk=pk, state=Job.State.WAITING).update(
        state=Job.State.RUNNING,
        begun=timezone.now(),
        heartbeat=timezone.now(),
        doing="beginning",
    )
    if not begun:  # cancelled while it waited, or begun already
        return
    job = Job.objects.select_related("system").get(pk=pk)

    def tell(progress: float, doing: str) -> None:
        Job.objects.filter(pk=pk).update(progress=progress, doing=doing, heartbeat=timezone.now())
        if Job.objects.filter(pk=pk, cancel=True).exists():
            raise Cancelled

    end: dict[str, Any] = {"finished": None, "heartbeat": None}
    try:
        with _beating(pk), limited(Limits(UNPACKING, _watch(pk))):
            result = HANDLERS[job.kind](job, tell)
    except Cancelled:
        end |= {"state": Job.State.CANCELLED, "message": "Cancelled; " + _left(pk)}
    except EmberError as error:
        end |= {"state": Job.State.FAILED, "message": str(error)}
    except Exception as error:
        log.exception("job %s (%s) failed", pk, job.kind)
        end |= {
            "state": Job.State.FAILED,
            "message": f"{FULL_DISK} {_left(pk).capitalize()} Then go on with it."
            if disk_full(error)
            else f"This is a fault of the program, not of your file; {_left(pk)} "
            f"The log names the place under job {pk}.",
        }
    else:
        kept = Job.objects.values_list("result", flat=True).get(pk=pk)
        end |= {"state": Job.State.DONE, "progress": 1.0, "doing": "done"}
        end |= {"result": {**kept, **result}}
    Job.objects.filter(pk=pk).update(**{**end, "finished": timezone.now()})


def _watch(pk: int) -> Callable[[], bool]:
    """Ends what a job waits for where it is cancelled meanwhile; looked up once a second."""
    looked = time.monotonic()

    def cancelled() -> bool:
        nonlocal looked
        if time.monotonic() - looked > JOBS_EVERY:
            looked = time.monotonic()
            if Job.objects.filter(pk=pk, cancel=True).exists():
                raise Cancelled
        return False

    return cancelled


def _left(pk: int) -> str:
    """What an unfinished job has left behind, in words."""
    if Job.objects.values_list("result", flat=True).get(pk=pk):
        return "the readings are stored, the figures are not worked out yet."
    return "nothing was stored."


def mark_interrupted(everything: bool = False) -> int:
    """Marks jobs whose worker is gone; all running ones if no worker can be at them."""
    count = 0
    for job in Job.objects.filter(state=Job.State.RUNNING):
        if everything or job.silent:
            said = f"The worker stopped while it was {job.doing}: {_left(job.pk)} It can go on."
            count += Job.objects.filter(
                pk=job.pk, state=Job.State.RUNNING, heartbeat=job.heartbeat
            ).update(state=Job.State.INTERRUPTED, message=said, finished=timezone.now())
    return count


@contextmanager
def _beating(pk: int) -> Iterator[None]:
    """Renews the heartbeat while a long step runs."""
    over = threading.Event()

    def beat() -> None:
        while not over.wait(BEAT):
            Job.objects.filter(pk=pk).update(heartbeat=timezone.now())
        connection.close()

    thread = threading.Thread(target=beat, daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()
