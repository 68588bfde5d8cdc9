"""One worker and one server on a folder of data: a second one is refused, and none is left over."""

import ctypes
import fcntl
import os
import signal
from collections.abc import Iterator
from contextlib import contextmanager

from django.conf import settings

from server.jobs.problem import CommandProblem


@contextmanager
def alone(what: str) -> Iterator[None]:
    """Holds the data folder for one kind of process. Raises Problem where another holds it.

    The system lets go of it when the process ends, however it ends.
    """
    path = settings.VAR / f"{what}.lock"
    with path.open("a") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            raise CommandProblem(
                f"Another {what} works on {settings.VAR} already. Stop it first, or give this one "
                "a folder of its own with EMBER_VAR."
            ) from error
        yield


SET_DEATH_SIGNAL = 1  # PR_SET_PDEATHSIG, prctl(2)


def ends_with(parent: int, how: signal.Signals) -> None:
    """Has the system end this process when its parent ends, however that ends."""
    ctypes.CDLL(None, use_errno=True).prctl(SET_DEATH_SIGNAL, how)
    if os.getppid() != parent:  # it ended before this was said
        os.kill(os.getpid(), how)
