"""What happens between two steps of another process: nothing wrong is shown, nothing is lost."""

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.db import connection
from django.test import SimpleTestCase, TestCase
from huey.contrib.djhuey import HUEY
from huey.storage import MemoryStorage

from ember.balance.sums import figures
from ember.basis.periods import Period
from ember.description.installation import Factor
from server.api.figures import cut_to
from server.assessments.cache import (
    _analyses,
    _operations,
    cache_results,
    find,
    operation_of,
    renew,
    steady,
)
from server.assessments.models import CachedResults
from server.jobs.models import Job
from server.jobs.queueing import go_on, queue_lost, start
from server.jobs.running import HANDLERS, perform
from server.jobs.tasks import queued
from server.jobs.upkeep import look_after
from server.readings.models import Batch, Logger
from server.readings.store import store
from server.readings.tasks import fold_all
from server.systems.models import System
from tests.server.helpers import log, signed_in, system


@contextmanager
def after_reading(table: str, then: Callable[[], object], nth: int = 1) -> Iterator[None]:
    """Does something right behind the nth reading of a table, as another process might."""
    count = 0

    def wrapper(execute: Any, sql: str, *rest: Any) -> Any:
        nonlocal count
        result = execute(sql, *rest)
        if sql.startswith("SELECT") and f'FROM "{table}"' in sql:
            count += 1
            if count == nth:
                then()
        return result

    with connection.execute_wrapper(wrapper):
        yield


class KeptResults(TestCase):
    """Kept results are saved anew by the worker while the web server reads them."""

    def setUp(self) -> None:
        self.system = system()
        store(self.system, log())
        self.plain = self.cached()
        doubled = Factor("power:unit", 0.8, "a test")
        self.described = self.system.installation
        self.system.put(replace(self.described, corrections=(doubled,)), None)
        self.corrected = self.cached()
        self.cop = {
            "plain": self.cop_of(self.plain),
            "half": self.cop_of(self.corrected),
        }
        self.forget()

    def cached(self) -> dict[str, Any]:
        cache_results(self.system)
        return dict(CachedResults.objects.values().get())

    def cop_of(self, row: dict[str, Any]) -> float:
        CachedResults.objects.update(**row)
        self.forget()
        return self.shown()

    def shown(self) -> float:
        self.system.refresh_from_db()
        analysis = find(self.system).analysis
        whole = Period("whole", analysis.start, analysis.stop)
        return figures(analysis, [whole])[0].reckonings[-1].cop.value

    def forget(self) -> None:
        _analyses.held.clear()
        _operations.held.clear()

    def test_a_survey_is_never_taken_for_that_of_another_description(self) -> None:
        self.assertNotAlmostEqual(self.cop["plain"] / self.cop["half"], 1.0, places=1)
        self.system.put(self.described, None)
        CachedResults.objects.update(**self.plain)
        with after_reading(
            "analysis_cachedresults", lambda: CachedResults.objects.update(**self.corrected)
        ):
            meanwhile = find(self.system)
        self.assertTrue(meanwhile.stale)
        CachedResults.objects.update(**self.plain)  # the correction is withdrawn
        found = find(self.system)
        self.assertFalse(found.stale)
        self.assertEqual(self.shown(), self.cop["plain"])

    def test_events_are_those_of_the_survey_or_none(self) -> None:
        CachedResults.objects.update(**self.corrected)
        for nth in (1, 2, 3, 4):
            CachedResults.objects.update(**self.plain)
            self.forget()
            with after_reading(
                "analysis_cachedresults",
                lambda: CachedResults.objects.update(**self.corrected),
                nth,
            ):
                found, _ = steady(self.system, lambda f: (f, operation_of(self.system, f)))
            now = CachedResults.objects.values_list("made_from", flat=True).get()
            self.assertIn(found.made_from, (self.plain["made_from"], now))
            if nth < 3:  # it was seen before the events were read
                self.assertEqual(found.made_from, now)

    def test_a_cut_whose_readings_change_meanwhile_is_made_again(self) -> None:
        CachedResults.objects.update(**self.corrected)
        self.system.refresh_from_db()
        changed = patch.object(System, "readings_changed", System.readings_changed)
        with changed, after_reading("logbook_block", self.system.readings_changed):
            cut = cut_to(self.system, "2025-10-05T05:17", "2025-10-05T07:41")
        self.assertTrue(cut.stale)

    def test_a_change_while_figures_are_worked_out_is_worked_out_behind_them(self) -> None:
        running = renew(self.system)
        assert running is not None
        Job.objects.filter(pk=running.pk).update(state=Job.State.RUNNING)
        behind = renew(self.system)
        assert behind is not None
        self.assertNotEqual(behind.pk, running.pk)
        self.assertEqual(renew(self.system), behind)


