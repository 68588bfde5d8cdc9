"""Figures of systems with loggers: asked for when readings were folded in, now and then."""

import time

from django.dispatch import receiver
from huey.contrib.djhuey import HUEY, db_task

from server.assessments.cache import find, renew
from server.assessments.models import CachedResults
from server.jobs.models import Job
from server.readings.models import Logger
from server.readings.tasks import folded
from server.systems.models import System

TASKS_FIGURES = 600  # between two workings-out of a live system's figures [s]


@receiver(folded)
def after_folding(logger: Logger, **_: object) -> None:
    """Sees to it that the figures follow."""
    if not logger.figures_asked:
        _ask_for_figures(logger)


def _ask_for_figures(logger: Logger) -> None:
    last = Job.objects.filter(system=logger.system, kind="figures").first()
    kept = CachedResults.objects.filter(system=logger.system).exists()
    since = time.time() - last.created.timestamp() if last else TASKS_FIGURES
    wait = max(0.0, TASKS_FIGURES - since) if kept else 0.0
    Logger.objects.filter(system=logger.system).update(figures_asked=True)
    work_out.schedule((logger.system_id,), delay=wait)


@db_task()  # type: ignore[untyped-decorator]
def work_out(system: int) -> None:
    """Queues the figures of a system with loggers where they are stale."""
    found = System.objects.filter(pk=system).first()
    if found is None:
        return
    Logger.objects.filter(system=found).update(figures_asked=False)
    kept = CachedResults.objects.filter(system=found).exists()
    if not kept or find(found).stale:
        renew(found)


def ask_again() -> None:
    """Asks again for figures that were asked for and that the queue no longer holds."""
    kind = work_out.task_class.__name__
    held = [*HUEY.scheduled(), *HUEY.pending()]
    systems = {one.args[0] for one in held if type(one).__name__ == kind}
    for logger in Logger.objects.filter(figures_asked=True).exclude(system__in=systems):
        _ask_for_figures(logger)
