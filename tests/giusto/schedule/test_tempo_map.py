"""Ticks to seconds and back through a change of tempo, by hand."""

from fractions import Fraction
from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose

from giusto.schedule.tempo_map import TempoMap

# Two beats of 4 ticks at 60, then 120 for good: 8 ticks of a quarter second, then of an eighth.
MAP = TempoMap(
    tick=np.array([0, 8]),
    bpm=(Fraction(60), Fraction(120)),
    start_s=np.array([0.0, 2.0]),
    tick_s=np.array([[1.0, 4.0], [1.0, 8.0]]),
    ticks_per_beat=4,
)


class TempoMapTests(TestCase):
    def test_by_hand(self) -> None:
        assert_allclose(MAP.seconds(np.array([0, 4, 7, 8, 9, 16])), [0, 1, 1.75, 2, 2.125, 3])
        assert_allclose(MAP.beat_s(np.array([0, 7, 8])), [1, 1, 0.5])  # a change counts from its own tick on

    def test_the_first_and_last_tempo_go_on_beyond_the_ends(self) -> None:
        assert_allclose(MAP.seconds(np.array([-4, 80])), [-1, 11])
        assert_allclose(MAP.ticks(np.array([-1.0, 11.0])), [-4, 80])

    def test_there_and_back(self) -> None:
        ticks = np.arange(-20, 60)
        assert_allclose(MAP.ticks(MAP.seconds(ticks)), ticks, atol=1e-9)
        assert_allclose(MAP.ticks(2.0), 8)
