"""Jobs: what they say while they run, when they stop, and after a worker that was killed."""

from datetime import timedelta
from pathlib import Path
from shutil import copy

from django.test import TestCase
from django.utils import timezone

from server.assessments.cache import cache_results, find, renew, renew_stale, state_of
from server.assessments.models import CachedResults
from server.jobs.models import Job
from server.jobs.queueing import go_on, start
from server.jobs.running import HANDLERS, JobError, Tell, cancel, handles, mark_interrupted, perform
from server.readings.models import Block, Import, Upload
from server.readings.store import store, undo
from server.systems.models import System
from tests.server.helpers import log, system


def upload_of(mine, source: Path) -> Upload:
    upload = Upload.objects.create(system=mine, name=source.name, size=source.stat().st_size)
    upload.path.parent.mkdir(parents=True, exist_ok=True)
    copy(source, upload.path)
    return upload


class Importing(TestCase):
    def setUp(self) -> None:
        self.system = system()
        self.upload = upload_of(self.system, log())
        self.job = start("import", "Importing", self.system, None, upload=self.upload.pk)

    def test_it_stores_works_out_and_says_so(self) -> None:
        perform(self.job.pk)
        self.job.refresh_from_db()
        self.assertEqual((self.job.state, self.job.progress), (Job.State.DONE, 1.0))
        self.assertEqual(self.job.result["rows"], 12 * 1440)
        self.assertFalse(find(System.objects.get()).stale)
        self.assertFalse(self.upload.path.exists())

    def test_the_same_file_again_says_which_import_holds_it(self) -> None:
        perform(self.job.pk)
        again = upload_of(self.system, log())
        job = start("import", "Again", self.system, None, upload=again.pk)
        perform(job.pk)
        job.refresh_from_db()
        self.assertEqual(job.result["already"], Import.objects.get().pk)

    def test_cancelled_while_it_waits(self) -> None:
        cancel(self.job)
        perform(self.job.pk)
        self.job.refresh_from_db()
        self.assertEqual(self.job.state, Job.State.CANCELLED)
        self.assertFalse(Block.objects.exists())

    def test_cancelled_while_it_runs_and_gone_on_with(self) -> None:
        self.cancel_at("storing")
        self.assertEqual(self.job.state, Job.State.CANCELLED)
        self.assertIn("nothing was stored", self.job.message)
        self.assertFalse(Block.objects.exists())
        go_on(self.job)
        perform(self.job.pk)
        self.job.refresh_from_db()
        self.assertEqual(self.job.state, Job.State.DONE)

    def cancel_at(self, step: str) -> None:
        handler = HANDLERS["import"]

        def stopping(job: Job, tell: Tell) -> dict[str, object]:
            def heard(progress: float, doing: str) -> None:
                if doing == step:
                    Job.objects.filter(pk=job.pk).update(cancel=True)
                tell(progress, doing)

            return handler(job, heard)

        HANDLERS["import"] = stopping
        try:
            perform(self.job.pk)
        finally:
            HANDLERS["import"] = handler
        self.job.refresh_from_db()

    def test_cancelled_after_the_readings_are_stored_says_that_they_are(self) -> None:
        self.cancel_at("one pass over the record")
        self.assertEqual(self.job.state, Job.State.CANCELLED)
        self.assertIn("the readings are stored", self.job.message)
        self.assertTrue(Block.objects.exists())
        go_on(self.job)
        perform(self.job.pk)
        self.assertEqual(Import.objects.count(), 1)
        self.assertFalse(find(System.objects.get()).stale)

    def test_a_file_that_is_no_log_fails_with_its_sentence(self) -> None:
        self.upload.path.write_bytes(b"\x89PNG\r\n\x1a\n" + b"\x00" * 100)
        perform(self.job.pk)
        self.job.refresh_from_db()
        self.assertEqual(self.job.state, Job.State.FAILED)
        self.assertIn("PNG picture", self.job.message)
        self.assertFalse(Import.objects.exists())

    def test_a_file_that_is_gone(self) -> None:
        self.upload.path.unlink()
        perform(self.job.pk)
        self.job.refresh_from_db()
        self.assertIn("send it again", self.job.message)


