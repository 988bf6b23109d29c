"""A call in a process of its own: what it answers and raises comes back, what takes too much is ended."""

from __future__ import annotations

import os
import time
from unittest import TestCase

from giusto.errors import GiustoError
from giusto.limited import limited


def double(value: int) -> int:
    """Return twice a value, and print beside it."""
    print("this is no answer")
    return 2 * value


def refuse() -> None:
    """Refuse."""
    raise GiustoError("no such thing", code="thing")


def spin() -> None:
    """Work for ever."""
    while True:
        pass


def swell() -> int:
    """Take two thousand megabytes."""
    return len(bytearray(2_000_000_000))


def die() -> None:
    """End at once."""
    os._exit(3)


class LimitedTests(TestCase):
    def test_answers_and_refusals_come_back(self) -> None:
        self.assertEqual(limited(double, 21, seconds=10, megabytes=500), 42)
        with self.assertRaisesRegex(GiustoError, "no such thing") as caught:
            limited(refuse, seconds=10, megabytes=500)
        self.assertEqual(caught.exception.code, "thing")

    def test_what_takes_too_much_is_ended(self) -> None:
        for function, seconds in ((spin, 1), (swell, 10), (die, 10)):
            with self.subTest(function.__name__):
                began = time.monotonic()
                with self.assertRaisesRegex(GiustoError, "longer than|more than") as caught:
                    limited(function, seconds=seconds, megabytes=500)
                self.assertEqual(caught.exception.code, "limit")
                self.assertLess(time.monotonic() - began, 40)
