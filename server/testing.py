"""Django's test runner, ending with one line that counts."""

import unittest
from typing import Any

from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Prints 'N passed, N failed' at the end, and 'N skipped' where there are any."""

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