class Worker(TestCase):
    """What is left of a worker that was killed."""

    def setUp(self) -> None:
        self.job = start("import", "Importing", system(), None, upload=1)
        Job.objects.filter(pk=self.job.pk).update(
            state=Job.State.RUNNING, doing="packing week 3 of 57", heartbeat=timezone.now()
        )

    def test_one_that_is_heard_of_is_left_alone(self) -> None:
        self.assertEqual(mark_interrupted(), 0)

    def test_one_that_is_silent_is_interrupted_and_can_go_on(self) -> None:
        Job.objects.filter(pk=self.job.pk).update(heartbeat=timezone.now() - timedelta(minutes=1))
        self.assertEqual(mark_interrupted(), 1)
        self.job.refresh_from_db()
        self.assertEqual(self.job.state, Job.State.INTERRUPTED)
        self.assertIn("packing week 3 of 57", self.job.message)
        self.assertIn("nothing was stored", self.job.message)
        go_on(self.job)
        self.job.refresh_from_db()
        self.assertEqual(self.job.state, Job.State.WAITING)

    def test_its_end_is_foretold_once_it_can_be(self) -> None:
        now = timezone.now()
        for progress, seconds, left in (
            (0.0, 30, None),
            (0.2, 1, None),
            (0.25, 20, 60.0),
            (0.9, 90, 10.0),
        ):
            self.job.progress, self.job.begun = progress, now - timedelta(seconds=seconds)
            self.job.state = Job.State.RUNNING
            found = self.job.left
            if left is None:
                self.assertIsNone(found)
            else:
                self.assertAlmostEqual(found, left, delta=0.1 * left)
        self.job.state = Job.State.DONE
        self.assertIsNone(self.job.left)

    def test_what_is_over_cannot_be_cancelled_nor_gone_on_with(self) -> None:
        Job.objects.filter(pk=self.job.pk).update(state=Job.State.DONE)
        for what in (cancel, go_on):
            with self.assertRaises(JobError):
                what(self.job)

    def test_a_fault_of_the_program_is_called_one(self) -> None:
        @handles("broken")
        def broken(job: Job, tell: Tell) -> dict[str, object]:
            raise ZeroDivisionError

        job = start("broken", "Broken", None, None)
        with self.assertLogs("server.jobs.running", "ERROR"):
            perform(job.pk)
        job.refresh_from_db()
        self.assertEqual(job.state, Job.State.FAILED)
        self.assertIn("a fault of the program", job.message)


class KeptFigures(TestCase):
    """Kept figures are never stale without saying so."""

    def setUp(self) -> None:
        self.system = system()
        store(self.system, log())
        cache_results(self.system)

    def test_fresh_then_stale_by_a_change_of_the_description(self) -> None:
        self.assertFalse(find(System.objects.get()).stale)
        self.system.description = self.system.description.replace('"EUR"', '"CHF"')
        self.system.save()
        self.assertTrue(find(self.system).stale)
        self.assertEqual(renew_stale(), 1)
        waiting = Job.objects.get(kind="figures")
        self.assertEqual(renew(self.system), waiting)  # it is queued already
        perform(waiting.pk)
        self.assertFalse(find(System.objects.get()).stale)

    def test_other_readings_of_the_same_description_have_another_hash(self) -> None:
        one = state_of(self.system)
        other = system(name="other")
        store(other, log(days=3))
        other.description, other.revision = self.system.description, self.system.revision
        self.assertNotEqual(state_of(other), one)

    def test_stale_by_other_readings(self) -> None:
        undo(Import.objects.get())
        self.system.refresh_from_db()
        self.assertTrue(find(self.system).stale)
        cache_results(self.system)
        self.assertFalse(CachedResults.objects.exists())
