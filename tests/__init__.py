"""All tests.

Property tests draw the same examples every time, so that a check can be repeated. Set
EQUILIX_EXPLORE=1 to let them look elsewhere.
"""

import faulthandler
import os
import unittest

from hypothesis import settings

settings.register_profile("repeatable", derandomize=True)
settings.register_profile("explore", max_examples=400)
settings.load_profile("explore" if os.environ.get("EQUILIX_EXPLORE") else "repeatable")

#: s after which a test is taken to hang: the stacks of all threads are printed, so that one knows where it waits.
HANGS = 300


def _watch(result: type[unittest.TestResult]) -> None:
    """Watch each test that is run, side by side with others or alone: unittest has no hook for it but its results."""
    start, stop = result.startTest, result.stopTest

    def start_watched(self: unittest.TestResult, test: unittest.TestCase) -> None:
        faulthandler.dump_traceback_later(HANGS)
        start(self, test)

    def stop_watched(self: unittest.TestResult, test: unittest.TestCase) -> None:
        faulthandler.cancel_dump_traceback_later()
        stop(self, test)

    result.startTest, result.stopTest = start_watched, stop_watched  # type: ignore[method-assign]


_watch(unittest.TestResult)
