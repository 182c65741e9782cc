"""Django's test runner with a closing line that states the counts."""

from typing import Any

from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Runs the tests and prints ``tests: N passed, N failed``."""

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> int:
        """Number of failures and errors, after printing the counts."""
        failed = int(super().suite_result(suite, result, **kwargs))
        skipped = len(result.skipped)
        print(f"tests: {result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped")
        return failed
