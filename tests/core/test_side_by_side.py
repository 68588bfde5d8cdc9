"""Works side by side: each made once, in the order given, and what fails is said."""

import os
import select
import signal
import threading
import time
from unittest import TestCase

from ember.basis.side_by_side import side_by_side, two


class SideBySide(TestCase):
    def test_each_is_made_once_and_keeps_its_key(self) -> None:
        made: list[int] = []

        def work(k: int) -> int:
            made.append(k)
            return k * k

        found = side_by_side({k: lambda k=k: work(k) for k in range(9)})
        self.assertEqual(list(found.items()), [(k, k * k) for k in range(9)])
        self.assertEqual(sorted(made), list(range(9)))

    def test_they_really_run_at_the_same_time(self) -> None:
        """Each waits until the other has begun: one after the other they would never end."""
        meet = threading.Barrier(2, timeout=20)
        self.assertEqual(sorted(two(meet.wait, meet.wait)), [0, 1])

    def test_a_work_may_ask_for_works(self) -> None:
        """Works that only waited for works would fill the pool and never end."""

        def deep(levels: int) -> int:
            if not levels:
                return 1
            return sum(side_by_side({k: lambda: deep(levels - 1) for k in range(4)}).values())

        found = two(lambda: deep(4), lambda: deep(3))
        self.assertEqual(found, (4**4, 4**3))

    def test_what_fails_is_raised(self) -> None:
        def fails() -> int:
            raise ValueError("no")

        with self.assertRaisesRegex(ValueError, "no"):
            side_by_side({1: fails, 2: lambda: 2})
        with self.assertRaisesRegex(ValueError, "no"):
            side_by_side({1: lambda: 2, 2: fails})
        self.assertEqual(side_by_side({1: lambda: 1, 2: lambda: 2}), {1: 1, 2: 2})


class Forked(TestCase):
    def test_a_forked_process_has_threads_of_its_own(self) -> None:
        meet = threading.Barrier(2, timeout=20)
        two(meet.wait, meet.wait)  # both threads of the pool have begun
        time.sleep(0.2)  # and wait for more
        reader, writer = os.pipe()
        child = os.fork()
        if child == 0:  # no test runner in here: its answer is all that leaves
            found = side_by_side({"a": lambda: 3, "b": lambda: 4})
            os.write(writer, f"{found}".encode())
            os._exit(0)
        os.close(writer)
        try:
            self.assertTrue(select.select([reader], [], [], 10)[0], "the child waits for nobody")
            self.assertEqual(os.read(reader, 100).decode(), "{'a': 3, 'b': 4}")
        finally:
            os.close(reader)
            os.kill(child, signal.SIGKILL)
            os.waitpid(child, 0)
