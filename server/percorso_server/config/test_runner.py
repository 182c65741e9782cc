"""Django's test runner with quick passwords, quiet logs and a closing line that states the counts."""

import logging
from typing import Any

from django.conf import settings
from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Runs the tests and prints ``tests: N passed, N failed, N skipped``."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        """Prepare Django; slow password hashing and the log of refused requests prove nothing in a test."""
        super().setup_test_environment(**kwargs)
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
        logging.disable(logging.WARNING)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> int:
        """Number of failures and errors, after printing the counts."""
        problems = int(super().suite_result(suite, result, **kwargs))
        failed = len({_test_of(each) for each, _ in (*result.failures, *result.errors)}) or problems
        skipped = len(result.skipped)
        print(f"tests: {result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped")
        return problems


def _test_of(case: Any) -> str:
    """The test that a part of it belongs to."""
    return str(getattr(case, "test_case", case))
