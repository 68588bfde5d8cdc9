"""What the worker does for live readings: folding them in, and their figures now and then."""

import logging
import time

from django.db import DatabaseError
from huey.contrib.djhuey import HUEY, db_task

from ember.basis.errors import EmberError
from server.analysis.cache import find, renew
from server.analysis.models import CachedResults
from server.installations.models import System
from server.logbook.live import fold
from server.logbook.models import Logger
from server.work.models import Job

log = logging.getLogger(__name__)
TASKS_SOON = 3  # from the first waiting batch to folding [s]
TASKS_FIGURES = 600  # between two workings-out of a live system's figures [s]


def fold_soon() -> None:
    """Asks for what waits to be folded in."""
    fold_loggers.schedule((), delay=TASKS_SOON)


@db_task()  # type: ignore[untyped-decorator]
def fold_loggers() -> None:
    """As `fold_all`, in the worker."""
    fold_all()


def fold_all() -> None:
    """Folds what waits, and sees to it that the figures follow."""
    waiting = Logger.objects.filter(batches__folded=False).distinct().select_related("system")
    for logger in waiting:
        try:
            if fold(logger) and not logger.figures_asked:
                _ask_for_figures(logger)
        except (EmberError, DatabaseError, OSError):  # a full disk: in a minute it is tried again
            log.exception("what '%s' sent could not be folded in; it waits", logger.name)


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
