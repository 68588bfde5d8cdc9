"""The test runner, ending with one line that counts, and the browser that the tests drive."""

import os
import tempfile
import unittest
from typing import Any

from django.db import connection
from django.db.models.signals import post_migrate
from django.test.runner import DiscoverRunner

CHROMIUM = os.environ.get("EMBER_CHROMIUM", "/usr/bin/chromium")
CHROMIUM_ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


class CountingRunner(DiscoverRunner):
    """Prints 'N passed, N failed' at the end, and 'N skipped' where there are any. What tests leave
    in temporary folders, in this process and those it starts, goes with it."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        """As Django does, with a temporary folder of its own."""
        super().setup_test_environment(**kwargs)
        self.folder = tempfile.TemporaryDirectory(prefix="ember-tests-", ignore_cleanup_errors=True)
        self.outside = os.environ.get("TMPDIR")
        os.environ["TMPDIR"] = tempfile.tempdir = self.folder.name

    def teardown_test_environment(self, **kwargs: Any) -> None:
        """As Django does; the folder is gone."""
        super().teardown_test_environment(**kwargs)
        tempfile.tempdir = None
        os.environ.pop("TMPDIR")
        if self.outside is not None:
            os.environ["TMPDIR"] = self.outside
        self.folder.cleanup()

    def setup_databases(self, **kwargs: Any) -> Any:
        """The databases; each is whole in its file before the parallel processes copy it."""
        post_migrate.connect(_checkpoint)
        made = super().setup_databases(**kwargs)
        post_migrate.disconnect(_checkpoint)
        return made

    def suite_result(self, suite: Any, result: unittest.TestResult, **kwargs: Any) -> int:
        """Number of failed tests, after the counting line."""
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        passed = result.testsRun - failed - skipped
        tail = f", {skipped} skipped" if skipped else ""
        print(f"{passed} passed, {failed} failed{tail}")
        if not result.testsRun:
            print("No test was found; that counts as a failure.")
            return 1
        return failed


def _checkpoint(**kwargs: Any) -> None:
    """Writes SQLite's log of changes into the file itself."""
    with connection.cursor() as cursor:
        cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
