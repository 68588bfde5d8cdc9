"""The one task of the queue, and what the worker does when it starts."""

from django_tasks import task
from huey.contrib.djhuey import on_startup

from server.work.jobs import mark_interrupted, perform


@task()
def perform_job(pk: int) -> None:
    """Does a job by its key."""
    perform(pk)


@on_startup()  # type: ignore[untyped-decorator]
def sweep() -> None:
    """There is one worker: what still claims to run when it starts was cut off. What is stale by
    then, after an update or a stop between two steps, is worked out anew."""
    from server.analysis.keep import renew_stale
    from server.logbook.tasks import fold_waiting

    mark_interrupted(everything=True)
    fold_waiting()
    renew_stale()
