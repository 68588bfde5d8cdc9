"""What the worker does for live readings: folding them in, and their figures now and then."""

import time

from huey.contrib.djhuey import db_task

from server.analysis.keep import find, renew
from server.analysis.models import Kept
from server.logbook.live import fold
from server.logbook.models import Logger
from server.work.models import Job

SOON = 3  # from the first waiting batch to folding [s]
FIGURES = 600  # between two workings-out of a live system's figures [s]


def fold_soon(logger: int) -> None:
    """Asks for a logger's batches to be folded in."""
    fold_logger.schedule((logger,), delay=SOON)


@db_task()  # type: ignore[untyped-decorator]
def fold_logger(pk: int) -> None:
    """Folds, and sees to it that the figures follow."""
    logger = Logger.objects.filter(pk=pk).select_related("system").first()
    if logger is None or not fold(logger) or logger.figures_asked:
        return
    last = Job.objects.filter(system=logger.system, kind="figures").first()
    kept = Kept.objects.filter(system=logger.system).exists()
    since = time.time() - last.created.timestamp() if last else FIGURES
    wait = max(0.0, FIGURES - since) if kept else 0.0
    Logger.objects.filter(pk=pk).update(figures_asked=True)
    work_out.schedule((pk,), delay=wait)


@db_task()  # type: ignore[untyped-decorator]
def work_out(pk: int) -> None:
    """Queues the figures of a logger's system where they are stale."""
    logger = Logger.objects.filter(pk=pk).select_related("system").first()
    if logger is None:
        return
    Logger.objects.filter(pk=pk).update(figures_asked=False)
    kept = Kept.objects.filter(system=logger.system).exists()
    if not kept or find(logger.system).stale:
        renew(logger.system)


def fold_waiting() -> None:
    """Folds what waited while no worker ran."""
    for pk in Logger.objects.filter(batches__folded=False).distinct().values_list("pk", flat=True):
        Logger.objects.filter(pk=pk).update(fold_asked=True, figures_asked=False)
        fold_logger(pk)
