"""Django's test runner with one plain closing line: `N passed, N failed, N skipped`."""

import unittest
from typing import Any

from django.test.runner import DiscoverRunner


class Runner(DiscoverRunner):
    """Counts what the runner reports and says it in one line at the end."""

    def suite_result(self, suite: unittest.TestSuite, result: Any, **kwargs: Any) -> int:
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        passed = result.testsRun - failed - skipped
        print(f"\n{passed} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)
