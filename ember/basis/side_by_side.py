"""Works that do not need each other, on all cores: NumPy computes without Python's lock."""

import os
from collections.abc import Callable, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from functools import cache
from typing import TypeVar

Key = TypeVar("Key")
One = TypeVar("One")
Other = TypeVar("Other")


@cache
def _pool() -> ThreadPoolExecutor:
    """Threads beside that of who asks."""
    return ThreadPoolExecutor(max(1, (os.cpu_count() or 1) - 1), "side-by-side")


# A process that was forked has the pool, but not its threads.
os.register_at_fork(after_in_child=_pool.cache_clear)


def side_by_side(works: Mapping[Key, Callable[[], One]]) -> dict[Key, One]:
    """What each work makes, by its key and in the order given.

    Who asks works too, on what no other thread has begun; so a work may ask for works of its own.
    A work must not change what another reads. An exception of the first that has one is raised.
    """
    if len(works) < 2:
        return {key: work() for key, work in works.items()}
    begun: dict[Key, Future[One]] = {key: _pool().submit(work) for key, work in works.items()}
    made: dict[Key, One] = {}
    try:
        for key, work in works.items():
            if begun[key].cancel():
                made[key] = work()
        return {key: made[key] if key in made else begun[key].result() for key in works}
    finally:
        for future in begun.values():
            future.cancel()


def two(one: Callable[[], One], other: Callable[[], Other]) -> tuple[One, Other]:
    """The same of two works that make different things."""
    works: dict[bool, Callable[[], One | Other]] = {True: one, False: other}
    found = side_by_side(works)
    return found[True], found[False]  # type: ignore[return-value]