class LostFromTheQueue(TestCase):
    """The queue lies in a file of its own, and may lose what the database knows."""

    def setUp(self) -> None:
        self.enterContext(patch.object(HUEY, "storage", MemoryStorage("test")))
        with self.captureOnCommitCallbacks(execute=True):
            self.job = start("figures", "Working out", system(), None)
        self.assertEqual(queued(), {self.job.pk})

    def test_what_waits_and_is_queued_is_left_alone(self) -> None:
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(queue_lost(), 0)
        self.assertEqual(len(HUEY.pending()), 1)

    def test_what_waits_and_is_lost_is_queued_again_by_itself(self) -> None:
        HUEY.storage.flush_queue()  # the worker died as it took it, or the file is another
        with self.captureOnCommitCallbacks(execute=True):
            look_after()
        self.assertEqual(queued(), {self.job.pk})

    def test_going_on_works_for_it_too(self) -> None:
        HUEY.storage.flush_queue()
        client = signed_in()
        with self.captureOnCommitCallbacks(execute=True):
            answer = client.post(f"/api/v1/jobs/{self.job.pk}/go-on")
        self.assertEqual((answer.status_code, answer.json()["state"]), (200, "waiting"))
        self.assertEqual(queued(), {self.job.pk})

    def test_asking_for_figures_brings_a_lost_job_back(self) -> None:
        HUEY.storage.flush_queue()
        assert self.job.system is not None
        CachedResults.objects.create(
            system=self.job.system, made_from="", row="{}", days="[]", analysis=b"", overview=b""
        )
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(renew(self.job.system), self.job)
        self.assertEqual(queued(), {self.job.pk})

    def test_one_that_is_queued_twice_is_done_once(self) -> None:
        done = []
        with patch.dict(HANDLERS, figures=lambda job, tell: done.append(job.pk) or {}):
            go_on(self.job)
            perform(self.job.pk)
            perform(self.job.pk)
        self.assertEqual(done, [self.job.pk])

    def test_a_queue_that_fails_does_not_fail_what_was_stored(self) -> None:
        with (
            patch.object(HUEY, "enqueue", side_effect=OSError(28, "No space left on device")),
            self.assertLogs("django.test", "ERROR"),
            self.captureOnCommitCallbacks(execute=True),
        ):
            job = start("figures", "Again", self.job.system, None)
        with self.captureOnCommitCallbacks(execute=True):
            look_after()
        self.assertEqual(queued(), {self.job.pk, job.pk})


class FoldsThatFailed(TestCase):
    """One logger whose readings cannot be folded does not hold up the others."""

    def test_they_are_tried_again(self) -> None:
        mine = system()
        loggers = [Logger.objects.create(system=mine, name=n, token=n) for n in ("one", "two")]
        for logger in loggers:
            Batch.objects.create(
                logger=logger,
                key="1",
                digest="",
                received=1.77e9,
                first=1_770_000_000,
                last=1_770_000_000,
                count=1,
                payload=b'[[1770000000,"flow_temp",35.0]]',
            )
        full = OSError(28, "No space left on device")
        with (
            patch("server.readings.tasks.fold", side_effect=full),
            self.assertLogs("server.readings.tasks", "ERROR") as said,
        ):
            fold_all()
        self.assertEqual(len(said.records), 2)
        self.assertEqual(Batch.objects.filter(folded=False).count(), 2)
        with patch("server.background.live_figures._ask_for_figures"):
            fold_all()
        self.assertFalse(Batch.objects.filter(folded=False).exists())


class OneOfEach(SimpleTestCase):
    """A second worker or server on the same data is refused with a sentence."""

    def start(self, *command: str, **more: str) -> subprocess.Popen[str]:
        return subprocess.Popen(
            [sys.executable, "manage.py", *command],
            cwd=settings.BASE_DIR,
            text=True,
            env={**os.environ, "EMBER_VAR": str(self.var), **more},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
        )

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.var = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        subprocess.run(
            [sys.executable, "manage.py", "migrate", "-v0"],
            cwd=settings.BASE_DIR,
            check=True,
            env={**os.environ, "EMBER_VAR": str(cls.var)},
        )

    def test_a_second_worker(self) -> None:
        first = self.start("run_huey", "--quiet")
        try:
            until = time.monotonic() + 30
            while not (self.var / "worker.lock").exists() and time.monotonic() < until:
                time.sleep(0.05)
            second = self.start("run_huey", "--quiet")
            _, said = second.communicate(timeout=30)
            self.assertEqual(second.returncode, 2)
            self.assertIn("Another worker works on", said)
            self.assertNotIn("Traceback", said)
        finally:
            first.kill()
            first.communicate()
        third = self.start("run_huey", "--quiet")  # what was killed holds nothing
        try:
            with self.assertRaises(subprocess.TimeoutExpired):
                third.communicate(timeout=3)
        finally:
            third.kill()
            third.communicate()

    def test_a_second_server_and_what_ends_by_itself(self) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        serving = (
            f"import django; django.setup(); from server.jobs.serving import serve; "
            f"serve({port}, demo=False)"
        )
        first = self.start(
            "shell", "-c", serving, DJANGO_SETTINGS_MODULE="server.settings.production"
        )
        try:
            self.wait(lambda: self.answers(port))
            second = self.start("shell", "-c", serving)
            _, said = second.communicate(timeout=30)
            self.assertIn("Another server works on", said)
            worker = self.wait(lambda: self.child(first.pid, "run_huey"))
            os.kill(worker, signal.SIGKILL)
            self.wait(lambda: self.child(first.pid, "run_huey") not in (None, worker))
            self.assertTrue(self.answers(port))
        finally:
            first.kill()  # −9: what it watched over ends with it, and lets go of the port
            first.communicate()
        self.wait(lambda: not self.answers(port))

    def answers(self, port: int) -> bool:
        with socket.socket() as probe:
            return probe.connect_ex(("127.0.0.1", port)) == 0

    def child(self, parent: int, what: str) -> int | None:
        """A process under another, by a word of its command line."""
        for path in Path("/proc").glob("[0-9]*"):
            try:
                below = f"PPid:\t{parent}\n" in (path / "status").read_text()
                if below and what in (path / "cmdline").read_text():
                    return int(path.name)
            except OSError:  # it ended just now
                continue
        return None

    def wait(self, done: Callable[[], Any], seconds: float = 40.0) -> Any:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            if found := done():
                return found
            time.sleep(0.1)
        raise AssertionError(f"waited {seconds} s in vain")
