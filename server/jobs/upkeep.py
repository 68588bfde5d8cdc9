"""What the worker looks after when it starts and each minute.

Other rooms add what they look after: `at_start` and `each_minute` name it.
"""

from collections.abc import Callable

from huey import crontab
from huey.contrib.djhuey import db_periodic_task, on_startup

from server.jobs.queueing import queue_lost
from server.jobs.running import mark_interrupted

Look = Callable[[], object]
AT_START: list[Look] = []
EACH_MINUTE: list[Look] = []


def at_start(look: Look) -> Look:
    """Has something looked after when the worker starts."""
    AT_START.append(look)
    return look


def each_minute(look: Look) -> Look:
    """Has something looked after when the worker starts, and each minute."""
    EACH_MINUTE.append(look)
    return look


@on_startup()  # type: ignore[untyped-decorator]
def sweep() -> None:
    """There is one worker: what still claims to run when it starts was cut off. What is stale by
    then, after an update or a stop between two steps, is worked out anew."""
    mark_interrupted(everything=True)
    look_after()
    for look in AT_START:
        look()


def look_after() -> None:
    """What was left behind, when the queue or the disk failed for a while, is taken up again."""
    queue_lost()
    for look in EACH_MINUTE:
        look()


@db_periodic_task(crontab())  # type: ignore[untyped-decorator]
def minute() -> None:
    """Looks after it by itself."""
    look_after()
