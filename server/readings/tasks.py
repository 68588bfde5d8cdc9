"""What the worker does for live readings: folding them in."""

import logging

from django.db import DatabaseError
from django.dispatch import Signal
from huey.contrib.djhuey import db_task

from ember.basis.errors import EmberError
from server.readings.folding import fold
from server.readings.models import Logger

log = logging.getLogger(__name__)
TASKS_SOON = 3  # from the first waiting batch to folding [s]
folded = Signal()  # with `logger`: readings of it were laid into the record


def fold_soon() -> None:
    """Asks for what waits to be folded in."""
    fold_loggers.schedule((), delay=TASKS_SOON)


@db_task()  # type: ignore[untyped-decorator]
def fold_loggers() -> None:
    """As `fold_all`, in the worker."""
    fold_all()


def fold_all() -> None:
    """Folds what waits, and says so to who works figures out."""
    waiting = Logger.objects.filter(batches__folded=False).distinct().select_related("system")
    for logger in waiting:
        try:
            if fold(logger):
                folded.send(Logger, logger=logger)
        except (EmberError, DatabaseError, OSError):  # a full disk: in a minute it is tried again
            log.exception("what '%s' sent could not be folded in; it waits", logger.name)
