"""Works that do not need each other, on all cores: NumPy computes without Python's lock."""

import os
import threading
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import TypeVar

Key = TypeVar("Key")
One = TypeVar("One")
Other = TypeVar("Other")

_within = threading.local()


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max(2, os.cpu_count() or 1), "side-by-side")


# A process that was forked has the pool, but not its threads.
os.register_at_fork(after_in_child=_pool.cache_clear)


def side_by_side(works: Mapping[Key, Callable[[], One]]) -> dict[Key, One]:
    """What each work makes, by its key and in the order given; within a work, one after the other.

    A work must not change what another reads. An exception of the first that has one is raised.
    """
    if getattr(_within, "one", False) or len(works) < 2:
        return {key: work() for key, work in works.items()}

    def marked(work: Callable[[], One]) -> One:
        _within.one = True
        try:
            return work()
        finally:
            _within.one = False

    begun = {key: _pool().submit(marked, work) for key, work in works.items()}
    return {key: future.result() for key, future in begun.items()}


def two(one: Callable[[], One], other: Callable[[], Other]) -> tuple[One, Other]:
    """The same of two works that make different things."""
    works: dict[bool, Callable[[], One | Other]] = {True: one, False: other}
    found = side_by_side(works)
    return found[True], found[False]  # type: ignore[return-value]
