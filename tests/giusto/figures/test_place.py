"""What is left of the error a player came back with, by hand."""

from types import SimpleNamespace
from typing import Any
from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose

from giusto.figures.place import recovery


class Line(SimpleNamespace):
    """The fields of a timeline that are looked at: one step fewer than moments."""

    def __len__(self) -> int:
        return len(self.silence) + 1


def left(*, ends: list[int], silence: list[int], clock_ms: list[float], alpha: float = 0.5) -> np.ndarray:
    """Return what is left at each moment, a click at each step outside of silences."""
    steps = np.array(silence)
    line: Any = Line(end=np.array(ends), silence=steps, clicks=(steps < 0).astype(np.int64))
    track: Any = SimpleNamespace(clock_ms=np.array(clock_ms), sizes=SimpleNamespace(alpha=alpha))
    return recovery(track, line)


class RecoveryTests(TestCase):
    def test_each_click_takes_back_its_share_from_the_moment_after_the_return(self) -> None:
        """Back at moment 3; at moment 4 the clock is 40 ms late, and each click halves what is left."""
        found = left(ends=[3], silence=[-1, 0, 0, -1, -1, -1, -1], clock_ms=[0, 5, 30, 60, 40, 30, 3, 7])
        assert_allclose(found, [0, 0, 0, 0, 40, 20, 10, 5])

    def test_a_later_return_takes_the_place_of_an_earlier_one(self) -> None:
        found = left(ends=[2, 5], silence=[0, 0, -1, 1, 1, -1, -1], clock_ms=[0, 0, 0, 16, 0, 0, -8, 0], alpha=0.75)
        assert_allclose(found[[3, 6, 7]], [16, -8, -2])

    def test_a_return_just_before_the_last_note_is_one(self) -> None:
        assert_allclose(left(ends=[2], silence=[0, 0, -1], clock_ms=[9, 9, 9, 12]), [0, 0, 0, 12])

    def test_a_return_into_another_silence_or_at_the_end_leaves_nothing(self) -> None:
        straight_on = left(ends=[1], silence=[0, 1, -1], clock_ms=[9, 9, 9, 9])
        assert_allclose(straight_on, 0)
        assert_allclose(left(ends=[3], silence=[-1, 0, 0], clock_ms=[9, 9, 9, 9]), 0)
