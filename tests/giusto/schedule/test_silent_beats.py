"""Which beats sound, by hand."""

from random import Random
from typing import Any
from unittest import TestCase

from giusto.drill import validate
from giusto.schedule.silent_beats import sounding_beats
from tests.drills import fixed, plain


def cycles(**changes: Any) -> str:
    """Return a mark a cycle: x where all of it sounds, - where none of it does."""
    beats = sounding_beats(validate(plain(**changes)))
    assert all(row.all() or not row.any() for row in beats)
    return "".join("x" if row.all() else "-" for row in beats)


class SilentBeatTests(TestCase):
    def test_fixed_growing_and_each_so_many(self) -> None:
        self.assertEqual(cycles(silence=None, cycles=4), "xxxx")
        self.assertEqual(cycles(silence=fixed(2, 3), cycles=8), "xx---xx-")
        self.assertEqual(cycles(silence=None, every=3, cycles=7), "x--x--x")
        self.assertEqual(cycles(silence=fixed(3, 1), every=2, cycles=8), "x-x-x-x-")  # both must let it
        growing = {"kind": "growing", "heard": 1, "silent": 1, "step": 2, "max": 4}
        self.assertEqual(cycles(silence=growing, cycles=16), "x-x---x----x----")

    def test_chance_as_the_file_defines_it(self) -> None:
        """docs/formats.md: a number a cycle after the first, silent below the probability, no longer than said."""
        silence = {"kind": "random", "unit": "cycle", "probability": 0.6, "longest": 2, "seed": 7}
        draw, marks = Random(7).random, "x"
        for _ in range(31):
            marks += "-" if draw() < 0.6 and not marks.endswith("--") else "x"
        self.assertEqual(cycles(silence=silence, cycles=32), marks)
        self.assertIn("--", marks)

    def test_beats_by_chance_leave_the_first_cycle_whole(self) -> None:
        silence = {"kind": "random", "unit": "beat", "probability": 0.9, "longest": 3, "seed": 3}
        beats = sounding_beats(validate(plain(silence=silence, cycles=8)))
        self.assertTrue(beats[0].all())
        runs = "".join("x" if one else "-" for one in beats.ravel().tolist()).split("x")
        self.assertEqual(max(map(len, runs)), 3)
