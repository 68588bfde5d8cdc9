"""What the worker does for live readings: folding them in, and their figures now and then."""

import time

from huey.contrib.djhuey import db_task

from server.analysis.keep import find, renew
from server.analysis.models import Kept
from server.installations.models import System
from server.logbook.live import fold
from server.logbook.models import Logger
from server.work.models import Job

SOON = 3  # from the first waiting batch to folding [s]
FIGURES = 600  # between two workings-out of a live system's figures [s]


def fold_soon() -> None:
    """Asks for what waits to be folded in."""
    fold_loggers.schedule((), delay=SOON)


@db_task()  # type: ignore[untyped-decorator]
def fold_loggers() -> None:
    """Folds what waits, and sees to it that the figures follow."""
    waiting = Logger.objects.filter(batches__folded=False).distinct().select_related("system")
    for logger in waiting:
        if fold(logger) and not logger.figures_asked:
            _ask_for_figures(logger)


def _ask_for_figures(logger: Logger) -> None:
    last = Job.objects.filter(system=logger.system, kind="figures").first()
    kept = Kept.objects.filter(system=logger.system).exists()
    since = time.time() - last.created.timestamp() if last else FIGURES
    wait = max(0.0, FIGURES - since) if kept else 0.0
    Logger.objects.filter(system=logger.system).update(figures_asked=True)
    work_out.schedule((logger.system_id,), delay=wait)


@db_task()  # type: ignore[untyped-decorator]
def work_out(system: int) -> None:
    """Queues the figures of a system with loggers where they are stale."""
    found = System.objects.filter(pk=system).first()
    if found is None:
        return
    Logger.objects.filter(system=found).update(figures_asked=False)
    kept = Kept.objects.filter(system=found).exists()
    if not kept or find(found).stale:
        renew(found)


def fold_waiting() -> None:
    """Folds what waited while no worker ran."""
    Logger.objects.update(figures_asked=False)
    fold_loggers()
