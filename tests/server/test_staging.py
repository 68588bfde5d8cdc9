"""A file that was read when the worker died is not read again, and never stored half."""

from unittest import mock

import numpy as np
from django.test import TransactionTestCase

from ember.basis.errors import IntakeError
from server.jobs.running import Cancelled
from server.readings import staging
from server.readings.models import Block, Import, Journal, Staged, StagedWeek
from server.readings.store import store, trace_of
from tests.server.helpers import log, system


class Killed(BaseException):
    """As if by kill −9: nothing is tidied up."""


class Staging(TransactionTestCase):
    def setUp(self) -> None:
        small = mock.patch.object(staging, "STAGING_SMALLEST", 1)
        small.start()
        self.addCleanup(small.stop)
        self.system = system(days=30)
        self.path = log("as-rated", 30)

    def dies_at(self, doing: str, error: type[BaseException] = Killed):
        def tell(progress: float, what: str) -> None:
            if what.startswith(doing):
                raise error

        return tell

    def nothing_stored(self) -> None:
        counts = [model.objects.count() for model in (Import, Journal, Block)]
        self.assertEqual(counts, [0, 0, 0])

    def test_it_goes_on_from_what_was_read(self) -> None:
        with self.assertRaises(Killed):
            store(self.system, self.path, self.dies_at("storing"))
        self.nothing_stored()
        self.assertEqual(Staged.objects.count(), 1)
        said: list[str] = []
        with mock.patch.object(staging, "read_pieces", side_effect=AssertionError("read again")):
            done = store(self.system, self.path, lambda _, what: said.append(what))
        self.assertIn("going on from what was read before", said)
        self.assertEqual((Staged.objects.count(), StagedWeek.objects.count()), (0, 0))
        assert done.report is not None
        other = system(days=30, name="Other")
        with mock.patch.object(staging, "STAGING_SMALLEST", 1 << 40):
            plain = store(other, self.path)
        self.assertEqual(done.report, plain.report)
        self.assertEqual(done.batch.report, plain.batch.report)
        for channel, values in trace_of(other).channels.items():
            np.testing.assert_array_equal(trace_of(self.system)[channel], values)

    def test_in_pieces_it_is_the_same_record(self) -> None:
        other = system(days=30, name="Other")
        with mock.patch.object(staging, "STAGING_SMALLEST", 1 << 40):
            plain = store(other, self.path)
        with mock.patch("ember.intake.pieces.PIECE", 300_000):
            done = store(self.system, self.path)
        self.assertEqual(done.batch.rows, plain.batch.rows)
        self.assertEqual((done.batch.start, done.batch.stop), (plain.batch.start, plain.batch.stop))
        for channel, values in trace_of(other).channels.items():
            np.testing.assert_array_equal(trace_of(self.system)[channel], values)

    def test_one_that_died_while_staging_is_read_again(self) -> None:
        pieces = mock.patch("ember.intake.pieces.PIECE", 300_000)
        with pieces, self.assertRaises(Killed):
            store(self.system, self.path, self.dies_at("read up to"))
        self.assertGreater(StagedWeek.objects.count(), 0)
        self.nothing_stored()
        store(self.system, self.path)
        self.assertEqual((Import.objects.count(), Staged.objects.count()), (1, 0))

    def test_another_description_reads_again(self) -> None:
        with self.assertRaises(Killed):
            store(self.system, self.path, self.dies_at("storing"))
        from dataclasses import replace

        described = replace(self.system.installation, time_column="time")
        with mock.patch.object(staging, "read_pieces", wraps=staging.read_pieces) as reading:
            store(self.system, self.path, installation=described)
        reading.assert_called_once()
        self.assertEqual(Staged.objects.count(), 0)

    def test_cancelled_and_refused_ones_leave_nothing(self) -> None:
        with self.assertRaises(Cancelled):
            store(self.system, self.path, self.dies_at("storing", Cancelled))
        with self.assertRaises(IntakeError):
            store(self.system, self.path, self.dies_at("read up to", IntakeError))
        self.nothing_stored()
        self.assertEqual((Staged.objects.count(), StagedWeek.objects.count()), (0, 0))
