"""The one task of the queue."""

from django_tasks import task
from huey.contrib.djhuey import HUEY

from server.jobs.running import perform


@task()
def perform_job(pk: int) -> None:
    """Does a job by its key."""
    perform(pk)


def queued() -> set[int]:
    """Keys of the jobs that are in the queue."""
    run = perform_job.module_path
    return {one.args[1][0] for one in HUEY.pending() if one.args and one.args[0] == run}
