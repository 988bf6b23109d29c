"""Django's runner of tests: begins with what is long, ends what tests shared, and lists what took longest."""

from __future__ import annotations

from collections import Counter
from time import perf_counter
from typing import Any
from unittest import TestCase, TestSuite, TextTestResult

from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner

from tests.ending import end_all

MOST = 25  # of each that are listed
LEAST_S = 1.0  # what is quicker is not
LONG = ("tests.browser", "tests.launch", "tests.studio.test_upgrade", "tests.studio.plans.test_fortnight")


class FarResult(RemoteTestResult):
    """What a process of its own saw, with the seconds that each test took."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.began = self.ended = perf_counter()

    def startTest(self, test: TestCase) -> None:
        """Note when it began."""
        super().startTest(test)
        self.began = perf_counter()

    def stopTest(self, test: TestCase) -> None:
        """Tell how long it took, and how long passed since the test before: its class's set-up."""
        now = perf_counter()
        self.events.append(("took", self.test_index, now - self.began, now - self.ended))
        self.ended = now
        super().stopTest(test)


class FarRunner(RemoteTestRunner):
    """Runs in a process of its own."""

    resultclass = FarResult


class Parallel(ParallelTestSuite):
    """Tests that run in processes of their own."""

    runner_class = FarRunner

    def __init__(self, subsuites: list[TestSuite], *args: Any, **kwargs: Any) -> None:
        """Begin with what takes long, so that no process is left with it at the end."""
        super().__init__(sorted(subsuites, key=_order), *args, **kwargs)


def _order(suite: TestSuite) -> bool:
    """Return whether a class of tests may wait: those with a browser, or a database server of their own, are long."""
    (first, *_) = suite
    return not type(first).__module__.startswith(LONG)


class Result(TextTestResult):
    """The result that is shown."""

    tests: Counter[str]
    classes: Counter[str]

    def took(self, test: TestCase, seconds: float, with_set_up: float) -> None:
        """Count what a test took."""
        self.tests[test.id()] += seconds
        self.classes[test.id().rpartition(".")[0]] += with_set_up

    def startTestRun(self) -> None:
        """Begin to count."""
        super().startTestRun()
        self.tests, self.classes = Counter(), Counter()

    def stopTestRun(self) -> None:
        """List what took longest."""
        super().stopTestRun()
        for name, took in (("tests", self.tests), ("classes with their set-up", self.classes)):
            slow = [(what, seconds) for what, seconds in took.most_common(MOST) if seconds >= LEAST_S]
            if slow:
                self.stream.writeln(f"\nSlowest {name}, of {sum(took.values()):.0f} s in all:")
            for what, seconds in slow:
                self.stream.writeln(f"{seconds:8.1f} s  {what}")


class Runner(DiscoverRunner):
    """Django's, with all that."""

    parallel_test_suite = Parallel

    def get_resultclass(self) -> type[TextTestResult] | None:
        """Return the result that lists."""
        return super().get_resultclass() or Result

    def teardown_databases(self, *args: Any, **kwargs: Any) -> None:
        """Drop the databases, once nobody uses them any more."""
        end_all()
        super().teardown_databases(*args, **kwargs)
