"""What goes wrong around the program: a full disk, a busy store. Said the same everywhere."""

import errno
import sqlite3

from django.db import DatabaseError, OperationalError

TROUBLE_FULL = (
    "The server's disk is full; nothing was stored. Make room on it, then try again: nothing that "
    "was stored before is lost."
)
BUSY = "The store is busy; nothing was stored. Try again in some seconds."
_FULL = frozenset({errno.ENOSPC, errno.EDQUOT})


def disk_full(error: BaseException | None) -> bool:
    """Whether an error, or what it was raised from, is a full disk."""
    while error is not None:
        if isinstance(error, OSError) and error.errno in _FULL:
            return True
        if isinstance(error, DatabaseError | sqlite3.Error) and "is full" in str(error):
            return True
        error = error.__cause__ or error.__context__
    return False


def store_busy(error: BaseException | None) -> bool:
    """Whether another process held the database for too long."""
    locked = isinstance(error, OperationalError | sqlite3.OperationalError)
    return locked and "locked" in str(error)
