"""The one task of the queue, and what the worker looks after when it starts and now and then."""

from django_tasks import task
from huey import crontab
from huey.contrib.djhuey import HUEY, db_periodic_task, on_startup

from server.work.jobs import mark_interrupted, perform, queue_lost


@task()
def perform_job(pk: int) -> None:
    """Does a job by its key."""
    perform(pk)


def queued() -> set[int]:
    """Keys of the jobs that are in the queue."""
    run = perform_job.module_path
    return {one.args[1][0] for one in HUEY.pending() if one.args and one.args[0] == run}


@on_startup()  # type: ignore[untyped-decorator]
def sweep() -> None:
    """There is one worker: what still claims to run when it starts was cut off. What is stale by
    then, after an update or a stop between two steps, is worked out anew."""
    from server.analysis.cache import renew_stale

    mark_interrupted(everything=True)
    look_after()
    renew_stale()


def look_after() -> None:
    """What was left behind, when the queue or the disk failed for a while, is taken up again."""
    from server.logbook.tasks import ask_again, fold_all

    queue_lost()
    fold_all()
    ask_again()


@db_periodic_task(crontab())  # type: ignore[untyped-decorator]
def each_minute() -> None:
    """Looks after it by itself."""
    look_after()
